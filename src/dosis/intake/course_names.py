"""What the name of a course says: its level, what it is a replicate of, and the series it belongs to."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from dosis.core.numbers import Decimal, Meaning, parse_number
from dosis.core.units import UnitError, convert, is_unit, normal_unit

_NUMBER = r"(?<![\w.,])[-+−]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?"
_LEVEL = re.compile(rf"(?P<value>{_NUMBER})\s*(?P<unit>%|°C|[A-Za-zµμ][^\s,;()]*)(?![\w/])")
_PH = re.compile(rf"\bpH\s*(?P<value>{_NUMBER})")
_AGAIN = re.compile(
    r"(?:[\s,;_(-]*(?:(?:rep(?:licate|eat|l)?s?|dup(?:licate)?|no|nr|#)\.?\s*\d+|\(\d+\))|[\s_(-]+[a-cA-C])\)?\s*$"
)
_TIMES = re.compile(r"^(ms|s|sec|min|h|d|nm)$")
LEAST = 2  # different levels from which names are taken to say them


class Named(NamedTuple):
    """level : None where the name says none. series : what else it says, of several. base : without its number."""

    level: float | None
    series: str
    base: str


class Names(NamedTuple):
    """The same of all courses, with what the level is and its unit."""

    each: tuple[Named, ...]
    quantity: str
    unit: str


def read_names(names: Sequence[str], decimal: Decimal) -> Names:
    """Levels are read where all names but those of blanks say one, in units of one kind, and they differ."""
    bases = [_AGAIN.sub("", name).strip() or name for name in names]
    found = [_level(base, decimal) for base in bases]
    told = [each for each in found if each is not None]
    plain = Names(tuple(Named(None, "", name) for name in names), "", "")
    if len({each[0] for each in told}) < LEAST or len(told) < len(names):
        return plain
    unit = told[0][1]
    try:
        levels = [_in_unit(value, own, unit) for value, own, _ in told]
    except UnitError:
        return plain
    rests = [rest for _, _, rest in told]
    several = len(set(rests)) > 1
    quantity = "pH" if unit == "pH" else "Temperature" if unit in ("°C", "K") else ""
    if not quantity:
        quantity = rests[0] if not several and rests[0] else "Concentration"
    each = tuple(
        Named(level, rest if several else "", base) for level, rest, base in zip(levels, rests, bases, strict=True)
    )
    return Names(each, quantity, "" if unit == "pH" else unit)


def _in_unit(value: float, own: str, unit: str) -> float:
    return value if own == unit else convert(value, own, unit)


def _level(name: str, decimal: Decimal) -> tuple[float, str, str] | None:
    """The last number with a unit of amount or temperature: its value, its unit, and the name without it."""
    if match := _PH.search(name):
        number = parse_number(match["value"], decimal)
        return None if number.value is None else (number.value, "pH", _without(name, match))
    for match in reversed(list(_LEVEL.finditer(name))):
        unit = normal_unit(match["unit"])
        if is_unit(unit) and not _TIMES.match(unit):
            number = parse_number(match["value"], decimal)
            if number.meaning is Meaning.NUMBER and number.value is not None:
                return number.value, unit, _without(name, match)
    return None


def _without(name: str, match: re.Match[str]) -> str:
    return re.sub(r"^[\s,;:·()=_-]+|[\s,;:·()=_-]+$", "", name[: match.start()] + name[match.end() :]).strip()
