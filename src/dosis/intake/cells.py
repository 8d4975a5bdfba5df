"""The cells of a table and what each column is."""

from dataclasses import dataclass
from functools import cached_property

from dosis.intake.understanding import ColumnKind


@dataclass
class Cells:
    """`body` holds (row number as pasted, cells) of the rows with data; `channels` names the columns of readings."""

    headings: list[str]
    body: list[tuple[int, list[str]]]
    kinds: list[ColumnKind]
    channels: list[str]

    @cached_property
    def _places(self) -> dict[ColumnKind, int]:
        return {kind: i for i, kind in reversed(list(enumerate(self.kinds)))}

    def index(self, kind: ColumnKind) -> int | None:
        """The first column of that kind."""
        return self._places.get(kind)

    @cached_property
    def reading_columns(self) -> list[int]:
        """The columns of readings."""
        return [i for i, kind in enumerate(self.kinds) if kind == "reading"]

    def cell(self, cells: list[str], kind: ColumnKind) -> str:
        """A row's cell in the column of that kind, empty when there is none."""
        index = self._places.get(kind)
        return "" if index is None else cells[index]
