"""Asking a curve, and what it says."""

from dosis.run.layout import Level, Name
from dosis.run.record import Record


class Asked(Record):
    """One of the two, in the units of the run; a signal is what is left after the blank.

    curve : the key of the curve asked, where there are several.
    """

    level: Level | None = None
    signal: Level | None = None
    curve: Name = ""


class Told(Record):
    """What the curve says, in one sentence, with the number in full."""

    value: float | None
    text: str
