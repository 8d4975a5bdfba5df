"""A list that says what wells hold — plate, well, name, dose — under the grids, in another file, or pasted later."""

from collections.abc import Sequence
from typing import NamedTuple

from dosis.core.numbers import Decimal, guess_decimal
from dosis.intake.columns import columns_of, split_heading
from dosis.intake.dilutions import parse_dilution
from dosis.intake.guess import guess_columns
from dosis.intake.roles import guess_role, names_no_series
from dosis.intake.shape import is_heading
from dosis.intake.sheets import sheets_of_text
from dosis.intake.text import Grid, IntakeError
from dosis.intake.understanding import ColumnKind
from dosis.run.laying_out import ListedWell
from dosis.run.wells import parse_well

TOLD = (ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.SERIES, ColumnKind.LEVEL, ColumnKind.DILUTION)


class Listed(NamedTuple):
    """What was listed, the rows of the sheet (from 0) that did so, and those of them that name no well."""

    wells: tuple[ListedWell, ...]
    rows: tuple[int, ...]
    lost: tuple[int, ...]
    level_name: str = ""


def find_list(grid: Grid, rows: Sequence[int], decimal: Decimal) -> Listed:
    """The list among these rows (from 0) of a sheet; empty where there is none."""
    for at, row in enumerate(rows):
        if sum(map(is_heading, grid[row])) > 1 and any(_is_well(cell) for cell in grid[row]):
            below = list(rows[at + 1 :])
            # A list ends where its rows do: a line of one cell below it is a remark.
            own = below[: next((i for i, r in enumerate(below) if sum(map(bool, grid[r])) < 2), len(below))]
            found = _read(grid[row], [(r, grid[r]) for r in own], decimal)
            if found.wells:
                return found._replace(rows=(row, *own))
    return Listed((), (), ())


def read_list(text: str) -> tuple[ListedWell, ...]:
    """A pasted list with a heading row.

    Raises
    ------
    IntakeError : where it has no column of wells, or a row names none, saying which.
    """
    grid = sheets_of_text(text)[0].grid
    width = max(map(len, grid))
    even = [row + [""] * (width - len(row)) for row in grid]
    filled = [i for i, row in enumerate(even) if any(row)]
    listed = find_list(even, filled, guess_decimal([cell for row in even for cell in row]))
    if not listed.wells:
        raise IntakeError(
            "This list has no heading row with a column of wells. Begin it with headings such as Well, Name, Dose."
        )
    if listed.lost:
        row = even[listed.lost[0]]
        raise IntakeError(f"Row {listed.lost[0] + 1} (“{' '.join(filter(None, row))}”) names no well, such as B7.")
    return listed.wells


def _is_well(heading: str) -> bool:
    column = columns_of([], [heading], ".")[0]
    return guess_columns([column])[0] is ColumnKind.WELL


def _read(headings: list[str], body: list[tuple[int, list[str]]], decimal: Decimal) -> Listed:
    columns = columns_of([row for _, row in body], headings, decimal)
    kinds = guess_columns(columns)
    at = {kind: i for i, kind in reversed(list(enumerate(kinds)))}
    if ColumnKind.WELL not in at or not any(kind in at for kind in TOLD):
        return Listed((), (), ())
    unit = split_heading(headings[at[ColumnKind.LEVEL]])[1] if ColumnKind.LEVEL in at else ""
    found, lost = [], []
    for number, row in body:
        cell = {kind: row[i] for kind, i in at.items()}
        if parse_well(cell[ColumnKind.WELL]) is None:
            lost.append(number)
            continue
        name, series, level = (cell.get(k, "") for k in (ColumnKind.NAME, ColumnKind.SERIES, ColumnKind.LEVEL))
        if names_no_series(series):
            name, series = name or series, ""
        role = guess_role(cell.get(ColumnKind.ROLE, ""), name, bool(level))
        found.append(ListedWell(
            plate=cell.get(ColumnKind.PLATE, ""), well=cell[ColumnKind.WELL], name=name, series=series, role=role,
            level=level and f"{level} {unit if level[-1].isdigit() else ''}".strip(),
            dilution=parse_dilution(cell.get(ColumnKind.DILUTION, ""), decimal) or 1.0,
        ))  # fmt: skip
    level_name = split_heading(headings[at[ColumnKind.LEVEL]])[0] if ColumnKind.LEVEL in at else ""
    return Listed(tuple(found), (), tuple(lost), level_name)
