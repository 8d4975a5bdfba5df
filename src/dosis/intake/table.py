"""A table on its way to being understood."""

from dataclasses import dataclass

from dosis.core.numbers import Decimal, TypedNumber
from dosis.intake.columns import ColumnCells
from dosis.intake.levels import Levels
from dosis.intake.text import Grid, Separator
from dosis.intake.understanding import ColumnKind
from dosis.run.layout import Role


@dataclass
class Table:
    """Cells and what they were taken for. `body` holds (row number as pasted, cells) of the rows with data."""

    text: str
    separator: Separator
    decimal: Decimal
    header_row: int | None
    headings: list[str]
    grid: Grid
    body: list[tuple[int, list[str]]]
    asides: list[int]
    columns: list[ColumnCells]
    kinds: list[ColumnKind]
    levels: Levels
    roles: dict[int, Role]
    odd: list[tuple[int, int, TypedNumber]]
    cleaned: int
    signal: tuple[str, str]
    level: tuple[str, str]

    def index(self, kind: ColumnKind) -> int | None:
        """The first column of that kind."""
        return next((i for i, k in enumerate(self.kinds) if k is kind), None)

    def cell(self, cells: list[str], kind: ColumnKind) -> str:
        """A row's cell in the column of that kind, empty when there is none."""
        index = self.index(kind)
        return "" if index is None else cells[index]
