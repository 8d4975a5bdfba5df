"""Cells and headings set right by a person before anything is understood of them; what was typed stays beside it."""

from collections.abc import Sequence

from dosis.intake.text import Grid
from dosis.intake.understanding import CellEdit, Edited


def edited(grid: Grid, edits: Sequence[CellEdit]) -> Grid:
    """The grid with these cells; an edit outside it changes nothing."""
    if not edits:
        return grid
    made = [list(row) for row in grid]
    for edit in edits:
        if edit.row <= len(made) and edit.column < len(made[edit.row - 1]):
            made[edit.row - 1][edit.column] = " ".join(edit.text.split())
    return made


def was(grid: Grid, edits: Sequence[CellEdit]) -> tuple[Edited, ...]:
    """What was typed in the cells that were set right."""
    return tuple(
        Edited(row=edit.row, column=edit.column, was=grid[edit.row - 1][edit.column])
        for edit in edits
        if edit.row <= len(grid) and edit.column < len(grid[edit.row - 1])
    )
