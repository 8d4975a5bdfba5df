"""Files too long to be held as a text: delimited text, arrays (NPY) and Parquet, read a part at a time.

Their first rows are understood as any table is; the rest is numbers of the same columns.
"""

import codecs
from collections.abc import Callable, Iterator, Sequence
from functools import cached_property
from io import SEEK_END
from itertools import chain
from math import isfinite, nan
from typing import Any, Protocol

import numpy as np

from dosis.core.arrays import Array
from dosis.core.numbers import Decimal
from dosis.intake.sheets import Sheet
from dosis.intake.tail import Part, read_text
from dosis.intake.text import (
    MAX_COLUMNS,
    SEEN,
    IntakeError,
    Separator,
    encoding_of,
    guess_separator,
    rows_of_head,
    split,
    width_of,
)
from dosis.intake.workbook import is_workbook

MAX_LONG = 2_000_000_000  # bytes of a file
MAX_NUMBERS = 60_000_000
FIRST = 4_000_000  # bytes of a text by which its encoding, separator and first rows are told
DAMAGED = "This Parquet file is damaged, or was cut short on the way."
TEXT_PART, ROWS_PART = 8_000_000, 200_000  # bytes and rows that are read at once


class LongFile(Protocol):
    """Bytes that can be read from any place on; `read` brings fewer than asked for at the end alone."""

    def read(self, size: int = -1, /) -> Any: ...
    def seek(self, offset: int, whence: int = 0, /) -> int: ...
    def tell(self) -> int: ...


def long_sheet(
    name: str, file: LongFile, separator: Separator | None = None, encoding: str | None = None, *,
    lines: int | None = None,
) -> Sheet:  # fmt: skip
    """The first rows of a long file as a sheet of cells, with its other rows as the tail.

    file : seekable; it must stay open as long as the tail is read. lines : how many it has at most, where that is
    known.

    Raises
    ------
    IntakeError : for a file that is no text, no array of rows and columns, or damaged.
    """
    file.seek(0)
    magic = file.read(8)
    file.seek(0)
    try:
        if magic.startswith(b"\x93NUMPY"):
            return _array(name, file)
        if magic.startswith(b"PAR1"):
            return _parquet(name, file)
        if is_workbook(magic):
            raise IntakeError("A workbook that large cannot be read in. Save its sheet as CSV and bring that in.")
        return _text(name, file, separator, encoding, lines)
    except IntakeError as error:
        raise IntakeError(f"{name}: {error}") from error


class _TextTail:
    """The lines of a delimited text after the first ones."""

    later, limit = True, MAX_NUMBERS

    def __init__(
        self, file: LongFile, encoding: str, separator: Separator, head: int, width: int, about: int, most: int | None
    ) -> None:
        self.first, self.about = head + 1, about
        self._file, self._encoding, self._separator, self._width, self._most = file, encoding, separator, width, most

    @cached_property
    def rows(self) -> int:
        most = self._most
        if most is None:
            most = 1 + sum(part.count(b"\n") for part in _in_utf8(self._file, self._encoding))
        return most + 1 - self.first

    def parts(self, columns: Sequence[int], noted: int | None, decimal: Decimal) -> Iterator[Part]:
        for text in _after(_in_utf8(self._file, self._encoding), self.first - 1):
            yield from read_text(text, self._width, self._separator, columns, noted, decimal)


def _text(
    name: str, file: LongFile, separator: Separator | None, encoding: str | None, most: int | None
) -> Sheet:  # fmt: skip
    start = file.read(FIRST)
    whole = not file.read(1)
    own = encoding or encoding_of(start if whole else start[: start.rfind(b"\n") + 1])
    text = start.decode(own, errors="replace")
    if not whole:
        text = text[: text.rfind("\n") + 1]
    if not text.strip():
        raise IntakeError("Its first 4 MB hold no row. Bring in a table with a row for each time.")
    lines = text.replace("\r\n", "\n").rstrip("\n").split("\n")
    chosen = separator or guess_separator(text)
    head = min(rows_of_head(width_of(lines)), len(lines))
    grid = split("\n".join(lines[:head]), chosen)
    if len(grid) != head:
        raise IntakeError("A cell of it runs over the end of a line. In a file that long each line must be a row.")
    if whole and len(lines) == head:
        return Sheet(name, grid, chosen)
    about = round((file.seek(0, SEEK_END) / len(start)) * len(lines)) - head
    return Sheet(name, grid, chosen, 0, _TextTail(file, own, chosen, head, max(map(len, grid)), about, most))


