"""From bytes or pasted text to a grid of cells: encoding, separator, quoting."""

import csv
import re
from collections import Counter
from contextlib import suppress
from typing import Literal, NamedTuple

Separator = Literal["\t", ";", ","]
Grid = list[list[str]]

MAX_BYTES = 32_000_000
MAX_ROWS = 50_000
MAX_COLUMNS = 5_000
MAX_CELL = 2_000
MAX_CELLS = 1_000_000
HEAD = 2_000  # rows by which a table of more than MAX_ROWS is understood
FILE = "File: "  # before the name of a file, in the line above what stood in it, where several are one table

SEPARATOR_NAMES: dict[Separator, str] = {"\t": "tab", ";": "semicolon", ",": "comma"}


class Tail(NamedTuple):
    """The lines after the first rows of a very long table, and the row of the first of them."""

    lines: list[str]
    first: int


class IntakeError(ValueError):
    """Text that cannot become readings; the message says what, where and what to do."""


ODD_MICRO = re.compile(r"(?<![A-Za-z])æ(?=[MLgmsAV]|mol)")  # what µ of an old code page comes out as in a newer one


def decode(data: bytes, encoding: str | None = None) -> str:
    """Text of a file in any usual encoding, byte-order marks removed; `encoding` where a person says which.

    Raises
    ------
    IntakeError : for a file over the size limit, or one that is not text.
    """
    check_size(len(data))
    if encoding:
        return data.decode(encoding, errors="replace")
    for mark, unicode in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(unicode, errors="replace")
    zeros = data[:4096].count(0)
    if 3 * zeros > len(data[:4096]):  # every other byte of plain letters is zero in UTF-16
        return data.decode("utf-16-le" if data[1:4096:2].count(0) > data[0:4096:2].count(0) else "utf-16-be", "replace")
    if zeros > 8:
        raise IntakeError("This file is not text. Save the table as CSV, XLSX or ODS, or copy it and paste it.")
    # After UTF-8 the Western code page: it is what instruments write, and a guess from a few "µ" goes astray.
    for usual in ("utf-8", "cp1252"):
        with suppress(UnicodeDecodeError):
            return data.decode(usual)
    from charset_normalizer import from_bytes  # only files from far-off programs need a guess

    best = from_bytes(data).best()
    if best is None:
        raise IntakeError("This file is not text. Save the table as CSV or paste it.")
    return str(best)


def check_size(size: int) -> None:
    """Refuse what is too large to be a table of readings. Raises IntakeError."""
    if size > MAX_BYTES:
        raise IntakeError(
            f"This is {size / 1e6:.1f} MB of text; Dosis takes up to {MAX_BYTES / 1e6:.0f} MB in one run. "
            "Split the table into several runs, or leave out columns that are not needed."
        )


def guess_separator(text: str) -> Separator:
    """The separator that cuts the first lines into the most even rows; tab before semicolon before comma."""
    csv.field_size_limit(MAX_BYTES)
    lines = [line for line in text.splitlines()[:200] if line.strip()]
    best: tuple[float, Separator] = (0.0, "\t")
    for separator in SEPARATOR_NAMES:
        widths = Counter(len(row) for row in csv.reader(lines, delimiter=separator) if len(row) > 1)
        if not widths:
            continue
        share = max(widths.values()) / len(lines)
        # A comma inside "0,38" cuts too: an established tab or semicolon wins unless it cuts far fewer lines.
        if share > best[0] * 1.5:
            best = (share, separator)
    return best[1]


def split_long(text: str, separator: Separator) -> tuple[Grid, Tail | None]:
    """As `split`; of more rows than a table may have the first, and the lines after them as they are.

    With a quote in it a text is cut as a whole, since a cell may run over the end of a line.
    """
    if text.count("\n") <= MAX_ROWS or '"' in text:
        return split(text, separator), None
    lines = text.replace("\r\n", "\n").rstrip().split("\n")
    if len(lines) <= MAX_ROWS:
        return split(text, separator), None
    return split("\n".join(lines[:HEAD]), separator), Tail(lines[HEAD:], HEAD + 1)


def split(text: str, separator: Separator) -> Grid:
    """Cells of a delimited text, rows as wide as they come.

    Raises
    ------
    IntakeError : for too many rows or columns, or a cell that is far too long (usually an unclosed quote).
    """
    grid: Grid = []
    csv.field_size_limit(MAX_BYTES)  # a cell that is too long is named below
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    try:
        for row in csv.reader(lines, delimiter=separator, skipinitialspace=True):
            grid.append([cell.strip() for cell in row])
            if len(grid) > MAX_ROWS:
                raise IntakeError(f"The table has more than {MAX_ROWS:,} rows. Split it into several runs.")
            if len(row) > MAX_COLUMNS:
                raise IntakeError(
                    f"Row {len(grid)} has {len(row):,} columns; {MAX_COLUMNS:,} is the most. "
                    "If replicates or times run across, turn rows into columns first."
                )
    except csv.Error as error:
        raise IntakeError(
            f"Row {len(grid) + 1} cannot be read: a cell is too long or a quote is not closed."
        ) from error
    if len(grid) == len(lines) and max(map(len, lines), default=0) <= MAX_CELL:
        return grid  # no cell runs over a line's end, and no line is longer than a cell may be
    for number, row in enumerate(grid, start=1):
        if max(map(len, row), default=0) > MAX_CELL:
            raise IntakeError(f"Row {number} has a cell of more than {MAX_CELL:,} characters; is a quote not closed?")
    return grid
