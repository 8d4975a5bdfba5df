"""Readings: what the instrument gave, cell by cell as typed. Written once, never altered."""

import re
from functools import cached_property
from typing import Annotated, Any

from pydantic import Field, SkipValidation
from pydantic.json_schema import SkipJsonSchema

from dosis.core.numbers import Meaning
from dosis.run.layout import Quantity
from dosis.run.record import Record
from dosis.run.recording import Axis, Recording
from dosis.run.wells import Plate

WHY = {
    Meaning.ABOVE: "above the instrument's range",
    Meaning.BELOW: "below the instrument's range",
    Meaning.MISSING: "missing",
    Meaning.TEXT: "not a number",
}
_DECIMALS = re.compile(r"[.,](\d*)[^.,\n]*$", re.MULTILINE)


class Cell(Record):
    """One number of the instrument. `value` is the number, or the bound of a censored one."""

    text: str
    meaning: Meaning
    value: float | None


class Reading(Cell):
    """One place that was read: a cell of a table, or a well.

    error : standard deviation or error typed beside it, in the unit of the reading; None without one.
    `row` and `column` say where it stood, in the source or on its plate; `more` holds what the other channels gave
    there, in the order of `Readings.channels` after the first.
    """

    id: int
    row: int
    column: int
    plate: int | None = None
    more: tuple[Cell, ...] = ()
    error: float | None = None


class Readings(Record):
    """All readings of a run, in the order of the source.

    axis : where each reading is a curve, what it was taken along; `recording` the numbers, which are kept and sent
        apart from the rest. Their text says from what to what they go, their value is the last.
    channels : what was read at each place, such as the wavelengths, when it is more than one thing; plates : those
    that hold the readings; notes : text that stood around the numbers.
    """

    readings: tuple[Reading, ...]
    channels: tuple[Quantity, ...] = ()
    plates: tuple[Plate, ...] = ()
    notes: tuple[str, ...] = ()
    axis: Axis | None = None
    recording: Annotated[SkipJsonSchema[SkipValidation[Any]], Field(exclude=True)] = None

    @property
    def curves(self) -> Recording:
        """The numbers of readings that are curves.

        Raises
        ------
        ValueError : when they are single numbers.
        """
        if not isinstance(self.recording, Recording):
            raise ValueError("These readings are single numbers, not curves.")
        return self.recording

    @cached_property
    def by_id(self) -> dict[int, Reading]:
        """Every reading, looked up."""
        return {reading.id: reading for reading in self.readings}

    @cached_property
    def texts(self) -> dict[int, str]:
        """What was typed for each, as shown."""
        return {reading.id: reading.text.strip() or "—" for reading in self.readings}

    @cached_property
    def numbers(self) -> dict[int, float]:
        """Those that are numbers."""
        return {
            reading.id: reading.value
            for reading in self.readings
            if reading.meaning is Meaning.NUMBER and reading.value is not None
        }

    @cached_property
    def why_not(self) -> dict[int, str]:
        """Why each of the others is none."""
        return {reading.id: WHY[reading.meaning] for reading in self.readings if reading.meaning is not Meaning.NUMBER}

    @cached_property
    def decimals(self) -> int:
        """Most decimals that one of the numbers was typed with, six at most; three where there is not a number."""
        typed = "\n".join([self.texts[id] for id in self.numbers])
        return min(max(map(len, _DECIMALS.findall(typed)), default=0 if typed else 3), 6)

    @cached_property
    def elsewhere(self) -> frozenset[int]:
        """Those that stand on no plate."""
        return frozenset(reading.id for reading in self.readings if reading.plate is None)

    @cached_property
    def empty(self) -> frozenset[int]:
        """Those where nothing was read."""
        return frozenset(reading.id for reading in self.readings if reading.meaning is Meaning.MISSING)
