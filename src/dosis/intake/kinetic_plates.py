"""Plates that were read again and again: grids titled by their times become one course for each well."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.arrays import Array
from dosis.core.numbers import Meaning, TypedNumber, parse_number
from dosis.core.rounding import given
from dosis.core.units import is_unit
from dosis.intake.along import ends_of
from dosis.intake.times import UNITS, is_clock, times_of
from dosis.intake.understanding import Choices, Statement
from dosis.intake.wording import count_of
from dosis.run.layout import Group, Layout, Quantity
from dosis.run.questions.registry import question_of
from dosis.run.readings import Reading, Readings
from dosis.run.recording import Recording, axis_of
from dosis.run.roles import Role
from dosis.run.wells import Plate, well_name

if TYPE_CHECKING:
    from dosis.intake.understand_plates import OnePlate

LEAST_TIMES = 3  # grids of different times from which wells have courses
_WAVELENGTH = re.compile(r"^(\d{3,4} nm)\s*")
_TIME = re.compile(r"^(\d+(?:[.,]\d+)?)\s*([a-z]*)$", re.IGNORECASE)


@dataclass(frozen=True)
class Kinetic:
    """The times of the grids, by the names of their channels; `left` are those of another wavelength, not used."""

    times: dict[str, float]
    unit: str
    left: tuple[str, ...]
    said: str
    wavelength: str

    @property
    def channels(self) -> list[str]:
        """The channels that make the courses, in the order of time."""
        return sorted(self.times, key=self.times.__getitem__)

    def readings(self, plates: Sequence["OnePlate"], notes: Sequence[str]) -> Readings:
        """One reading for each well, which is a course."""
        channels = self.channels
        x = np.array([self.times[each] for each in channels])
        rows: list[Array] = []
        made: list[Reading] = []
        for index, plate in enumerate(plates):
            grid = np.full((len(channels), plate.rows, plate.columns), np.nan)
            for k, channel in enumerate(channels):
                if (side := plate.channels.get(channel)) is not None:
                    grid[k] = [[_value(cell) for cell in row] for row in side[1]]
            for r in range(plate.rows):
                for c in range(plate.columns):
                    y = grid[:, r, c]
                    there = y[np.isfinite(y)]
                    made.append(Reading(
                        id=len(made) + 1, row=r, column=c, plate=index, value=float(there[-1]) if there.size else None,
                        text=ends_of(there) if there.size else "",
                        meaning=Meaning.NUMBER if there.size else Meaning.MISSING,
                    ))  # fmt: skip
                    rows.append(y)
        recording = Recording(x, np.array(rows))
        return Readings(
            readings=tuple(made), notes=tuple(notes), recording=recording,
            plates=tuple(Plate(name=plate.name, rows=plate.rows, columns=plate.columns) for plate in plates),
            axis=axis_of(Quantity(name="Time", unit=self.unit), recording),
        )  # fmt: skip


def time_channels(channels: Sequence[str]) -> list[str]:
    """Those that name a time."""
    return [channel for channel in channels if _time_text(channel)]


def kinetic(plates: Sequence["OnePlate"], channels: Sequence[str], chosen: Choices) -> Kinetic | None:
    """The times of the grids, where there are enough and rates are asked for, or nothing else is."""
    if chosen.question is not None and not question_of(chosen.question).of_curves:
        return None
    named = time_channels(channels)
    if len(named) < LEAST_TIMES:
        return None
    waves = list(dict.fromkeys(match[1] for each in named if (match := _WAVELENGTH.match(each))))
    wave = waves[0] if waves else ""
    # A wavelength above the first grid is that of all.
    own = named if len(waves) < 2 else [each for each in named if each.startswith(wave)]
    texts = [_time_text(each) for each in own]
    if is_clock(texts):
        values, unit, said = times_of([parse_number(text) for text in texts], "")
    else:
        cells = [_TIME.match(text) for text in texts]
        units = {UNITS.get(match[2].lower(), "") for match in cells if match}
        unit, said = (units.pop() if len(units) == 1 else ""), ""
        values = [float(match[1].replace(",", ".")) if match else None for match in cells]
    times = {channel: value for channel, value in zip(own, values, strict=True) if value is not None}
    if len(set(times.values())) < LEAST_TIMES:
        return None
    left = tuple(each for each in channels if each not in times)
    return Kinetic(times, unit, left, said, wave)


def of_wells(readings: Readings, layout: Layout) -> Layout:
    """Wells that nothing is said of are courses of their own, named for where they stand."""
    laid = layout.members
    several = len(readings.plates) > 1
    bare = [reading for reading in readings.readings if reading.id not in laid and reading.meaning is Meaning.NUMBER]
    if layout.groups:
        return layout
    groups = tuple(
        Group(id=f"g{n}", role=Role.POINT, readings=(r.id,),
              name=f"{readings.plates[r.plate or 0].name} {well_name(r.row, r.column)}" if several
              else well_name(r.row, r.column))
        for n, r in enumerate(bare, start=1)
    )  # fmt: skip
    return layout.model_copy(update={"groups": groups})


def state_times(readings: Readings, found: Kinetic | None) -> list[Statement]:
    """When the wells were read, and which grids are not used."""
    axis = readings.axis
    if axis is None or found is None:
        return []
    span = f"{given(axis.first)} to {given(axis.last)} {axis.quantity.unit}".rstrip()
    wave = f" at {found.wavelength}" if found.wavelength else ""
    unit = "" if axis.quantity.unit else " **Time has no unit.**"
    text = f"**Every well was read {axis.count:,} times**{wave}, {span}: a course each.{unit} {found.said}".strip()
    said = [Statement(id="channels", state="ok" if axis.quantity.unit else "look", text=text)]
    if found.left:
        shown = ", ".join(found.left[:3]) + (" …" if len(found.left) > 3 else "")
        text = f"**{count_of(len(found.left), 'grid')} not used:** {shown}."
        said.append(Statement(id="left", state="look", text=text))
    return said


def _time_text(channel: str) -> str:
    """The time in a channel's name, after its wavelength; empty where it has none."""
    rest = _WAVELENGTH.sub("", channel).strip()
    match = _TIME.match(rest)
    if rest and (is_clock([rest]) or (match and (not match[2] or match[2].lower() in UNITS))):
        return rest
    return ""


def _value(cell: TypedNumber) -> float:
    good = cell.meaning is Meaning.NUMBER and cell.value is not None and (not cell.unit or is_unit(cell.unit))
    return float(cell.value) if good and cell.value is not None else float("nan")
