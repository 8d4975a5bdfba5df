"""Readings: what the instrument gave, cell by cell as typed. Written once, never altered."""

from dosis.core.numbers import Meaning
from dosis.run.record import Record


class Reading(Record):
    """One cell. `value` is the number, or the bound of a censored one; `row` and `column` say where it stood."""

    id: int
    text: str
    meaning: Meaning
    value: float | None
    row: int
    column: int


class Readings(Record):
    """All cells of a run, in the order of the source."""

    readings: tuple[Reading, ...]
