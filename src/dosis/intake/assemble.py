"""From an understood table to readings and a first layout."""

from collections import Counter
from collections.abc import Mapping
from typing import NamedTuple

from dosis.core.numbers import Meaning, TypedNumber, parse_number
from dosis.core.units import is_unit
from dosis.intake.courses import recorded
from dosis.intake.dilutions import parse_dilution
from dosis.intake.table import Table
from dosis.intake.understanding import Choices, ColumnKind
from dosis.intake.well_list import WellList
from dosis.run.layout import Exclusion, Group, Layout, Quantity
from dosis.run.readings import Cell, Reading, Readings
from dosis.run.roles import ROLES, Role
from dosis.run.wells import Plate

MAX_NAME, MAX_UNIT = 200, 40
Key = tuple[object, ...]
Facts = dict[str, object]


class Spot(NamedTuple):
    """One place that was read: its series, and the column of each channel there (None where it has none).

    level : the column of its level, where the row has several; error : that of the error of its first channel.
    """

    series: str
    columns: tuple[int | None, ...]
    level: int | None = None
    error: int | None = None


def assemble(table: Table, chosen: Choices) -> tuple[Readings, Layout]:
    """Number the places that were read, or the courses, and group them: a row is a group, and rows alike are one."""
    if table.courses is not None:
        return recorded(table.courses, Quantity(name=table.signal[0], unit=table.signal[1]), _notes(table))
    meanings = {(c.row, c.column): c.meaning for c in chosen.cells}
    found = table.wells
    excluded: dict[int, str] = {}
    if isinstance(found, WellList):
        readings, members, facts = _wells(table, found, meanings, excluded)
    else:
        readings, members, facts = _rows(table, chosen, meanings, excluded)
    groups = [
        Group.model_validate({"id": f"g{n}", "readings": tuple(ids), **facts[key]})
        for n, (key, ids) in enumerate(members.items(), start=1)
    ]
    layout = Layout(
        signal=Quantity(name=table.signal[0], unit=table.signal[1]),
        level=Quantity(name=table.level[0], unit=table.level[1]),
        groups=tuple(numbered(groups, one_sample=table.question == "additions")),
        exclusions=tuple(Exclusion(reading=id, reason=why) for id, why in excluded.items()),
    )
    return readings, layout


def _rows(
    table: Table, chosen: Choices, meanings: Mapping[tuple[int, int], Meaning], excluded: dict[int, str]
) -> tuple[Readings, dict[Key, list[int]], dict[Key, Facts]]:  # fmt: skip
    spots = _spots(table)
    readings: list[Reading] = []
    members: dict[Key, list[int]] = {}
    facts: dict[Key, Facts] = {}
    for at, (number, cells) in enumerate(table.body):
        key, fact = _facts(table, number, cells, chosen.stack)
        # Trailing gaps of a row are replicates that were never read, unless the row has nothing else.
        last = max(
            (i for i, spot in enumerate(spots) if any(c is not None and cells[c] for c in spot.columns)), default=0
        )
        for spot in spots[: last + 1]:
            series = ", ".join(filter(None, (str(fact["series"]), spot.series)))[:MAX_NAME]
            own: Key = (*key, spot.series)
            here = fact
            if spot.level is not None:
                level = table.at_levels[spot.level].values.get(number)
                here = {**fact, "level": level, "role": _role_at(fact["role"], level)}
                own = (spot.series, level) if chosen.stack and level is not None else (number, spot.series)
            facts.setdefault(own, {**here, "series": series})
            parts = [
                reading_cell(None if c is None else table.columns[c].numbers[at], meanings.get((number, c or 0)))
                for c in spot.columns
            ]
            reading = Reading(
                id=len(readings) + 1, row=number, column=spot.columns[0] or 0, text=parts[0].text,
                meaning=parts[0].meaning, value=parts[0].value, more=tuple(parts[1:]),
                error=None if spot.error is None else _error(table.columns[spot.error].numbers[at]),
            )  # fmt: skip
            readings.append(reading)
            members.setdefault(own, []).append(reading.id)
            if why := table.cell(cells, ColumnKind.EXCLUDED):
                excluded[reading.id] = why
    counts = tuple(dict.fromkeys(count for count, _ in table.counts))
    channels = () if table.across != "channels" else counts or tuple(dict.fromkeys(table.channels))
    return (
        Readings(readings=tuple(readings), channels=_quantities(table, channels), notes=_notes(table)), members, facts
    )  # fmt: skip


def _spots(table: Table) -> list[Spot]:
    """The places of a row. Channels that were read more often than others leave gaps in those."""
    columns = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING]
    if table.across == "replicates":
        return [Spot("", (column,), error=_error_of(table, column)) for column in columns]
    if table.across in ("series", "pairs"):
        return [
            Spot(name, (column,), _level_of(table, column), _error_of(table, column))
            for column, name in zip(columns, table.channels, strict=True)
        ]
    if table.counts and (times := list(dict.fromkeys(time for _, time in table.counts if time))):
        return _at_times(table, columns, times)
    own: dict[str, list[int]] = {}
    first_error = _error_of(table, columns[0]) if len(columns) == 1 else None
    for column, channel in zip(columns, table.channels, strict=True):
        own.setdefault(channel, []).append(column)
    most = max(map(len, own.values()))
    return [Spot("", tuple(c[k] if k < len(c) else None for c in own.values()), error=first_error) for k in range(most)]


