"""From an understood table to readings and a first layout."""

from collections import Counter

from dosis.core.numbers import Meaning, TypedNumber
from dosis.core.units import is_unit
from dosis.intake.columns import parse_dilution
from dosis.intake.table import Table
from dosis.intake.understanding import Choices, ColumnKind
from dosis.run.layout import ROLE_NAMES, Group, Layout, Quantity, Role
from dosis.run.readings import Reading, Readings

MAX_NAME = 200


def assemble(table: Table, chosen: Choices) -> tuple[Readings, Layout]:
    """Number the cells of the reading columns and group them: a row is a group, and rows alike are one."""
    meanings = {(c.row, c.column): c.meaning for c in chosen.cells}
    columns = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING]
    readings: list[Reading] = []
    members: dict[tuple[object, ...], list[int]] = {}
    facts: dict[tuple[object, ...], dict[str, object]] = {}
    for at, (number, cells) in enumerate(table.body):
        key, fact = _facts(table, number, cells, chosen.stack)
        facts.setdefault(key, fact)
        group = members.setdefault(key, [])
        # Trailing gaps of a row are replicates that were never read, unless the row has nothing else.
        told = [i for i in columns if cells[i]] or columns[:1]
        for i in columns[: columns.index(told[-1]) + 1]:
            reading = _reading(len(readings) + 1, number, i, table.columns[i].numbers[at], meanings.get((number, i)))
            readings.append(reading)
            group.append(reading.id)
    groups = [
        Group.model_validate({"id": f"g{n}", "readings": tuple(ids), **facts[key]})
        for n, (key, ids) in enumerate(members.items(), start=1)
    ]
    layout = Layout(
        signal=Quantity(name=table.signal[0], unit=table.signal[1]),
        level=Quantity(name=table.level[0], unit=table.level[1]),
        groups=tuple(_named(groups)),
    )
    return Readings(readings=tuple(readings)), layout


def _facts(table: Table, number: int, cells: list[str], stack: bool) -> tuple[tuple[object, ...], dict[str, object]]:
    role = table.roles[number]
    name = table.cell(cells, ColumnKind.NAME)[:MAX_NAME]
    level = table.levels.values.get(number)
    dilution = parse_dilution(table.cell(cells, ColumnKind.DILUTION), table.decimal) or 1.0
    note = "; ".join(cell for cell, kind in zip(cells, table.kinds, strict=True) if kind is ColumnKind.NOTE and cell)
    fact: dict[str, object] = {"role": role, "name": name, "level": level, "dilution": dilution, "note": note}
    # Unnamed samples are each their own; unnamed standards of one level, and unnamed blanks, are replicates.
    alike = stack and (name or role is Role.BLANK or (role is Role.STANDARD and level is not None))
    key: tuple[object, ...] = (role, name, level, dilution) if alike else (number,)
    return key, fact


def _reading(id: int, row: int, column: int, cell: TypedNumber, given: Meaning | None) -> Reading:
    meaning, value = cell.meaning, cell.value
    if meaning is Meaning.NUMBER and cell.unit and not is_unit(cell.unit):
        meaning = Meaning.TEXT  # "12 or so" is no reading, whatever number it begins with
    if given is not None and meaning is not Meaning.NUMBER:
        meaning = given
    return Reading(
        id=id, text=cell.text, meaning=meaning, row=row, column=column,
        value=None if meaning in (Meaning.TEXT, Meaning.MISSING) else value,
    )  # fmt: skip


def _named(groups: list[Group]) -> list[Group]:
    """Give groups without a name one: "Standard 3", "Sample 12", by the order of the table."""
    count: Counter[Role] = Counter()
    named = []
    for group in groups:
        count[group.role] += 1
        role = ROLE_NAMES[group.role]
        name = group.name or f"{role[0].upper()}{role[1:]} {count[group.role]}"
        named.append(group.model_copy(update={"name": name}))
    return named
