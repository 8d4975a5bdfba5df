"""What comes after the first rows of a very long table: numbers of the same columns, read a part at a time."""

import csv
from collections.abc import Iterable, Iterator, Sequence
from contextlib import suppress
from typing import NamedTuple, Protocol

import numpy as np

from dosis.core.arrays import Array
from dosis.core.numbers import Decimal, parse_numbers
from dosis.intake.courses import numbers_of
from dosis.intake.text import IntakeError, Separator

LINES = 10_000  # read at once where they are not plain: where one of them is not, these are read cell by cell


class Part(NamedTuple):
    """Some rows of it.

    numbers : (rows, columns), NaN for none. odd : which of the rows, from 0, hold a filled cell that is no number, once
    for each. notes : which hold a note, and its text.
    """

    numbers: Array
    odd: list[int]
    notes: list[tuple[int, str]]


class Tail(Protocol):
    """The rows after the first ones.

    first : how the first of them is numbered, as the table shows its rows. rows : how many there are, at most; about :
    the same where it need not be sure. limit : how many numbers may be taken from it. later : whether it is read only
    when a run is opened, because it is long.
    """

    @property
    def first(self) -> int: ...
    @property
    def rows(self) -> int: ...
    @property
    def about(self) -> int: ...
    @property
    def limit(self) -> int: ...
    @property
    def later(self) -> bool: ...

    def parts(self, columns: Sequence[int], noted: int | None, decimal: Decimal) -> Iterator[Part]:
        """Its rows in order: the numbers of those columns, and what is written in the noted one."""
        ...


class LinesTail:
    """The lines of a pasted text."""

    later = False

    def __init__(self, lines: Sequence[str], first: int, separator: Separator, limit: int) -> None:
        self.first, self.rows, self.about, self.limit = first, len(lines), len(lines), limit
        self._lines, self._separator = lines, separator

    def parts(self, columns: Sequence[int], noted: int | None, decimal: Decimal) -> Iterator[Part]:
        """As of every tail."""
        return read_lines(self._lines, self._separator, columns, noted, decimal)


def read_text(
    text: bytes, width: int, separator: Separator, columns: Sequence[int], noted: int | None, decimal: Decimal
) -> Iterable[Part]:  # fmt: skip
    """Whole lines of UTF-8 that a table goes on with: at once where all are plain, else a few thousand at a time."""
    plain = _plain_text(text, width, separator, columns, noted, decimal)
    if plain is not None:
        return [plain]
    return read_lines(text.decode("utf-8", "replace").splitlines(), separator, columns, noted, decimal)


def read_lines(
    lines: Sequence[str], separator: Separator, columns: Sequence[int], noted: int | None, decimal: Decimal
) -> Iterator[Part]:  # fmt: skip
    """Lines that a table goes on with."""
    for start in range(0, len(lines), LINES):
        some = lines[start : start + LINES]
        numbers, odd = _plain(some, separator, decimal, columns), list[int]()
        rows = None
        if numbers is None:
            rows = list(csv.reader(some, delimiter=separator))
            if len(rows) != len(some):
                raise IntakeError("A quote that opens in one row of this table closes in another; mend that first.")
            numbers, odd = _cells(rows, decimal, columns)
        yield Part(numbers, odd, [] if noted is None else _notes(rows or csv.reader(some, delimiter=separator), noted))


def _notes(rows: Iterable[Sequence[str]], noted: int) -> list[tuple[int, str]]:
    return [(i, text) for i, row in enumerate(rows) if noted < len(row) and (text := row[noted].strip())]


def _cells(rows: list[list[str]], decimal: Decimal, columns: Sequence[int]) -> tuple[Array, list[int]]:
    """The numbers as the cells of any table are read, and which rows have a filled cell that is none."""
    read = [
        parse_numbers([row[column].strip() if column < len(row) else "" for row in rows], decimal) for column in columns
    ]
    numbers = np.column_stack([numbers_of(cells) for cells in read])
    filled = np.array([[bool(cell.text) for cell in cells] for cells in read]).T
    return numbers, np.nonzero(filled & np.isnan(numbers))[0].tolist()


def _plain(lines: Sequence[str], separator: str, decimal: Decimal, columns: Sequence[int]) -> Array | None:
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


def _plain_text(
    text: bytes, width: int, separator: Separator, columns: Sequence[int], noted: int | None, decimal: Decimal
) -> Part | None:  # fmt: skip
    """Where every row is as wide as the table, and every cell of these columns empty or nothing but a number."""
    import pyarrow as pa  # takes a moment to load, and only long files need it
    from pyarrow import csv as arrow

    names = [str(i) for i in range(width)]
    kinds = {str(i): pa.float64() for i in columns}
    if noted is not None:
        kinds[str(noted)] = pa.string()
    try:
        found = arrow.read_csv(
            pa.BufferReader(text), arrow.ReadOptions(use_threads=False, column_names=names, block_size=len(text) + 1),
            arrow.ParseOptions(delimiter=separator, ignore_empty_lines=False),
            arrow.ConvertOptions(
                column_types=kinds, include_columns=list(kinds), null_values=[""], decimal_point=decimal
            ),
        )  # fmt: skip
    except pa.ArrowInvalid:
        return None
    if found.num_rows != text.count(b"\n") + (not text.endswith(b"\n")):
        return None
    numbers = np.empty((found.num_rows, len(columns)))
    for k, i in enumerate(columns):
        column = found[str(i)]
        numbers[:, k] = column.to_numpy()
        if int(np.isfinite(numbers[:, k]).sum()) != found.num_rows - column.null_count:
            return None  # "nan" and "inf" are words, not empty cells
    notes: list[tuple[int, str]] = []
    if noted is not None:
        said = found[str(noted)].to_numpy(zero_copy_only=False)
        notes = [(i, note) for i in np.flatnonzero(said != "").tolist() if (note := str(said[i]).strip())]
    return Part(numbers, [], notes)
