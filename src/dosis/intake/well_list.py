"""Tables that name wells, one or more rows for each: brought onto plates where the wells allow it."""

from typing import NamedTuple

from dosis.intake.cells import Cells
from dosis.intake.understanding import ColumnKind
from dosis.run.wells import parse_well, smallest_plate, well_name


class WellList(NamedTuple):
    """cells : (plate, row, column) → channel → (index of the row in the body, column of the table)."""

    plates: tuple[str, ...]
    size: tuple[int, int]
    channels: tuple[str, ...]
    cells: dict[tuple[str, int, int], dict[str, tuple[int, int]]]


def well_list(table: Cells) -> WellList | str | None:
    """The wells of a table; a sentence saying why not where its wells do not make plates; None where it has none."""
    if table.index(ColumnKind.WELL) is None:
        return None
    columns = [i for i, kind in enumerate(table.kinds) if kind is ColumnKind.READING]
    unit = "" if (at := table.index(ColumnKind.CHANNEL)) is None else _unit_of(table.headings[at])
    cells: dict[tuple[str, int, int], dict[str, tuple[int, int]]] = {}
    for at, (number, row) in enumerate(table.body):
        text = table.cell(row, ColumnKind.WELL)
        place = parse_well(text)
        if place is None:
            return f"“{text}” in row {number} is not a well; write wells as A1 or B07."
        plate = table.cell(row, ColumnKind.PLATE)
        read = table.cell(row, ColumnKind.CHANNEL)
        for column, name in zip(columns, table.channels, strict=True):
            own = name if len(set(table.channels)) == len(columns) > 1 else "" if len(columns) == 1 else str(column)
            channel = " ".join(filter(None, (f"{read} {unit}".strip() if read else "", own)))
            there = cells.setdefault((plate, *place), {})
            if channel in there:
                return f"Well {well_name(*place)} stands in the table twice (row {number})."
            there[channel] = (at, column)
    size = smallest_plate(1 + max(r for _, r, _ in cells), 1 + max(c for _, _, c in cells)) if cells else None
    if size is None:
        return "These wells fit no usual plate."
    channels = dict.fromkeys(channel for there in cells.values() for channel in there)
    return WellList(tuple(dict.fromkeys(plate for plate, _, _ in cells)), size, tuple(channels), cells)


def _unit_of(heading: str) -> str:
    words = heading.replace("(", " ").replace(")", " ").replace("[", " ").replace("]", " ").split()
    return (
        words[-1] if len(words) > 1 else "nm" if heading.strip().lower() not in ("cycle", "channel", "filter") else ""
    )
