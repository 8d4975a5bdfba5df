"""Dilution factors as people type them: factors, ratios, volumes."""

import re
from functools import lru_cache

from dosis.core.numbers import Decimal, Meaning, parse_number
from dosis.core.units import UnitError, convert

_DILUTION = re.compile(
    r"^(?:[x×*]\s*(?P<times>[\d.,]+)|(?P<fold>[\d.,]+)\s*(?:[x×]|-?\s?fold)|1\s*[:/]\s*(?P<parts>[\d.,]+)|(?P<bare>[\d.,]+))$",
    re.IGNORECASE,
)
_VOLUMES = re.compile(
    r"^(?P<a>[\d.,]+)\s*(?P<unit>[^\d\s/:+]*)\s*(?P<how>in|to|/|:|\+)\s*(?P<b>[\d.,]+)\s*(?P<other>[^\d\s]*)$", re.I
)


@lru_cache(maxsize=4096)  # thousands of rows share a few factors
def parse_dilution(text: str, decimal: Decimal = ".") -> float | None:
    """A dilution factor as typed ("× 5", "5x", "1:5", "10-fold", "5"), or None; 1:5 means one part in five.

    Volumes serve as well: "1000/50" is 20, as are "20 µL in 400 µL" and "20 µL + 380 µL".
    """
    match = _DILUTION.match(text.strip())
    if match is None:
        return _of_volumes(text.strip(), decimal)
    number = parse_number(match["times"] or match["fold"] or match["parts"] or match["bare"], decimal)
    return number.value if number.meaning is Meaning.NUMBER and number.value and 0 < number.value <= 1e12 else None


def _of_volumes(text: str, decimal: Decimal) -> float | None:
    """Two volumes, a part and the whole it is in, or a part and what was added to it; None where it is not two."""
    match = _VOLUMES.match(text)
    if match is None:
        return None
    first, second = parse_number(match["a"], decimal).value, parse_number(match["b"], decimal).value
    if not first or not second or first < 0 or second < 0:
        return None
    unit, other = match["unit"], match["other"] or match["unit"]
    try:
        second = convert(second, other, unit) if unit and other != unit else second
    except UnitError:
        return None
    whole, part = (first + second, first) if match["how"] == "+" else (max(first, second), min(first, second))
    return float(f"{whole / part:.12g}") if whole / part <= 1e12 else None
