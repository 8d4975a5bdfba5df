"""From what a person brings — pasted text, or files of any usual kind — to sheets of cells."""

import json
import re
from collections.abc import Sequence
from typing import Annotated, NamedTuple

from pydantic import Base64Bytes, Field

from dosis.intake.jcamp import is_jcamp, jcamp_grid
from dosis.intake.json_form import json_grid
from dosis.intake.side_by_side import side_by_side
from dosis.intake.tail import LinesTail, Tail
from dosis.intake.text import (
    FILE,
    MAX_NUMBERS,
    MAX_ROWS,
    Grid,
    IntakeError,
    Separator,
    check_size,
    decode,
    guess_separator,
    head_lines,
    split,
)
from dosis.intake.workbook import is_workbook, read_workbook
from dosis.run.record import Record

MAX_FILES = 50
_HALF = re.compile(r"[\ud800-\udfff]")
_INVISIBLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ufeff]")


class SourceFile(Record):
    """A file as it came."""

    name: Annotated[str, Field(min_length=1, max_length=200)]
    data: Base64Bytes


class Sheet(NamedTuple):
    """Cells under a name; `separator` of text, None where cells came as cells; `cleaned` characters were left out.

    tail : of a text that is longer than a table may be, what comes after the cells.
    """

    name: str
    grid: Grid
    separator: Separator | None
    cleaned: int = 0
    tail: Tail | None = None


def sheets_of_text(
    text: str, separator: Separator | None = None, name: str = "", *, most: int | None = None
) -> list[Sheet]:  # fmt: skip
    """The one sheet of a delimited text, or of a JSON document in Dosis's form.

    most : cells beyond which only the first rows are cut into cells, the others being the tail; None cuts all.

    Raises
    ------
    IntakeError : when there is nothing in it, or it is no table.
    """
    check_size(len(text.encode("utf-8", errors="replace")))
    clean = _INVISIBLE.sub("", text)
    lost = len(text) - len(clean)
    if broken := len(_HALF.findall(clean)):
        # Half of a character beyond the first 65,536, as a program leaves it that cuts a text in the middle of one.
        clean, lost = _HALF.sub("\ufffd", clean), lost + broken
    if not clean.strip():
        raise IntakeError("There is nothing to read yet. Paste a table: one row for each standard, blank and sample.")
    if clean.lstrip()[0] in "{[" and (document := _json(clean)) is not None:
        return [Sheet(name, json_grid(document), None, 0)]
    if is_jcamp(clean):
        return [Sheet(name, jcamp_grid(clean), None, lost)]
    chosen = separator or guess_separator(clean)
    if most is None or (long := head_lines(clean, most)) is None:
        return [Sheet(name, split(clean, chosen), chosen, lost)]
    lines, head = long
    tail = LinesTail(lines[head:], head + 1, chosen, MAX_NUMBERS)
    return [Sheet(name, split("\n".join(lines[:head]), chosen), chosen, lost, tail)]


def sheets_of_files(
    files: Sequence[SourceFile], separator: Separator | None = None, encoding: str | None = None, *,
    most: int | None = None,
) -> list[Sheet]:  # fmt: skip
    """Every sheet of every file, those without a cell left out. `most` as of a text.

    Raises
    ------
    IntakeError : naming the file that cannot be read, and why.
    """
    if len(files) > MAX_FILES:
        raise IntakeError(f"These are {len(files)} files; {MAX_FILES} is the most in one run. Choose fewer.")
    check_size(sum(len(file.data) for file in files))
    found: list[Sheet] = []
    for file in files:
        try:
            if is_workbook(file.data):
                inside = [Sheet(name, grid, None) for name, grid in read_workbook(file.data)]
                prefix = f"{file.name} · " if len(files) > 1 else ""
                found += [
                    Sheet(f"{prefix}{sheet.name}", sheet.grid, None) for sheet in inside if any(map(any, sheet.grid))
                ]
            else:
                found += sheets_of_text(decode(file.data, encoding), separator, file.name, most=most)
        except IntakeError as error:
            raise IntakeError(f"{file.name}: {error}") from error
    if not found:
        raise IntakeError("There is no filled cell in this file.")
    return found


def joined(sheets: Sequence[Sheet]) -> Sheet:
    """Several files as one: scans beside each other; tables under one heading where they agree, else each by name."""
    if long := next((sheet.name for sheet in sheets if sheet.tail is not None), None):
        raise IntakeError(f"{long} has more than {MAX_ROWS:,} rows. Bring such a table in by itself.")
    separators = {sheet.separator for sheet in sheets}
    separator = separators.pop() if len(separators) == 1 else None
    name, cleaned = ", ".join(s.name for s in sheets[:3]), sum(s.cleaned for s in sheets)
    scans = side_by_side([(sheet.name, sheet.grid) for sheet in sheets])
    if scans is not None:
        return Sheet(name, scans, separator, cleaned)
    first = sheets[0].grid[0]
    grid: Grid = []
    alike = all(sheet.grid[0] == first for sheet in sheets) and len(sheets) > 1
    for i, sheet in enumerate(sheets):
        if alike:
            grid += sheet.grid if i == 0 else sheet.grid[1:]
        else:
            grid += [[f"{FILE}{sheet.name}"], *sheet.grid, []]
    return Sheet(name, grid, separator, cleaned)


def _json(text: str) -> object | None:
    try:
        document: object = json.loads(text)
    except (ValueError, RecursionError):
        return None
    return document
