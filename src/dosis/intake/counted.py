"""Counts typed as a share, "3/5" for three of five: one column made two, affected and exposed."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from dosis.intake.text import Grid
from dosis.run.trade_words import counted

_SHARE = re.compile(r"^(\d{1,6})\s*(?:/|of|out of|von|sur|de|su|van)\s*(\d{1,6})$", re.IGNORECASE)


class Split(NamedTuple):
    """The grid with columns of shares divided, and the headings of those that were."""

    grid: Grid
    headings: tuple[str, ...]


def split_shares(grid: Grid) -> Split:
    """A grid in which every column of shares is two: the counts under its heading, "Exposed" beside it."""
    first = next((i for i, row in enumerate(grid) if sum(map(bool, row)) > 1), None)
    if first is None:
        return Split(grid, ())
    shares = [i for i in range(len(grid[first])) if _of_shares(grid[first][i], [row[i] for row in grid[first + 1 :]])]
    if not shares:
        return Split(grid, ())
    headings = tuple(grid[first][i] for i in shares)
    made: Grid = []
    for at, row in enumerate(grid):
        cells: list[str] = []
        for i, cell in enumerate(row):
            match = _SHARE.match(cell) if i in shares and at > first else None
            cells += [match[1], match[2]] if match else [cell, f"Exposed{_time(cell)}" if at == first else ""] if (
                i in shares
            ) else [cell]  # fmt: skip
        made.append(cells)
    return Split(made, headings)


def _time(heading: str) -> str:
    """What a heading says beside the count, such as its time, so that the two stay together."""
    match = re.search(r"\s+\(?(\d+(?:[.,]\d+)?\s*(?:h|hr|hours?|d|days?|min))\)?$", heading, re.IGNORECASE)
    return f" {match[1]}" if match else ""


def _of_shares(heading: str, cells: Sequence[str]) -> bool:
    told = [cell for cell in cells if cell and cell not in ("-", "–", "—")]
    if told and _SHARE.match(told[0]) is None:
        return False
    pairs = [match for cell in told if (match := _SHARE.match(cell))]
    if len(told) < 2 or len(pairs) < len(told) or any(int(m[1]) > int(m[2]) for m in pairs):
        return False
    words = re.sub(r"[\s(].*$", "", heading)
    return counted(words) is not None or counted(heading) is not None or any(int(m[1]) not in (0, 1) for m in pairs)
