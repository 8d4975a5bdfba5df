"""Files of one scan or course each, as one table: their axis once, and a column for every file, named for it."""

import itertools
import re
from collections.abc import Sequence
from pathlib import PurePath

from dosis.core.numbers import Decimal, Meaning, guess_decimal, parse_number
from dosis.intake.along import is_wave
from dosis.intake.columns import is_axis, split_heading
from dosis.intake.series import is_measured
from dosis.intake.text import Grid
from dosis.intake.times import is_time

LEAST = 5  # rows of numbers, one way down the side, that make a file one of a scan
SEEN = 200  # rows in which it is told
_GENERIC = re.compile(
    r"^(a|abs|absorbance|%?t|transmittance|intensity|signal|y|value|reading|counts|od|f|fluorescence|r|reflectance)\b"
    r"|^$",
    re.IGNORECASE,
)


def side_by_side(sheets: Sequence[tuple[str, Grid]]) -> Grid | None:
    """One table of files that each hold an axis and what was read along it; None where some do not.

    sheets : their names and cells. Axes that are not the same become one, on which scans have gaps.
    """
    if len(sheets) < 2:
        return None
    parts = [_one_scan(grid) for _, grid in sheets]
    found = [part for part in parts if part is not None]
    if len(found) < len(parts):
        return None
    names = _names([name for name, _ in sheets], [head[1] for head, _, _ in found])
    above = {signal for _, _, signal in found if signal}
    title = [[above.pop()]] if len(above) == 1 else []
    first_head, first, _ = found[0]
    axis = [row[0] for row in first]
    if all([row[0] for row in rows] == axis for _, rows, _ in found):
        body = [[x, *(rows[i][1] for _, rows, _ in found)] for i, x in enumerate(axis)]
        return [*title, [first_head[0] or "x", *names], *body]
    return [*title, [first_head[0] or "x", *names], *on_one_axis([rows for _, rows, _ in found])]


def on_one_axis(scans: Sequence[Grid]) -> Grid:
    """Rows of an axis and a column for each scan, empty where one was not read; places that are one number are one.

    scans : each as rows of a place and a value.
    """
    decimal: Decimal = guess_decimal([row[0] for rows in scans for row in rows[:SEEN]])
    at: dict[float, list[str]] = {}
    for k, rows in enumerate(scans):
        for place, value in rows:
            number = _number(place, decimal)
            if number is not None:
                at.setdefault(number, [place, *([""] * len(scans))])[k + 1] = value
    return [at[number] for number in sorted(at)]


def _one_scan(grid: Grid) -> tuple[list[str], Grid, str] | None:
    """Heading, rows and signal of two columns, an axis that goes one way and what was read; None if it is not that."""
    filled = [list(row[:2]) + [""] * (2 - len(row)) for row in grid if any(row)]
    if any(any(row[2:]) for row in grid):
        return None
    decimal: Decimal = guess_decimal([cell for row in filled[:SEEN] for cell in row])
    start = next((i for i, row in enumerate(filled) if _number(row[0], decimal) is not None), len(filled))
    rows = filled[start:]
    values = [_number(row[0], decimal) for row in rows]
    known = [value for value in values if value is not None]
    if len(known) < LEAST or len(known) < len(values):
        return None
    steps = [b - a for a, b in itertools.pairwise(known)]
    if not (all(step > 0 for step in steps) or all(step < 0 for step in steps)):
        return None
    head = next((row for row in reversed(filled[:start]) if all(row)), ["", ""])
    if head[0] and not (is_axis(head[0]) or is_wave(head[0]) or is_time(head[0])):
        return None
    lines = [row[0] for row in filled[:start] if not row[1]]
    signal = next((line for line in [head[1], *lines] if is_measured(split_heading(line)[0])), "")
    return head, rows, signal


def _number(cell: str, decimal: Decimal) -> float | None:
    typed = parse_number(cell, decimal)
    return typed.value if typed.meaning is Meaning.NUMBER and not typed.unit else None


def _names(files: Sequence[str], headings: Sequence[str]) -> list[str]:
    """Of every file: what its column is headed, where that tells it from the others, else how the file is called."""
    if len(set(headings)) == len(headings) and not any(map(_GENERIC.match, headings)):
        return list(headings)
    return [PurePath(name).stem.replace("_", " ").strip() or name for name in files]