def _in_utf8(file: LongFile, encoding: str) -> Iterator[bytes]:
    """A text from its beginning, as UTF-8."""
    file.seek(0)
    decoder = codecs.getincrementaldecoder(encoding)("replace")
    for part in iter(lambda: file.read(TEXT_PART), b""):
        yield part if encoding == "utf-8" else decoder.decode(part).encode("utf-8", "replace")


def _after(parts: Iterator[bytes], skip: int) -> Iterator[bytes]:
    """Whole lines after so many, some megabytes at a time; empty lines at the end are left out."""
    rest = b""
    for part in chain(parts, [b"\n"]):
        text, at = rest + part, 0
        while skip and (end := text.find(b"\n", at)) >= 0:
            at, skip = end + 1, skip - 1
        # Empty lines are kept back: they may be the last, and are no rows then.
        filled = at + len(text[at : text.rfind(b"\n") + 1].rstrip(b"\r\n"))
        stop = at if skip or filled <= at else text.index(b"\n", filled) + 1
        rest = text[stop:]
        if stop > at:
            yield text[at:stop]


class _ColumnsTail:
    """The rows of a file of columns after the first ones; `read(start, columns)` brings them from there on."""

    later, limit = True, MAX_NUMBERS

    def __init__(self, head: int, rows: int, read: "ReadColumns") -> None:
        self.first, self.rows, self.about = head + 2, rows - head, rows - head  # the headings are the first row shown
        self._head, self._read = head, read

    def parts(self, columns: Sequence[int], noted: int | None, decimal: Decimal) -> Iterator[Part]:
        return self._read(self._head, columns, noted)


ReadColumns = Callable[[int, Sequence[int], int | None], Iterator[Part]]


def _of_columns(name: str, headings: Sequence[str], rows: int, read: ReadColumns, notes: Sequence[int] = ()) -> Sheet:
    """A sheet of columns: their headings, and the first rows as cells. notes : which hold words."""
    if len(headings) > MAX_COLUMNS:
        raise IntakeError(f"It has {len(headings):,} columns; {MAX_COLUMNS:,} are the most. Leave out some of them.")
    if not rows:
        raise IntakeError("There is no row in it.")
    head = min(rows_of_head(len(headings)), rows)
    numbered = [i for i in range(len(headings)) if i not in notes]
    grid: list[list[str]] = []
    for part in read(0, numbered, None):
        for values in part.numbers[: head - len(grid)].tolist():
            cells = dict(zip(numbered, values, strict=True))
            row = (cells.get(i, nan) for i in range(len(headings)))
            grid.append([f"{value:.17g}" if isfinite(value) else "" for value in row])
        if len(grid) == head:
            break
    for i in notes:
        first = 0
        for part in read(0, [], i):
            for at, text in part.notes:
                if first + at < head:
                    grid[first + at][i] = text
            first += len(part.numbers)
            if first >= head:
                break
    tail = _ColumnsTail(head, rows, read) if rows > head else None
    return Sheet(name, [list(headings), *grid], None, 0, tail)


