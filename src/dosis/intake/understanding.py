"""What Dosis understood of a table, in data: columns, rows, statements — and the choices that correct them."""

from enum import StrEnum
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.numbers import Meaning
from dosis.run.layout import Layout, Name, Unit
from dosis.run.questions.registry import QuestionId
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.run.roles import Role


class ColumnKind(StrEnum):
    """What a column holds."""

    NAME = "name"
    ROLE = "role"
    LEVEL = "level"
    READING = "reading"
    DILUTION = "dilution"
    SERIES = "series"
    WELL = "well"
    PLATE = "plate"
    CHANNEL = "channel"  # which wavelength or time a row was read at
    TIME = "time"  # after how long a row was counted; each time is a series of its own
    VESSEL = "vessel"  # which of several alike a row is of; they are replicates
    EXCLUDED = "excluded"  # why a reading is left out
    ERROR = "error"  # of the column of readings before it
    NOTE = "note"
    IGNORE = "ignore"


class KindWord(Record):
    """What a kind of column is called."""

    kind: ColumnKind
    text: str


class ColumnChoice(Record):
    """A column taken for something else than guessed."""

    column: int
    kind: ColumnKind


class RowChoice(Record):
    """A row (numbered as pasted, from 1) given another role."""

    row: int
    role: Role


class CellChoice(Record):
    """An odd cell given another meaning; its text stays as it is."""

    row: int
    column: int
    meaning: Literal[Meaning.ABOVE, Meaning.BELOW, Meaning.MISSING, Meaning.TEXT]


class CellEdit(Record):
    """A cell or a heading set right; `row` as shown, counted from 1. What was typed is kept with the source."""

    row: Annotated[int, Field(ge=1, le=100_000)]
    column: Annotated[int, Field(ge=0, le=10_000)]
    text: Annotated[str, Field(max_length=200)]


Shape = Literal["table", "plate"]
Across = Literal["replicates", "channels", "series", "pairs"]


class Choices(Record):
    """Corrections by a person; None and empty leave the guess.

    question : what is to be asked. log_levels : whether levels are typed as log10; zero_level : the log10 that stands
    for none. level_unit relabels the numbers, level_shown converts them.
    """

    separator: Literal["\t", ";", ","] | None = None
    encoding: Literal["cp437", "cp850", "cp1252"] | None = None
    decimal: Literal[".", ","] | None = None
    header: bool | None = None
    stack: bool = True
    sheet: Annotated[int, Field(ge=0, lt=1000)] | None = None
    shape: Shape | None = None
    turn: bool | None = None
    across: Across | None = None
    columns: Annotated[tuple[ColumnChoice, ...], Field(max_length=5_000)] = ()
    rows: Annotated[tuple[RowChoice, ...], Field(max_length=100_000)] = ()
    cells: Annotated[tuple[CellChoice, ...], Field(max_length=100_000)] = ()
    signal_name: Name | None = None
    signal_unit: Unit | None = None
    level_name: Name | None = None
    level_unit: Unit | None = None
    level_shown: Unit | None = None
    log_levels: bool | None = None
    zero_level: float | None = None
    question: QuestionId | None = None
    edits: Annotated[tuple[CellEdit, ...], Field(max_length=20_000)] = ()


class CellMark(StrEnum):
    """How a cell was taken; the preview colors by it."""

    NUMBER = "number"
    UNIT = "unit"  # a number whose unit was lifted to the heading
    ABOVE = "above"
    BELOW = "below"
    MISSING = "missing"
    ODD = "odd"
    TEXT = "text"
    LABEL = "label"  # a row or column heading of a plate
    NAME = "name"  # a cell of a grid that says what the wells are


class Column(Record):
    """A column as understood."""

    heading: str
    kind: ColumnKind
    unit: str = ""


class Row(Record):
    """A row as pasted (`number` counts from 1) with its role; None for a heading, a note or an empty row."""

    number: int
    role: Role | None
    cells: tuple[str, ...]
    marks: tuple[CellMark, ...]


class Statement(Record):
    """One thing understood. `change` names the way to correct it on the screen."""

    id: str
    state: Literal["ok", "look", "stop"]
    text: str
    change: Literal[
        "", "header", "decimal", "separator", "unit", "signal", "columns", "roles", "cells", "stack", "turn", "sheet",
        "shape", "across", "encoding", "question", "zero", "log",
    ] = ""  # fmt: skip


class Edited(Record):
    """A cell set right: where it is shown, and what was typed there."""

    row: int
    column: int
    was: str


class PlateSeen(Record):
    """A plate as found: how many wells of it hold a reading."""

    name: str
    rows: int
    columns: int
    filled: int


class Understanding(Record):
    """All that was understood; `ready` when a run can be opened from it. `rows` may be the first of `row_count`.

    asks : the question such readings are most likely asked; `why` in a sentence. question : what they are asked, which
    is that until a person chooses. kinds : what its columns can be taken for, as this question calls them.
    called : a name for the run, from what stands in it.
    heading_row : the row of headings, as shown. zero : the lowest log dose, where one may stand for none.
    """

    shape: Shape
    turned: bool
    across: Across
    sheets: tuple[str, ...]
    sheet: int | None
    plates: tuple[PlateSeen, ...]
    channels: tuple[str, ...]
    notes: tuple[str, ...]
    separator: Literal["\t", ";", ","] | None
    decimal: Literal[".", ","]
    header: bool
    columns: tuple[Column, ...]
    rows: tuple[Row, ...]
    row_count: int
    statements: tuple[Statement, ...]
    ready: bool
    signal_name: str
    signal_unit: str
    level_name: str
    level_unit: str
    asks: QuestionId = "concentration"
    why: str = ""
    question: QuestionId = "concentration"
    kinds: tuple[KindWord, ...] = ()
    edited: tuple[Edited, ...] = ()
    heading_row: int | None = None
    zero: float | None = None
    logged: bool = False
    called: str = ""

    @property
    def stop(self) -> str:
        """What stands in the way of a run, as it is said by itself; empty where nothing does."""
        return next((each.text.replace("**", "") for each in self.statements if each.state == "stop"), "")


class Intake(Record):
    """Readings and first layout, with what was understood; None where there is nothing to open."""

    understanding: Understanding
    readings: Readings | None
    layout: Layout | None
