"""Times as tables give them: numbers with their unit in the heading, or readings of a clock."""

import re
from collections.abc import Sequence

from dosis.core.numbers import Meaning, TypedNumber
from dosis.intake.columns import split_heading
from dosis.run.layout import Quantity
from dosis.run.trade_words import column_word

UNITS = {
    "ms": "ms", "msec": "ms", "s": "s", "sec": "s", "secs": "s", "second": "s", "seconds": "s", "min": "min",
    "mins": "min", "minute": "min", "minutes": "min", "m": "min", "h": "h", "hr": "h", "hrs": "h", "hour": "h",
    "hours": "h", "d": "d", "day": "d", "days": "d",
}  # fmt: skip
_UNIT = "|".join(sorted(UNITS, key=len, reverse=True))
_HEADING = re.compile(rf"^(?P<name>.*?)\s*(?:[\[(/,]|\bin\b|\s)\s*(?P<unit>{_UNIT})\s*[\])]?\s*$", re.IGNORECASE)
_TIME = re.compile(
    r"^(elapsed |reaction |incubation |kinetic |exposure |read(ing)? )?(time|t|cycles?|age)( elapsed| point)?$",
    re.IGNORECASE,
)
_CLOCK = re.compile(r"^(?:(\d{1,3}):)?(\d{1,3}):(\d{2}(?:[.,]\d+)?)$")
_MINUTES, _HOURS = 600.0, 10_800.0  # seconds from which clock times are shown in minutes, and in hours


def is_time(heading: str) -> bool:
    """Whether a heading is that of times: "Time", "t (s)", "Minutes", "Elapsed time / h"."""
    bare = heading.strip()
    if bare.lower() in UNITS and bare.lower() != "m":
        return True
    match = _HEADING.match(bare)
    quantity = match["name"].strip() if match else split_heading(bare)[0]
    if quantity == "T":  # a temperature
        return False
    return bool(_TIME.match(quantity)) or column_word(quantity) == "time"


def time_quantity(heading: str) -> Quantity:
    """Its name and its unit, empty where the heading names none."""
    bare = heading.strip()
    if bare.lower() in UNITS:
        return Quantity(name="Time", unit=UNITS[bare.lower()])
    match = _HEADING.match(bare)
    name, unit = (match["name"].strip(), UNITS[match["unit"].lower()]) if match else split_heading(bare)
    name = "Time" if name.lower() in ("t", "") or not _TIME.match(name) else name
    return Quantity(name=name[:1].upper() + name[1:], unit=unit)


def times_of(cells: Sequence[TypedNumber], unit: str) -> tuple[list[float | None], str, str]:
    """Times in a unit, and what was made of clock readings, in words; None where a cell is no time.

    unit : of the heading. Units in the cells, such as "30 s", count where the heading has none.
    """
    clocks = [_CLOCK.match(cell.text.strip()) for cell in cells if cell.text.strip()]
    if clocks and all(clocks):
        seconds = [_seconds(cell.text) for cell in cells]
        longest = max((s for s in seconds if s is not None), default=0.0)
        by, shown = (1.0, "s") if longest < _MINUTES else (60.0, "min") if longest < _HOURS else (3600.0, "h")
        short = all(match is not None and match[1] is None for match in clocks)
        how = "minutes and seconds" if short else "hours, minutes and seconds"
        return [None if s is None else s / by for s in seconds], shown, f"Clock times are taken as {how}."
    values = [cell.value if cell.meaning is Meaning.NUMBER else None for cell in cells]
    own = {UNITS.get(cell.unit.lower(), "") for cell in cells if cell.meaning is Meaning.NUMBER and cell.unit}
    return values, unit or (own.pop() if len(own) == 1 else ""), ""


def is_clock(texts: Sequence[str]) -> bool:
    """Whether all that is told are readings of a clock, "0:30" or "00:00:30"."""
    told = [text.strip() for text in texts if text.strip()]
    return bool(told) and all(map(_CLOCK.match, told))


def _seconds(text: str) -> float | None:
    match = _CLOCK.match(text.strip())
    if match is None:
        return None
    return 3600 * float(match[1] or 0) + 60 * float(match[2]) + float(match[3].replace(",", "."))
