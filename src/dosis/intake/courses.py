"""From a table to its curves, courses or scans: a column each, or rows of a well, a name or a series, on one axis."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np

from dosis.core.arrays import Array
from dosis.core.numbers import Meaning, TypedNumber
from dosis.core.units import is_unit
from dosis.intake.along import ALONG, Along, Values, is_wave
from dosis.intake.columns import split_heading
from dosis.intake.course_names import plain_names, read_names
from dosis.intake.marks import noted
from dosis.intake.roles import guess_role
from dosis.intake.table import Table
from dosis.intake.times import is_time
from dosis.intake.understanding import ColumnKind
from dosis.run.layout import Exclusion, Group, Layout, Quantity
from dosis.run.readings import Reading, Readings
from dosis.run.recording import MarkedPlace, Recording, axis_of
from dosis.run.roles import Role
from dosis.run.wells import Plate, parse_well, smallest_plate, well_name

MAX_NAME, MAX_UNIT = 200, 40
WELLS = 4  # columns headed by wells from which they are taken for a plate


class Course(NamedTuple):
    """One course, or scan, as it was found: where it stands, and what is said of it."""

    name: str
    x: Array
    y: Array
    role: Role
    level: float | None = None
    series: str = ""
    well: tuple[str, int, int] | None = None
    key: tuple[object, ...] = ()
    row: int = 1
    column: int = 0
    out: dict[float, str] = {}  # noqa: RUF012


@dataclass
class Courses:
    """All of them, with what the axes are and what could not be used.

    axis : what they were taken along; along : what kind of axis that is, at : its column. without_place : rows that
    have none. odd : cells that are no numbers, and are gaps. aside : columns that are none of the courses. said : what
    else is to be known. marks : what was noted at which place, in column `marked_by`; of : what each curve is of, where
    they are not alike. beyond : how many rows come after those that are shown; odd_beyond : the rows of cells there
    that are no numbers; later : whether these are not read yet. recording : the numbers, where they are held together.
    """

    courses: list[Course]
    axis: Quantity
    level: Quantity
    without_place: list[int] = field(default_factory=list)
    aside: list[int] = field(default_factory=list)
    said: str = ""
    from_names: bool = False
    by: str = ""
    beyond: int = 0
    odd_beyond: list[int] = field(default_factory=list)
    along: Along = ALONG["time"]
    marks: list[tuple[float, str]] = field(default_factory=list)
    marked_by: int | None = None
    of: list[Quantity] = field(default_factory=list)
    at: int = 0
    later: bool = False
    recording: Recording | None = None


def time_column(table: Table) -> int | None:
    """The column of times: the one that is said to be, else a first axis of times."""
    said = table.index(ColumnKind.TIME)
    if said is not None:
        return said
    level = table.index(ColumnKind.LEVEL)
    return level if level is not None and is_time(table.headings[level]) else None


def wave_column(table: Table) -> int | None:
    """The column of wavelengths: the one that is said to be, one headed so, else the first axis there is."""
    said = table.index(ColumnKind.TIME)
    if said is not None:
        return said
    headed = [i for i, heading in enumerate(table.headings) if is_wave(heading) and table.columns[i].numeric]
    kinds = (table.index(ColumnKind.LEVEL), table.index(ColumnKind.CHANNEL))
    first = 0 if table.columns and table.columns[0].numeric and _one_way(table.columns[0].numbers) else None
    return next((i for i in (*headed[:1], *kinds, first) if i is not None), None)


def axis_column(table: Table, along: str) -> int | None:
    """The column of the axis of that kind."""
    return wave_column(table) if along == "wave" else time_column(table)


def _one_way(cells: Sequence[TypedNumber]) -> bool:
    steps = np.diff(numbers_of(cells))
    return steps.size > 1 and bool((steps > 0).all() or (steps < 0).all())


def find_courses(table: Table, along: str = "time") -> Courses | None:
    """The curves of a table along that kind of axis; None where it has no such column or nothing read at it."""
    at = axis_column(table, along)
    own = ALONG[along]
    readings = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING and i != at]
    if at is None or not readings:
        return None
    apart = [table.index(kind) for kind in (ColumnKind.WELL, ColumnKind.NAME, ColumnKind.SERIES, ColumnKind.VESSEL)]
    level = table.index(ColumnKind.LEVEL)
    if not own.recorded and (any(i is not None for i in apart) or (level is not None and level != at)):
        return _by_rows(table, at, readings, own)
    return _by_columns(table, at, readings, own)


def _by_columns(table: Table, at: int, readings: list[int], along: Along) -> Courses:
    own = table.across == "pairs"
    quantity, (times, unit, said) = _places(table, at, along)
    wells = {i: parse_well(table.headings[i]) for i in readings}
    plated = sum(place is not None for place in wells.values())
    aside: list[int] = []
    rows = {place[0] for place in wells.values() if place is not None}
    if plated >= WELLS and 2 * plated >= len(readings) and (0 in rows or len(rows) > 1):
        aside = [i for i in readings if wells[i] is None]
        readings = [i for i in readings if wells[i] is not None]
    else:
        wells = {}
    same = Counter(heading.strip() for heading in table.headings)
    names = [_name(table, i, k, same, along) for k, i in enumerate(readings, start=1)]
    roles = [along.role(name) for name in names]
    blank = [role is Role.BLANK for role in roles]
    unblanked = [name for name, is_blank in zip(names, blank, strict=True) if not is_blank]
    levels = plain_names(unblanked) if along.recorded else read_names(unblanked, table.decimal, times=along.times)
    named = iter(levels.each)
    found = []
    for i, name, role in zip(readings, names, roles, strict=True):
        x, y = (times, table.columns[i].numbers)
        if own:
            x = _places(table, max(j for j in table.at_levels if j < i), along)[1][0]
        xs, ys = _pairs(x, y)
        each = None if role is Role.BLANK else next(named)
        place = wells.get(i)
        base = name if each is None else each.base
        key: tuple[object, ...] = (role, base.casefold()) if place is None else (role, i)
        if each is not None and each.level is not None:
            key = (role, each.series.casefold(), each.level)
        elif role is Role.BLANK:
            key = (role,)
        found.append(Course(
            name=base[:MAX_NAME], x=xs, y=ys, role=role, level=None if each is None else each.level,
            series="" if each is None else each.series[:MAX_NAME], key=key,
            well=None if place is None else ("", *place), column=i,
            row=table.heading_rows[-1] if table.heading_rows else 1,
        ))  # fmt: skip
    without = [number for (number, _), time in zip(table.body, times, strict=True) if time is None]
    return Courses(
        found, Quantity(name=quantity.name, unit=unit[:MAX_UNIT]), _level(table, levels.quantity, levels.unit),
        without, aside, said, bool(levels.unit or levels.quantity), "column", along=along, at=at,
        **noted(table, times, readings) if along.recorded else {},
    )  # fmt: skip


def _by_rows(table: Table, at: int, readings: list[int], along: Along) -> Courses:
    """Rows told apart by well, name, series and level; the same place again begins another course of the same."""
    quantity, (times, unit, said) = _places(table, at, along)
    column, aside = readings[0], readings[1:]
    rows: dict[tuple[object, ...], list[tuple[float, float, int]]] = {}
    out: dict[tuple[object, ...], dict[float, str]] = {}
    facts: dict[tuple[object, ...], Course] = {}
    again: dict[tuple[object, ...], dict[float, int]] = {}
    without, level = [], table.index(ColumnKind.LEVEL)
    leveled = level is not None and level != at
    numbers = table.columns[column].numbers
    for k, (number, cells) in enumerate(table.body):
        time = times[k]
        if time is None:
            without.append(number)
            continue
        name, series = table.cell(cells, ColumnKind.NAME), table.cell(cells, ColumnKind.SERIES)
        place = parse_well(table.cell(cells, ColumnKind.WELL))
        plate = table.cell(cells, ColumnKind.PLATE)
        own_level = table.levels.values.get(number) if leveled else None
        vessel = table.cell(cells, ColumnKind.VESSEL)
        well = None if place is None else (plate, *place)
        if not name and series and _digits(series):
            series = f"{split_heading(table.headings[table.index(ColumnKind.SERIES) or 0])[0]} {series}"
        said_name = name or series
        group: tuple[object, ...] = (said_name.casefold(), series.casefold(), own_level, plate)
        key = (*group, vessel, well)
        seen = again.setdefault(key, {})
        seen[time] = seen.get(time, 0) + 1
        key = (*key, seen[time])
        if key not in facts:
            bare = not name and not series and own_level is None
            role = guess_role(table.cell(cells, ColumnKind.ROLE), said_name, False)
            shown = said_name or (well_name(*place) if place else vessel or along.curve.capitalize())
            if not said_name and own_level is not None and not place:
                shown = f"{table.level[0]} {own_level:g}"
            facts[key] = Course(
                name=shown[:MAX_NAME], x=np.empty(0), y=np.empty(0), level=own_level, well=well,
                series=series[:MAX_NAME] if name else "",
                role=role if role in (Role.BLANK, Role.UNUSED) else along.role(said_name),
                key=(place, plate) if bare and place else ((vessel,) if bare else group), row=number, column=column,
            )  # fmt: skip
        if why := table.cell(cells, ColumnKind.EXCLUDED):
            out.setdefault(key, {})[time] = why
        rows.setdefault(key, []).append((time, _value(numbers[k]), number))
    found = []
    for key, course in facts.items():
        own = sorted(rows[key])
        found.append(course._replace(
            x=np.array([t for t, _, _ in own]), y=np.array([v for _, v, _ in own]), out=out.get(key, {}),
        ))  # fmt: skip
    name, of = (table.level[0], table.level[1]) if leveled else ("", "")
    by = next(table.headings[i] for kind in (ColumnKind.WELL, ColumnKind.NAME, ColumnKind.SERIES, ColumnKind.VESSEL,
                                             ColumnKind.LEVEL) if (i := table.index(kind)) is not None)  # fmt: skip
    return Courses(found, Quantity(name=quantity.name, unit=unit[:MAX_UNIT]), _level(table, name, of), without, aside,
                   said, leveled, by, along=along, at=at)  # fmt: skip


def _places(table: Table, at: int, along: Along) -> tuple[Quantity, Values]:
    quantity = along.quantity(table.headings[at])
    return quantity, along.values(table.columns[at].numbers, quantity.unit)


def _level(table: Table, name: str, unit: str) -> Quantity:
    return Quantity(name=(name or "Concentration")[:MAX_NAME], unit=unit[:MAX_UNIT])


def _name(table: Table, column: int, k: int, same: Counter[str], along: Along) -> str:
    """Of a column: its heading; where all columns have the same, or none, a number tells them apart."""
    heading = table.headings[column].strip()
    named, unit = split_heading(heading)
    plain = named if unit and (along.recorded or unit == table.signal[1]) else heading
    if not plain or same[heading] == table.kinds.count(ColumnKind.READING) > 1:
        return f"{along.curve.capitalize()} {k}"
    return plain


def _digits(text: str) -> bool:
    return text.replace(".", "").replace(",", "").isdigit()


def _value(cell: TypedNumber) -> float:
    good = cell.meaning is Meaning.NUMBER and cell.value is not None and (not cell.unit or is_unit(cell.unit))
    return float(cell.value) if good and cell.value is not None else float("nan")


def numbers_of(cells: Sequence[TypedNumber]) -> Array:
    """The numbers of cells, (cells,); NaN for those that are none."""
    number = Meaning.NUMBER
    return np.array([c.value if c.meaning is number and not c.unit else _value(c) for c in cells], dtype=float)


def _pairs(times: Sequence[float | None], cells: Sequence[TypedNumber]) -> tuple[Array, Array]:
    """The times that there are, rising, and what was read then; NaN for a gap."""
    y = numbers_of(cells)
    x = np.array([np.nan if t is None else t for t in times], dtype=float)
    there = np.isfinite(x)
    x, y = x[there], y[there]
    if x.size > 1 and (np.diff(x) < 0).any():
        order = np.argsort(x, kind="stable")
        x, y = x[order], y[order]
    return x, y


def recorded(found: Courses, signal: Quantity, notes: tuple[str, ...]) -> tuple[Readings, Layout]:
    """Courses as readings along one axis, with their layout; of wells every one that was read stands on its plate."""
    recording = found.recording or _on_one_axis(found.courses)
    marks = tuple(MarkedPlace(x=x, text=text) for x, text in found.marks)
    plates, size = _plates(found.courses)
    readings: list[Reading] = []
    members: dict[tuple[object, ...], list[int]] = {}
    facts: dict[tuple[object, ...], Course] = {}
    excluded: list[Exclusion] = []
    for id, (course, y) in enumerate(zip(found.courses, recording.y, strict=True), start=1):
        there = y[np.isfinite(y)]
        place: dict[str, int | None] = {"row": course.row, "column": course.column, "plate": None}
        if course.well is not None and size:
            place = {"row": course.well[1], "column": course.well[2], "plate": plates.index(course.well[0])}
        readings.append(Reading.model_validate({
            "id": id, **place, "text": found.along.said(there) if there.size else "",
            "meaning": Meaning.NUMBER if there.size else Meaning.MISSING,
            "value": float(there[-1]) if there.size else None,
        }))  # fmt: skip
        if not there.size:
            continue
        members.setdefault(course.key, []).append(id)
        facts.setdefault(course.key, course)
        if len(course.out) == course.x.size:
            excluded.append(Exclusion(reading=id, reason=next(iter(course.out.values()))))
        else:
            places = {time: int(np.searchsorted(recording.x, time)) for time in course.out}
            excluded += [Exclusion(reading=id, at=places[time], reason=why) for time, why in course.out.items()]
    groups = [
        Group(id=f"g{n}", role=facts[key].role, name=facts[key].name, level=facts[key].level, series=facts[key].series,
              readings=tuple(ids))
        for n, (key, ids) in enumerate(members.items(), start=1)
    ]  # fmt: skip
    made = Readings(
        readings=tuple(readings), notes=notes, recording=recording,
        axis=axis_of(found.axis, recording, marks, tuple(found.of)),
        plates=tuple(Plate(name=name or f"Plate {i}", rows=size[0], columns=size[1])
                     for i, name in enumerate(plates, start=1)) if size else (),
    )  # fmt: skip
    return made, Layout(
        signal=signal,
        level=found.level,
        groups=tuple(_told_apart(groups, found.level.unit)),
        exclusions=tuple(excluded),
    )


def _on_one_axis(courses: list[Course]) -> Recording:
    """The times of all; a course has a gap where it was not read."""
    first = courses[0].x
    if all(course.x.size == first.size and np.array_equal(course.x, first) for course in courses):
        return Recording(first, np.stack([course.y for course in courses]))
    x = np.unique(np.concatenate([course.x for course in courses]))
    y = np.full((len(courses), x.size), np.nan)
    for row, course in zip(y, courses, strict=True):
        row[np.searchsorted(x, course.x)] = course.y
    return Recording(x, y)


def _plates(courses: list[Course]) -> tuple[list[str], tuple[int, int] | None]:
    wells = [course.well for course in courses if course.well is not None]
    if not wells:
        return [], None
    size = smallest_plate(1 + max(r for _, r, _ in wells), 1 + max(c for _, _, c in wells))
    return list(dict.fromkeys(plate for plate, _, _ in wells)), size


def _told_apart(groups: list[Group], unit: str) -> list[Group]:
    """Groups of one name with their levels, or with a number, where nothing else tells them apart."""
    seen: dict[str, int] = {}
    for group in groups:
        seen[group.name] = seen.get(group.name, 0) + 1
    at: dict[str, int] = {}
    return [_with_name(group, seen, at, unit) for group in groups]


def _with_name(group: Group, seen: dict[str, int], at: dict[str, int], unit: str) -> Group:
    if seen[group.name] < 2:
        return group
    if group.level is not None:
        return group.model_copy(update={"name": f"{group.name}, {group.level:g} {unit}".rstrip()[:MAX_NAME]})
    if group.series:
        return group
    at[group.name] = at.get(group.name, 0) + 1
    return group.model_copy(update={"name": f"{group.name} {at[group.name]}"})
