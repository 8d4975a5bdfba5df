"""The answers of a run as one typed table, which serves the page, every export, the terminal and the Ledger alike.

It stands column by column: numbers beside their texts, so that nobody who shows or writes it has to know the question.
"""

from collections.abc import Iterable, Sequence
from dataclasses import KW_ONLY
from typing import Literal

from dosis.run.outcome.value import Remark, Value
from dosis.run.record import Record, changed, light
from dosis.run.roles import Role

Censor = Literal["", ">", "<", "≤"]


@light
class AnswerRow:
    """What an answer is of.

    key : one of its kind in the run; the group's id, or with what tells this reading or plate from the group's others.
    group : which readings it is of; reading : the one reading, where each has its own answer. curve : the key of the
        curve it was read off; series : the series of the layout it is of, where answers are of series.
    """

    _: KW_ONLY
    key: str
    name: str
    group: str
    role: Role
    reading: int | None = None
    curve: str = ""
    series: str | None = None
    remarks: tuple[Remark, ...] = ()


@light
class AnswerColumn:
    """A column of answers: one value, text and, of numbers with an interval, its ends for every row.

    name : with its unit the heading where there is room; short : where there is little, as on the page.
    kind : "text" has no values; a "count" is a whole number; a "number" stands alone, a "value" with its interval.
    where : shown on the page "always", when "more" is asked for, or in "exports" only.
    level : of the interval; interval : where the page shows it beside the number, as `where`.
    lead : whether it is what the run was asked for. working : the id of the working behind it, within its curve.
    """

    _: KW_ONLY
    id: str
    name: str
    unit: str = ""
    short: str = ""
    note: str = ""
    kind: Literal["text", "count", "number", "value"]
    where: Literal["always", "more", "exports"] = "always"
    level: float | None = None
    interval: Literal["always", "more", "exports"] = "exports"
    lead: bool = False
    working: str = ""
    texts: tuple[str, ...]
    values: tuple[float | None, ...] = ()
    censors: tuple[Censor, ...] = ()
    lowers: tuple[float | None, ...] = ()
    uppers: tuple[float | None, ...] = ()
    lower_texts: tuple[str, ...] = ()
    upper_texts: tuple[str, ...] = ()

    @property
    def heading(self) -> str:
        """ "In reading (µM)"."""
        return f"{self.name} ({self.unit})" if self.unit else self.name

    def value(self, row: int) -> Value:
        """A cell as a value; one without an interval where the column has none."""
        if self.kind != "value":
            return Value(self.values[row] if self.values else None, shown=self.texts[row])
        return Value(
            self.values[row], self.lowers[row], self.uppers[row], self.censors[row], self.texts[row],
            self.lower_texts[row], self.upper_texts[row],
        )  # fmt: skip


class AnswerTable(Record):
    """Rows and the columns that say something of each; `of` is what the rows are called, `title` the table."""

    of: str = "Name"
    title: str = ""
    rows: tuple[AnswerRow, ...] = ()
    columns: tuple[AnswerColumn, ...] = ()

    def column(self, id: str) -> AnswerColumn:
        """The column of that id. Raises KeyError."""
        for column in self.columns:
            if column.id == id:
                return column
        raise KeyError(id)

    @property
    def leads(self) -> tuple[AnswerColumn, ...]:
        """What the run was asked for; the first leads."""
        return tuple(column for column in self.columns if column.lead)


def texts(id: str, name: str, cells: Iterable[str], **more: object) -> AnswerColumn:
    """A column of words."""
    return AnswerColumn(id=id, name=name, kind="text", texts=tuple(cells), **more)  # type: ignore[arg-type]


def numbers(
    id: str, name: str, values: Iterable[float | None], shown: Iterable[str], *,
    kind: Literal["count", "number"] = "number", **more: object,
) -> AnswerColumn:  # fmt: skip
    """A column of bare numbers."""
    return AnswerColumn(id=id, name=name, kind=kind, values=tuple(values), texts=tuple(shown), **more)  # type: ignore[arg-type]


def values(id: str, name: str, cells: Sequence[Value], **more: object) -> AnswerColumn:
    """A column of numbers, each with its interval or as a bound."""
    return AnswerColumn(
        id=id, name=name, kind="value", texts=tuple([each.shown for each in cells]),
        values=tuple([each.value for each in cells]), censors=tuple([each.censor for each in cells]),
        lowers=tuple([each.lower for each in cells]), uppers=tuple([each.upper for each in cells]),
        lower_texts=tuple([each.shown_lower for each in cells]),
        upper_texts=tuple([each.shown_upper for each in cells]),
        **more,  # type: ignore[arg-type]
    )  # fmt: skip


def bare(id: str, name: str, cells: Sequence[Value], **more: object) -> AnswerColumn:
    """A column of numbers whose intervals, if they have any, are not told."""
    return numbers(id, name, [each.value for each in cells], [each.shown for each in cells], **more)  # type: ignore[arg-type]


CELLS = ("texts", "values", "censors", "lowers", "uppers", "lower_texts", "upper_texts")


def joined(tables: Sequence[AnswerTable]) -> AnswerTable:
    """Tables of the same columns under each other."""
    first, *rest = tables
    columns = []
    for i, column in enumerate(first.columns):
        below = [table.columns[i] for table in rest]
        cells = {name: sum((getattr(each, name) for each in below), getattr(column, name)) for name in CELLS}
        columns.append(changed(column, **cells))
    rows = sum((table.rows for table in rest), first.rows)
    return first.model_copy(update={"rows": rows, "columns": tuple(columns)})
