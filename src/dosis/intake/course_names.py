"""What the name of a course says: its level, what it is a replicate of, and the series it belongs to."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from dosis.core.numbers import Decimal, Meaning, parse_number
from dosis.core.units import UnitError, convert, is_unit, normal_unit
from dosis.intake.times import UNITS

_NUMBER = r"(?<![\w.,])[-+−]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?"
_LEVEL = re.compile(rf"(?P<value>{_NUMBER})\s*(?P<unit>%|°C|[A-Za-zµμ][^\s,;()]*)(?![\w/])")
_PH = re.compile(rf"\bpH\s*(?P<value>{_NUMBER})")
_AGAIN = re.compile(
    r"(?:[\s,;_(-]*(?:(?:rep(?:licate|eat|l)?s?|dup(?:licate)?|no|nr|#)\.?\s*\d+|\(\d+\))|[\s_(-]+[a-cA-C])\)?\s*$"
)
_REPEATED = re.compile(r"[\s,;_(-]*(?:rep(?:licate|eat|l)?s?|dup(?:licate)?)\.?\s*\d+\)?\s*$", re.IGNORECASE)
_LENGTH = "nm"  # of light: no level
TIMES = frozenset(UNITS.values())
SOME = 3  # scans that say a level, beside which others may say none
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


def read_names(names: Sequence[str], decimal: Decimal, *, times: bool = False) -> Names:
    """Levels are read where all names but those of blanks say one, in units of one kind, and they differ.

    times : of scans, among whose levels are times, and of which some may have none, beside three that do.
    """
    bases = [_AGAIN.sub("", name).strip() or name for name in names]
    found = [_level(base, decimal, times=times) for base in bases]
    told = [each for each in found if each is not None]
    plain = Names(tuple(Named(None, "", _REPEATED.sub("", name).strip() if times else name) for name in names), "", "")
    enough = len(told) == len(names) or (times and len(told) >= SOME)
    if len({each[0] for each in told}) < LEAST or not enough:
        return plain
    unit = told[0][1]
    try:
        levels = [None if each is None else _in_unit(each[0], each[1], unit) for each in found]
    except UnitError:
        return plain
    rests = [rest for _, _, rest in told]
    several = len(set(rests)) > 1
    quantity = "pH" if unit == "pH" else "Temperature" if unit in ("°C", "K") else "Time" if unit in TIMES else ""
    if not quantity:
        quantity = rests[0] if not several and rests[0] else "Concentration"
    each = tuple(
        Named(level, own[2] if several and own is not None else "", base)
        for level, own, base in zip(levels, found, bases, strict=True)
    )
    return Names(each, quantity, "" if unit == "pH" else unit)


def plain_names(names: Sequence[str]) -> Names:
    """Names as they are, without levels."""
    return Names(tuple(Named(None, "", name) for name in names), "", "")


def _in_unit(value: float, own: str, unit: str) -> float:
    return value if own == unit else convert(value, own, unit)


def _level(name: str, decimal: Decimal, *, times: bool) -> tuple[float, str, str] | None:
    """The last number with a unit of amount or temperature: its value, its unit, and the name without it."""
    if match := _PH.search(name):
        number = parse_number(match["value"], decimal)
        return None if number.value is None else (number.value, "pH", _without(name, match))
    for match in reversed(list(_LEVEL.finditer(name))):
        unit = normal_unit(match["unit"])
        timed = UNITS.get(unit.lower()) if unit != "M" else None
        if timed is not None:
            unit = timed
            if not times:
                continue
        if timed is not None or (is_unit(unit) and unit != _LENGTH):
            number = parse_number(match["value"], decimal)
            if number.meaning is Meaning.NUMBER and number.value is not None:
                return number.value, unit, _without(name, match)
    return None


def _without(name: str, match: re.Match[str]) -> str:
    return re.sub(r"^[\s,;:·()=_-]+|[\s,;:·()=_-]+$", "", name[: match.start()] + name[match.end() :]).strip()