def _array(name: str, file: LongFile) -> Sheet:
    try:
        version = np.lib.format.read_magic(file)
        header = np.lib.format.read_array_header_1_0 if version == (1, 0) else np.lib.format.read_array_header_2_0
        shape, fortran, dtype = header(file)
    except (ValueError, KeyError, SyntaxError) as error:
        raise IntakeError("This is no array as NumPy writes it, or it is damaged.") from error
    begin = file.tell()
    kinds = [dtype[key] for key in dtype.names] if dtype.names else [dtype]
    if any(kind.kind not in "iufb" or kind.subdtype for kind in kinds) or len(shape) > (1 if dtype.names else 2):
        raise IntakeError("Its array must have rows and columns of plain numbers.")
    if file.seek(0, SEEK_END) < begin + int(np.prod(shape)) * dtype.itemsize:
        raise IntakeError("The file ends before its array does; it was cut short on the way.")
    shape = shape if len(shape) == 2 else (*shape, 1)
    across = dtype.names is None and shape[0] < shape[1]  # a row for each channel
    n, width = (shape[1], shape[0]) if across else (shape[0], len(dtype.names or ()) or shape[1])
    if not n or not width:
        raise IntakeError("There is no row in it.")
    by_column = across != fortran and width > 1

    def rows_at(start: int, count: int) -> Array:
        if by_column:
            found = np.empty((count, width))
            for k in range(width):
                file.seek(begin + (k * n + start) * dtype.itemsize)
                found[:, k] = np.frombuffer(file.read(count * dtype.itemsize), dtype)
            return found
        size = dtype.itemsize * (1 if dtype.names else width)
        file.seek(begin + start * size)
        data = np.frombuffer(file.read(count * size), dtype)
        if dtype.names:
            return np.column_stack([data[key].astype(float) for key in dtype.names])
        return data.reshape(count, width).astype(float)

    # Where no column rises, samples are told by their number.
    counted = not dtype.names and not (np.diff(rows_at(0, min(n, SEEN))[:, 0]) > 0).all()

    def read(start: int, columns: Sequence[int], noted: int | None) -> Iterator[Part]:
        for first in range(start, n, ROWS_PART):
            found = rows_at(first, min(ROWS_PART, n - first))
            if counted:
                found = np.column_stack((np.arange(first, first + len(found), dtype=float), found))
            yield Part(found[:, list(columns)], [], [])

    names = list(dtype.names or (f"Column {k}" for k in range(1, width + 1)))
    if counted:
        names.insert(0, "Time")
    elif not dtype.names:
        names[0] = "Time"
    return _of_columns(name, names, n, read)


def _parquet(name: str, file: LongFile) -> Sheet:
    import pyarrow as pa  # takes a moment to load, and only such files need it
    from pyarrow import parquet

    try:
        found = parquet.ParquetFile(file)
    except (pa.ArrowException, OSError) as error:
        raise IntakeError(DAMAGED) from error
    fields = list(found.schema_arrow)
    words = [i for i, field in enumerate(fields) if _is_words(field.type)]
    timed = [pa.types.is_timestamp(field.type) or pa.types.is_duration(field.type) for field in fields]
    for i, field in enumerate(fields):
        kind = field.type
        if not (i in words or timed[i] or pa.types.is_integer(kind) or pa.types.is_floating(kind)
                or pa.types.is_decimal(kind) or pa.types.is_boolean(kind)):  # fmt: skip
            raise IntakeError(f"Its column “{field.name}” holds {kind}, which is no number. Leave it out.")
    zero: dict[int, int] = {}

    def batches() -> Iterator[Any]:
        try:
            yield from found.iter_batches(batch_size=ROWS_PART)
        except (pa.ArrowException, OSError) as error:
            raise IntakeError(DAMAGED) from error

    def numbers_in(i: int, column: Any) -> Array:
        if timed[i]:  # seconds since the first
            kind = fields[i].type
            to = pa.timestamp("ns", tz=kind.tz) if pa.types.is_timestamp(kind) else pa.duration("ns")
            column = column.cast(to).cast(pa.int64())
            zero.setdefault(i, next((v for v in column.to_pylist() if v is not None), 0))
            return np.asarray(pa.compute.subtract(column, zero[i]).cast(pa.float64())) / 1e9
        return np.asarray(column.cast(pa.float64()).to_numpy(zero_copy_only=False), dtype=float)

    def read(start: int, columns: Sequence[int], noted: int | None) -> Iterator[Part]:
        at = 0
        for batch in batches():
            own = batch.slice(max(start - at, 0)) if start < at + len(batch) else batch.slice(len(batch))
            at += len(batch)
            if not len(own):
                continue
            numbers = np.empty((len(own), len(columns)))
            for k, i in enumerate(columns):
                numbers[:, k] = numbers_in(i, own.column(i))
            said = [] if noted is None else own.column(noted).cast(pa.string()).to_pylist()
            yield Part(numbers, [], [(i, text.strip()) for i, text in enumerate(said) if text and text.strip()])

    headings = [f"{field.name} (s)" if timed[i] else field.name for i, field in enumerate(fields)]
    return _of_columns(name, headings, found.metadata.num_rows, read, words)


def _is_words(kind: Any) -> bool:
    import pyarrow as pa

    of = kind.value_type if pa.types.is_dictionary(kind) else kind
    return bool(pa.types.is_string(of) or pa.types.is_large_string(of) or pa.types.is_null(of))