def _at_times(table: Table, columns: list[int], times: list[str]) -> list[Spot]:
    """A place for each time at which a row was counted; what names no time was the same at all of them."""
    names = list(dict.fromkeys(count for count, _ in table.counts))
    at = {pair: column for column, pair in zip(columns, table.counts, strict=True)}
    return [Spot(time, tuple(at.get((name, time), at.get((name, ""))) for name in names)) for time in times]


def _level_of(table: Table, column: int) -> int | None:
    """Of pairs, the column of x that stands before that of y."""
    return max((at for at in table.at_levels if at < column), default=None) if len(table.at_levels) > 1 else None


def _error_of(table: Table, column: int) -> int | None:
    after = column + 1
    return after if after < len(table.kinds) and table.kinds[after] is ColumnKind.ERROR else None


def _error(cell: TypedNumber) -> float | None:
    """A standard error or deviation as typed, with or without its sign; none where it is no positive number."""
    text = cell.text.lstrip("±+/- ")
    value = cell.value if cell.meaning is Meaning.NUMBER else parse_number(text).value
    return value if value is not None and value > 0 else None


def _role_at(role: object, level: float | None) -> object:
    return Role.STANDARD if role is Role.SAMPLE and level is not None else role


def _wells(
    table: Table, found: WellList, meanings: Mapping[tuple[int, int], Meaning], excluded: dict[int, str]
) -> tuple[Readings, dict[Key, list[int]], dict[Key, Facts]]:  # fmt: skip
    """Every well of the plates, in their order; those that a row describes are grouped."""
    readings: list[Reading] = []
    members: dict[Key, list[int]] = {}
    facts: dict[Key, Facts] = {}
    rows, columns = found.size
    for index, plate in enumerate(found.plates):
        for place in [(r, c) for r in range(rows) for c in range(columns)]:
            sources = found.cells.get((plate, *place), {})
            parts = []
            for channel in found.channels:
                at, column = sources.get(channel, (0, -1))
                number = None if column < 0 else table.columns[column].numbers[at]
                parts.append(reading_cell(number, meanings.get((table.body[at][0], column))))
            id = len(readings) + 1
            readings.append(Reading(
                id=id, row=place[0], column=place[1], plate=index, text=parts[0].text, meaning=parts[0].meaning,
                value=parts[0].value, more=tuple(parts[1:]),
            ))  # fmt: skip
            if not sources:
                continue
            row_number, cells = table.body[next(iter(sources.values()))[0]]
            if not any(table.cell(cells, kind) for kind in (ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.LEVEL)):
                continue
            key, fact = _facts(table, row_number, cells, stack=True)
            facts.setdefault((index, *key), fact)
            members.setdefault((index, *key), []).append(id)
            if why := table.cell(cells, ColumnKind.EXCLUDED):
                excluded[id] = why
    names = found.channels if len(found.channels) > 1 else ()
    plates = tuple(Plate(name=plate or "Plate 1", rows=rows, columns=columns) for plate in found.plates)
    made = Readings(readings=tuple(readings), channels=_quantities(table, names), plates=plates, notes=_notes(table))
    return made, members, facts


def _quantities(table: Table, names: tuple[str, ...]) -> tuple[Quantity, ...]:
    return tuple(Quantity(name=name[:MAX_NAME] or table.signal[0], unit=table.signal[1]) for name in names)


def _notes(table: Table) -> tuple[str, ...]:
    return tuple(" ".join(filter(None, table.grid[number - 1])) for number in table.asides)


def _facts(table: Table, number: int, cells: list[str], stack: bool) -> tuple[Key, Facts]:
    role = table.roles[number]
    name = table.named(cells)[:MAX_NAME]
    level = table.levels.values.get(number)
    series = table.series(cells)[:MAX_NAME]
    dilution = parse_dilution(table.cell(cells, ColumnKind.DILUTION), table.decimal) or 1.0
    note = "; ".join(cell for cell, kind in zip(cells, table.kinds, strict=True) if kind is ColumnKind.NOTE and cell)
    fact: Facts = {
        "role": role, "name": name, "level": level, "dilution": dilution, "series": series, "note": note[:MAX_NAME * 5],
    }  # fmt: skip
    return ((stack and table.same_thing(number, cells)) or (number,)), fact


def reading_cell(cell: TypedNumber | None, given: Meaning | None) -> Cell:
    """A cell as a reading keeps it; `given` is what a person says an odd one means."""
    if cell is None:
        return Cell(text="", meaning=Meaning.MISSING, value=None)
    meaning = cell.meaning
    if meaning is Meaning.NUMBER and cell.unit and not is_unit(cell.unit):
        meaning = Meaning.TEXT  # "12 or so" is not a reading, whatever number it begins with
    if given is not None and meaning is not Meaning.NUMBER:
        meaning = given
    value = None if meaning in (Meaning.TEXT, Meaning.MISSING) else cell.value
    return Cell(text=cell.text, meaning=meaning, value=value)


def numbered(groups: list[Group], *, one_sample: bool = False) -> list[Group]:
    """Give groups without a name one: "Standard 3", "Sample 12", by the order of the table.

    one_sample : the standards are one sample with known amounts added to it, and carry its name.
    """
    count: Counter[Role] = Counter()
    named = []
    for group in groups:
        count[group.role] += 1
        role = ROLES[group.role].name
        given = "Sample" if one_sample and group.role is Role.STANDARD else ""
        name = group.name or given or f"{role[0].upper()}{role[1:]} {count[group.role]}"
        named.append(group.model_copy(update={"name": name}))
    return named
