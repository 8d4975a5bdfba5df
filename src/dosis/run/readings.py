"""Readings: what the instrument gave, cell by cell as typed. Written once, never altered."""

from dosis.core.numbers import Meaning
from dosis.run.layout import Quantity
from dosis.run.record import Record
from dosis.run.wells import Plate


class Cell(Record):
    """One number of the instrument. `value` is the number, or the bound of a censored one."""

    text: str
    meaning: Meaning
    value: float | None


class Reading(Cell):
    """One place that was read: a cell of a table, or a well.

    `row` and `column` say where it stood, in the source or on its plate; `more` holds what the other channels gave
    there, in the order of `Readings.channels` after the first.
    """

    id: int
    row: int
    column: int
    plate: int | None = None
    more: tuple[Cell, ...] = ()


class Readings(Record):
    """All readings of a run, in the order of the source.

    channels : what was read at each place, such as the wavelengths, when it is more than one thing; plates : those
    that hold the readings; notes : text that stood around the numbers.
    """

    readings: tuple[Reading, ...]
    channels: tuple[Quantity, ...] = ()
    plates: tuple[Plate, ...] = ()
    notes: tuple[str, ...] = ()
