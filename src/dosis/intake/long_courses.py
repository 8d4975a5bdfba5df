"""Courses of more rows than a table may have: its first rows say what is what, the others are numbers of the same."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from dosis.core.arrays import Array
from dosis.intake.courses import MAX_NAME, Courses
from dosis.intake.table import Table
from dosis.intake.tail import Tail
from dosis.intake.text import MAX_CELLS, MAX_ROWS, IntakeError
from dosis.intake.understanding import Statement
from dosis.intake.wording import count_of, roughly
from dosis.run.recording import LONG, Recording, extremes_of

MOST_ODD = 0.1  # of the cells beyond the first rows that may be no numbers
Room = Callable[[tuple[int, int]], Array]  # where numbers are put: an array of that shape


class NotLong(IntakeError):
    """A table that is no curves beside one axis, and must be understood cell by cell."""


def lengthened(found: Courses | None, tail: Tail, table: Table, *, room: Room = np.empty, look_only: bool) -> Courses:
    """The courses of a table's first rows, gone on with by the rows after them.

    With `look_only` those of a long file are counted, and not read.

    Raises
    ------
    IntakeError : where they are not columns beside one column of times or wavelengths, there are too many numbers, or
        many cells are none.
    """
    if found is None or found.by != "column" or table.across == "pairs" or table.turned:
        raise NotLong(
            f"The table has more than {MAX_ROWS:,} rows, or more than {MAX_CELLS:,} cells. Only courses over time can "
            "be that long, and scans: a column of times or wavelengths, headed for example Time (s), and beside it a "
            "column of numbers for each. Split it into several runs."
        )
    columns = [found.at, *(course.column for course in found.courses)]
    later = tail.later and look_only
    if (count := (tail.about if later else tail.rows) * len(columns)) > tail.limit:
        raise IntakeError(
            f"These {found.along.curve}s have {count:,} numbers; {tail.limit:,} are the most in one run. Leave out "
            f"{found.along.curve}s, or bring in every second {found.along.place}."
        )
    if later:
        return replace(found, beyond=tail.about, later=True)
    head = found.courses[0].x.size
    numbers = room((len(columns), head + tail.rows))
    for row, values in zip(numbers, [found.courses[0].x, *(course.y for course in found.courses)], strict=True):
        row[:head] = values
    n, row, odd, without, marks = head, tail.first, [], [], list(found.marks)
    for part in tail.parts(columns, found.marked_by, table.decimal):
        timed = np.isfinite(part.numbers[:, 0])
        there = part.numbers[timed]
        numbers[:, n : n + len(there)] = there.T
        n += len(there)
        odd += [row + i for i in part.odd]
        without += [row + int(i) for i in np.flatnonzero(~timed & ~np.isnan(part.numbers[:, 1:]).all(axis=1))]
        marks += [(float(part.numbers[i, 0]), text[:MAX_NAME]) for i, text in part.notes if timed[i]]
        row += len(part.numbers)
    _refuse(found, tail, read=n - head, odd=odd, columns=len(columns))
    x = numbers[0, :n]
    if (x[1:] < x[:-1]).any():
        order = np.argsort(x, kind="stable")
        for values in numbers:
            values[:n] = values[:n][order]
    y = numbers[1:, :n]
    recording = Recording(x, y, extremes_of(y) if n > LONG else None)
    courses = [course._replace(x=x, y=values) for course, values in zip(found.courses, y, strict=True)]
    return replace(found, courses=courses, recording=recording, without_place=[*found.without_place, *without],
                   beyond=row - tail.first, odd_beyond=odd, marks=marks)  # fmt: skip


def state_beyond(table: Table, found: Courses) -> list[Statement]:
    """That rows are used which are not shown, and what in them is no number."""
    if not found.beyond:
        return []
    shown = len(table.body)
    text = f"**{found.beyond + shown:,} rows** in all, all used; the first {shown:,} are shown."
    if found.later:
        text = (
            f"**About {roughly(found.beyond + shown)} rows** in all; the first {shown:,} are shown. The others are "
            "read when the run is opened. What in them is no number becomes a gap, and the run says how many there are."
        )
    said = [Statement(id="beyond", state="ok", text=text)]
    if odd := found.odd_beyond:
        cells = count_of(len(odd), "cell")
        text = f"**No plain number in {cells} beyond the rows shown**, left as gaps; the first in row {odd[0]:,}."
        said.append(Statement(id="odd_beyond", state="look", text=text))
    return said


def _refuse(found: Courses, tail: Tail, *, read: int, odd: list[int], columns: int) -> None:
    place = found.along.place
    if not read:
        raise IntakeError(
            f"From row {tail.first:,} on no {place} is a plain number. Of a table that long, {place}s are taken as "
            "numbers of one unit, which the heading names: Time (s)."
        )
    if tail.later and len(odd) > MOST_ODD * read * columns:
        raise IntakeError(
            f"{len(odd):,} cells beyond the rows shown are no plain numbers, the first in row {odd[0]:,}: too many to "
            "be left as gaps. Look at that row, and choose the decimal sign or the columns accordingly."
        )
