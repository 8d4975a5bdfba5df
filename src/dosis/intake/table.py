"""A table on its way to being understood."""

from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from dosis.core.numbers import Decimal, TypedNumber
from dosis.intake.cells import Cells
from dosis.intake.columns import ColumnCells, is_axis, time_of
from dosis.intake.dilutions import parse_dilution
from dosis.intake.levels import Levels, names_what_was_read, stands_for_none
from dosis.intake.roles import names_no_series
from dosis.intake.text import Grid, Separator
from dosis.intake.understanding import Across, ColumnKind
from dosis.intake.well_list import WellList, well_list
from dosis.run.questions.registry import QuestionId
from dosis.run.roles import Role
from dosis.run.trade_words import are_counts, count_and_time


@dataclass
class Table(Cells):
    """Cells and what they were taken for.

    heading_rows : rows of headings, one or two. levels : of the first column of them; at_levels : of each, by column.
    courses : where it is asked how fast, the courses that were found in it.
    shares : headings of columns that were counts such as "3/5". long : whether these are
    the first rows of a long file.
    """

    separator: Separator | None
    decimal: Decimal
    header_row: int | None
    heading_rows: list[int]
    grid: Grid
    asides: list[int]
    columns: list[ColumnCells]
    levels: Levels
    at_levels: dict[int, Levels]
    across: Across
    turned: bool
    sheets: list[str]
    name: str
    roles: dict[int, Role]
    odd: list[tuple[int, int, TypedNumber]]
    cleaned: int
    signal: tuple[str, str]
    level: tuple[str, str]
    shares: tuple[str, ...] = ()
    asks: QuestionId = "concentration"
    why: str = ""
    question: QuestionId = "concentration"
    courses: Any = None
    long: bool = False

    @cached_property
    def wells(self) -> WellList | str | None:
        """The plates its wells make; why they make none; None where the table names no wells."""
        return well_list(self)

    @property
    def undescribed(self) -> bool:
        """Whether it says of wells only what was read there, so that the plate is still to be laid out."""
        told = (ColumnKind.NAME, ColumnKind.ROLE, ColumnKind.LEVEL)
        return isinstance(self.wells, tuple) and all(self.index(kind) is None for kind in told)

    @cached_property
    def counts(self) -> tuple[tuple[str, str], ...]:
        """What each column of readings counts, and the time that its heading names; empty where none counts."""
        return tuple(map(count_and_time, self.channels)) if are_counts(self.channels) else ()

    def named(self, cells: list[str]) -> str:
        """The name of a row; where it has none, "Vehicle" or "Blank" in the column of series or levels is one.

        In a table without names, words in the place of a level are one, too: "lysate" below "0, 2, 4 µg".
        """
        name, series = self.cell(cells, ColumnKind.NAME), self.cell(cells, ColumnKind.SERIES)
        if not name and names_no_series(series):
            return series
        level = self.cell(cells, ColumnKind.LEVEL)
        return level if not name and level and (stands_for_none(level) or self.named_by_level(level)) else name

    def named_by_level(self, text: str) -> bool:
        """Whether what stands in the place of a level is a name, because the table has no column of names.

        Among wavelengths and times it is none: "max" at the end of a scan was not read.
        """
        if self.index(ColumnKind.NAME) is not None or not names_what_was_read(text, self.decimal):
            return False
        at = self.index(ColumnKind.LEVEL)
        return at is None or not is_axis(self.headings[at])

    def series(self, cells: list[str]) -> str:
        """The series of a row: as it says, and the time point of its counts."""
        at = self.index(ColumnKind.TIME)
        time = "" if at is None else time_of(self.headings[at], cells[at])
        series = self.cell(cells, ColumnKind.SERIES)
        own = "" if not self.cell(cells, ColumnKind.NAME) and names_no_series(series) else series
        return ", ".join(filter(None, (own, time)))

    def same_thing(self, number: int, cells: list[str]) -> tuple[Hashable, ...] | None:
        """What rows have in common that are replicates of one thing; None for a row that is one of its own.

        Unnamed samples are each their own; unnamed standards of one level, and unnamed blanks, are replicates.
        """
        role, name, level = self.roles[number], self.named(cells), self.levels.values.get(number)
        if not (name or role is Role.BLANK or (role is Role.STANDARD and level is not None)):
            return None
        dilution = parse_dilution(self.cell(cells, ColumnKind.DILUTION), self.decimal) or 1.0
        return role, name, level, self.series(cells), dilution
