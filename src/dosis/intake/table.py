"""A table on its way to being understood."""

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from dosis.core.numbers import Decimal, TypedNumber
from dosis.intake.columns import ColumnCells
from dosis.intake.levels import Levels
from dosis.intake.text import Grid, Separator
from dosis.intake.understanding import Across, ColumnKind
from dosis.run.layout import Role

if TYPE_CHECKING:
    from dosis.intake.well_list import WellList


@dataclass
class Table:
    """Cells and what they were taken for. `body` holds (row number as pasted, cells) of the rows with data."""

    separator: Separator | None
    decimal: Decimal
    header_row: int | None
    headings: list[str]
    grid: Grid
    body: list[tuple[int, list[str]]]
    asides: list[int]
    columns: list[ColumnCells]
    kinds: list[ColumnKind]
    levels: Levels
    across: Across
    channels: list[str]
    turned: bool
    sheets: list[str]
    name: str
    roles: dict[int, Role]
    odd: list[tuple[int, int, TypedNumber]]
    cleaned: int
    signal: tuple[str, str]
    level: tuple[str, str]

    @cached_property
    def wells(self) -> "WellList | str | None":
        """The plates its wells make; why they make none; None where the table names no wells."""
        from dosis.intake.well_list import well_list

        return well_list(self)

    @property
    def undescribed(self) -> bool:
        """Whether it says of wells only what was read there, so that the plate is still to be laid out."""
        told = (ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.LEVEL)
        return isinstance(self.wells, tuple) and all(self.index(kind) is None for kind in told)

    @cached_property
    def _places(self) -> dict[ColumnKind, int]:
        return {kind: i for i, kind in reversed(list(enumerate(self.kinds)))}

    def index(self, kind: ColumnKind) -> int | None:
        """The first column of that kind."""
        return self._places.get(kind)

    def cell(self, cells: list[str], kind: ColumnKind) -> str:
        """A row's cell in the column of that kind, empty when there is none."""
        index = self._places.get(kind)
        return "" if index is None else cells[index]
