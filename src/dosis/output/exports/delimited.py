"""Answers as comma- or tab-separated text: full precision beside what is shown."""

import csv
import io
from collections.abc import Iterable, Sequence
from typing import Literal

from dosis.output.answers import Cell, answer_cells
from dosis.output.exports.export import Export, Subject
from dosis.run.outcome.table import AnswerTable

_MARK = "\ufeff".encode()  # makes spreadsheets read µ as µ
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def delimited(answers: AnswerTable, separator: Literal[",", "\t"]) -> str:
    """One row for each answer below a heading row; rows end in CRLF (RFC 4180)."""
    headings, rows = answer_cells(answers)
    buffer = io.StringIO()
    writer = csv.writer(buffer, delimiter=separator, lineterminator="\r\n")
    writer.writerow(headings)
    writer.writerows([_written(cell) for cell in row] for row in rows)
    return buffer.getvalue()


def written(rows: Iterable[Sequence[Cell]]) -> bytes:
    """Any table as a CSV file that a spreadsheet opens: full precision, and nothing that it would run as a formula."""
    buffer = io.StringIO()
    csv.writer(buffer, lineterminator="\r\n").writerows([_written(cell) for cell in row] for row in rows)
    return _MARK + buffer.getvalue().encode()


def _written(cell: Cell) -> str:
    if isinstance(cell, str):
        return _safe(cell)
    return "" if cell is None else repr(cell + 0)  # a zero has no sign


def _safe(text: str) -> str:
    """A name that a spreadsheet would run as a formula gets an apostrophe before it (OWASP, CSV injection)."""
    text = " ".join(text.split())
    return f"'{text}" if text.startswith(_FORMULA) else text


def _csv(run: Subject) -> bytes:
    return _MARK + _all(run, ",").encode()


def _tsv(run: Subject) -> bytes:
    return _all(run, "\t").encode()


def _all(run: Subject, separator: Literal[",", "\t"]) -> str:
    """The answers and, each below an empty line and its title, those that rest on them."""
    parts = [delimited(run.outcome.answers, separator)]
    parts += [f"{_safe(table.title)}\r\n{delimited(table, separator)}" for table in run.outcome.further]
    return "\r\n".join(parts)


CSV = Export("csv", "CSV", "The answers at full precision", "text/csv", _csv)
TSV = Export(
    "tsv",
    "Tab-separated",
    "The answers at full precision, to be pasted",
    "text/tab-separated-values",
    _tsv,
    pasted=True,
)
