"""Numbers as shown: an interval to two significant digits, its value to the same place.

The full value always travels beside the text made here. Texts are kept by their numbers, and 0.0 equals −0.0, so
nothing here may tell the two apart: a zero has no sign.
"""

import math
from functools import lru_cache

MINUS = "−"
WIDE = 10.0  # the largest over the smallest of a value and its bounds from which each has digits of its own
SHORT = 1e15  # from which no decimals are left, and digits only take up space
_SUPERSCRIPTS = str.maketrans("0123456789-", "⁰¹²³⁴⁵⁶⁷⁸⁹⁻")


@lru_cache(maxsize=8192)  # a run is worked through again at every key, and most of its numbers have not changed
def significant(value: float, digits: int = 4) -> str:
    """`value` to so many significant digits, in plain notation where that stays short ("0.00123", "1.2 × 10⁻⁷")."""
    if value == 0:
        return "0"
    if not math.isfinite(value):
        return "—" if math.isnan(value) else "∞" if value > 0 else f"{MINUS}∞"
    place = decimals_for(value, digits)
    if place > 9 or abs(value) >= 1e9:
        mantissa, power = f"{value:.{digits - 1}e}".split("e")
        return _signed(mantissa) + _times_ten_to(int(power))
    return _signed(fixed(value, place))


@lru_cache(maxsize=8192)
def given(value: float) -> str:
    """A number somebody gave (a level, a dilution) as short as it was ("5", "0.25"); one that was worked out, to four
    significant digits ("0.009145" for 20/3⁷).
    """
    value += 0.0  # -0.0 + 0.0 is 0.0
    text = f"{value:.6g}"
    if float(text) != value:
        text = f"{value:.4g}"
    if "e" not in text:
        return _signed(text)
    mantissa, power = text.split("e")
    return _signed(mantissa) + _times_ten_to(int(power))


@lru_cache(maxsize=8192)
def fixed(value: float, decimals: int) -> str:
    """`value` to so many decimals; a negative count rounds to tens, hundreds …"""
    if abs(value) >= SHORT:
        return significant(value, 6)
    if decimals < 0:
        value = round(value, decimals)
    text = f"{value:.{max(decimals, 0)}f}"
    if float(text) == 0:
        text = text.lstrip("-")  # "-0.00" says a sign that is not there
    return _signed(text)


@lru_cache(maxsize=8192)
def decimals_for(spread: float, digits: int = 2) -> int:
    """How many decimals show `spread` (a half-width, a standard deviation) to so many significant digits."""
    if spread == 0 or not math.isfinite(spread):
        return 3
    return digits - 1 - int(f"{spread:.{digits - 1}e}".partition("e")[2])  # rounded first: 0.0996 is 0.10


def with_interval(value: float, lower: float | None, upper: float | None) -> tuple[str, str, str]:
    """Texts of a value and its bounds, the interval's half-width deciding the place for all three.

    Where they span more than a power of ten on one side of zero, that place would leave nothing of the smaller ones:
    each is then shown to two significant digits at least, "5.0", "0.90", "300".
    """
    if lower is not None and upper is not None:
        spread = (abs(lower - value) + abs(upper - value)) / 2
    else:
        spread = abs((value if lower is None else lower) - value) + abs((value if upper is None else upper) - value)
    place = decimals_for(spread) if spread else None
    if place is None or place > 8:
        return significant(value), _bound(lower, None), _bound(upper, None)
    known = [each for each in (value, lower, upper) if each is not None]
    if (min(known) > 0 or max(known) < 0) and max(map(abs, known)) > WIDE * min(map(abs, known)):
        return _at_least_two(value, place), _at_least_two(lower, place), _at_least_two(upper, place)
    return fixed(value, place), _bound(lower, place), _bound(upper, place)


def p_value(p: float) -> str:
    """A p-value for people: two digits, or that it is below 0.0001."""
    return "< 0.0001" if p < 1e-4 else f"{p:.2g}" if p < 0.1 else f"{p:.2f}"


def _at_least_two(value: float | None, place: int) -> str:
    if value is None:
        return "none"
    return significant(value, 2) if decimals_for(value) > place else fixed(value, place)


def _bound(value: float | None, place: int | None) -> str:
    if value is None:
        return "none"
    return significant(value) if place is None else fixed(value, place)


def _times_ten_to(power: int) -> str:
    return " × 10" + str(power).translate(_SUPERSCRIPTS)


def _signed(text: str) -> str:
    return text.replace("-", MINUS)
