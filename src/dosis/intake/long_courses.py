"""Courses of more rows than a table may have: its first rows say what is what, the others are numbers of the same."""

from contextlib import suppress
from dataclasses import replace

import numpy as np

from dosis.core.arrays import Array
from dosis.core.numbers import Decimal, parse_numbers
from dosis.intake.courses import MAX_NAME, Courses, numbers_of
from dosis.intake.table import Table
from dosis.intake.text import MAX_ROWS, IntakeError, Tail
from dosis.intake.understanding import Statement
from dosis.intake.wording import count_of

MAX_NUMBERS = 4_000_000
PART = 10_000  # lines read at once: where one of them is not plain, these are read cell by cell


def lengthened(found: Courses | None, tail: Tail, table: Table) -> Courses:
    """The courses of a table's first rows, gone on with by the lines after them.

    Raises
    ------
    IntakeError : where they are not columns beside one column of times, or there are too many numbers.
    """
    if found is None or found.by != "column" or table.across == "pairs" or table.turned:
        raise IntakeError(
            f"The table has more than {MAX_ROWS:,} rows. Only courses over time can be that long: a column of times, "
            "headed for example Time (s), and beside it a column of numbers for each. Split it into several runs."
        )
    columns = [found.at, *(course.column for course in found.courses)]
    if (count := len(tail.lines) * len(columns)) > MAX_NUMBERS:
        raise IntakeError(
            f"These courses have {count:,} numbers; {MAX_NUMBERS:,} are the most in one run. Leave out courses, or "
            "bring in every second time."
        )
    numbers, odd = _numbers(tail, table, columns)
    timed = np.isfinite(numbers[:, 0])
    if not timed.any():
        raise IntakeError(
            f"From row {tail.first:,} on no time is a plain number. Of more than {MAX_ROWS:,} rows times are "
            "taken as numbers of one unit, which the heading names: Time (s)."
        )
    time, signals = numbers[timed, 0], numbers[timed, 1:]
    marks = [*found.marks, *_marks(tail, table, found.marked_by, numbers[:, 0])]
    courses = []
    for course, signal in zip(found.courses, signals.T, strict=True):
        x, y = np.concatenate((course.x, time)), np.concatenate((course.y, signal))
        if x.size and (x[1:] < x[:-1]).any():
            order = np.argsort(x, kind="stable")
            x, y = x[order], y[order]
        courses.append(course._replace(x=x, y=y))
    without = [tail.first + int(i) for i in np.flatnonzero(~timed & ~np.isnan(numbers[:, 1:]).all(axis=1))]
    return replace(found, courses=courses, without_place=[*found.without_place, *without],
                   beyond=len(tail.lines), odd_beyond=odd, marks=marks)  # fmt: skip


def state_beyond(table: Table, found: Courses) -> list[Statement]:
    """That rows are used which are not shown, and what in them is no number."""
    if not found.beyond:
        return []
    shown = len(table.body)
    text = f"**{found.beyond + shown:,} rows** in all, all used; the first {shown:,} are shown."
    said = [Statement(id="beyond", state="ok", text=text)]
    if odd := found.odd_beyond:
        cells = count_of(len(odd), "cell")
        text = f"**No plain number in {cells} beyond the rows shown**, left as gaps; the first in row {odd[0]:,}."
        said.append(Statement(id="odd_beyond", state="look", text=text))
    return said


def _marks(tail: Tail, table: Table, column: int | None, times: Array) -> list[tuple[float, str]]:
    """What was noted in the lines after the first ones, and when."""
    if column is None:
        return []
    found = []
    for line, time in zip(tail.lines, times.tolist(), strict=True):
        cells = line.split(table.separator or "\t")
        if column < len(cells) and (text := cells[column].strip()) and np.isfinite(time):
            found.append((time, text[:MAX_NAME]))
    return found


def _numbers(tail: Tail, table: Table, columns: list[int]) -> tuple[Array, list[int]]:
    """(lines, columns) numbers, NaN for none, and the rows of cells that are filled and no numbers."""
    separator, parts, odd = table.separator or "\t", [], []
    for start in range(0, len(tail.lines), PART):
        lines = tail.lines[start : start + PART]
        numbers = _plain(lines, separator, table.decimal, columns)
        if numbers is None:
            numbers, at = _cells(lines, separator, table.decimal, columns)
            odd += [tail.first + start + i for i in at]
        parts.append(numbers)
    return np.concatenate(parts), odd


def _cells(lines: list[str], separator: str, decimal: Decimal, columns: list[int]) -> tuple[Array, list[int]]:
    """The numbers as the cells of any table are read, and which lines have a filled cell that is none."""
    rows = [line.split(separator) for line in lines]
    read = [
        parse_numbers([row[column].strip() if column < len(row) else "" for row in rows], decimal) for column in columns
    ]
    numbers = np.column_stack([numbers_of(cells) for cells in read])
    filled = np.array([[bool(cell.text) for cell in cells] for cells in read]).T
    return numbers, np.nonzero(filled & np.isnan(numbers))[0].tolist()


def _plain(lines: list[str], separator: str, decimal: Decimal, columns: list[int]) -> Array | None:
    """The numbers where every cell is nothing but one: a million of them in a second. None otherwise."""
    if not all(lines):  # it would leave blank lines out, and rows be counted wrong
        return None
    if decimal == "," and separator != ",":
        if any("." in line for line in lines):
            return None
        lines = [line.replace(",", ".") for line in lines]
    with suppress(ValueError):
        numbers: Array = np.loadtxt(lines, delimiter=separator, usecols=columns, ndmin=2, comments=None)
        return numbers if np.isfinite(numbers).all() else None
    return None
