"""From bytes or pasted text to a grid of cells: encoding, separator, quoting."""

import csv
import re
from collections import Counter
from collections.abc import Sequence
from contextlib import suppress
from typing import Literal

Separator = Literal["\t", ";", ","]
Grid = list[list[str]]

MAX_BYTES = 32_000_000
MAX_ROWS = 50_000
MAX_COLUMNS = 5_000
MAX_CELL = 2_000
MAX_CELLS = 1_000_000
HEAD, HEAD_CELLS = 2_000, 200_000  # rows and cells, about, by which a table of more is understood
SEEN = 50  # rows in which it is seen how wide a table is
MANY_CELLS = 300_000  # from which curves are understood by their first rows, which takes a third of the time
MAX_NUMBERS = 10_000_000  # of a long table that is pasted
FILE = "File: "  # before the name of a file, in the line above what stood in it, where several are one table

SEPARATOR_NAMES: dict[Separator, str] = {"\t": "tab", ";": "semicolon", ",": "comma"}


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
    return data.decode(encoding or encoding_of(data), errors="replace")


def encoding_of(data: bytes) -> str:
    """The encoding of a text, told by its first bytes, which end where a line does or with the file.

    Raises
    ------
    IntakeError : for what is not text.
    """
    for mark, unicode in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return unicode
    zeros = data[:4096].count(0)
    if 3 * zeros > len(data[:4096]):  # every other byte of plain letters is zero in UTF-16
        return "utf-16-le" if data[1:4096:2].count(0) > data[0:4096:2].count(0) else "utf-16-be"
    if zeros > 8:
        raise IntakeError("This file is not text. Save the table as CSV, XLSX or ODS, or copy it and paste it.")
    # After UTF-8 the Western code page: it is what instruments write, and a guess from a few "µ" goes astray.
    for usual in ("utf-8", "cp1252"):
        with suppress(UnicodeDecodeError):
            data.decode(usual)
            return usual
    from charset_normalizer import from_bytes  # only files from far-off programs need a guess

    best = from_bytes(data).best()
    if best is None:
        raise IntakeError("This file is not text. Save the table as CSV or paste it.")
    return best.encoding


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


def head_lines(text: str, most: int) -> tuple[list[str], int] | None:
    """The lines of a text of more than `most` cells, or of too many rows, and how many of them say what is what.

    None for one that is not; nor where a cell runs over the end of a line, which leaves an odd number of quotes in it.
    """
    lines = text.replace("\r\n", "\n").rstrip().split("\n")
    cells = width_of(lines)
    if len(lines) <= MAX_ROWS and len(lines) * cells <= most:
        return None
    if '"' in text and any(line.count('"') % 2 for line in lines):
        return None
    return lines, rows_of_head(cells)


def width_of(lines: Sequence[str]) -> int:
    """How many cells a line of a text has, by its first lines."""
    counts = sorted(1 + max(line.count(sign) for sign in SEPARATOR_NAMES) for line in lines[:SEEN])
    return counts[len(counts) // 2] if counts else 0


def rows_of_head(width: int) -> int:
    """How many rows of a long table that wide are understood cell by cell."""
    return max(min(HEAD, HEAD_CELLS // max(width, 1)), SEEN)


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
