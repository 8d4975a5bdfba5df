"""Plate grids in a sheet: found by their headings, row letters or size, each with the text that stood above it."""

import re
from dataclasses import dataclass, field
from itertools import pairwise

from dosis.core.numbers import Decimal, Meaning, TypedNumber, parse_number
from dosis.intake.text import FILE, Grid
from dosis.run.wells import SIZES, row_number, smallest_plate

SEARCHED = 2_000  # rows after which a sheet without a grid is taken for a table
WIDTHS = {columns: rows for rows, columns in SIZES.values()}
_COUNT = re.compile(r"^0?(\d{1,2})$")
_WAVELENGTH = re.compile(
    r"(?:^|[^\d.])(\d{3,4})\s*nm\b|\b(?:wave ?length|λ)\D{0,12}(\d{3,4})|^(?:a|abs|absorbance|od)[\s_(:]*(\d{3,4})\b",
    re.I,
)
_CLOCK = re.compile(r"\b(\d{1,3}:\d{2}(?::\d{2})?)\b")
_TIME = re.compile(
    r"(?:\btime\b|\bt\s*=|\bafter\b|\bcycle\b)\D{0,12}(\d+(?:[.,]\d+)?)\s*(ms|s|sec|min|h)?\b"
    r"|^\W*(\d+(?:[.,]\d+)?)\s*(s|sec|min|h)\W*$", re.I,
)  # fmt: skip
_PLATE = re.compile(
    r"\bplate\b\s*(?:no\.?|number|id|name|#)?\s*[:=#]?\s*(?!type|format|reader|layout|map)([\w.-]{1,40})", re.I
)
_LEVELS = re.compile(r"\b(conc(?:entrations?)?|levels?|doses?|known|nominal)\b", re.I)
_SERIES = re.compile(r"\b(compounds?|treatments?|series|substances?|clones?|strains?|lots?)\b", re.I)
_DILUTIONS = re.compile(r"\bdilutions?\b", re.I)


@dataclass
class Block:
    """One grid. `cells[r][c]` is (row, column) in the sheet; `title` the lines of text above it, nearest last."""

    rows: int
    columns: int
    cells: list[list[tuple[int, int]]]
    labels: list[tuple[int, int]]
    title: list[str] = field(default_factory=list)
    right: str = ""


@dataclass(frozen=True)
class Title:
    """What the text above a grid says of it."""

    plate: str = ""
    wavelength: str = ""
    time: str = ""


def find_blocks(grid: Grid, *, asked: bool = False) -> tuple[list[Block], list[int]]:
    """Plate grids from top to bottom, and the rows of text around them (from 0).

    Only what is evidently a plate is taken for one: lettered rows, numbered columns, or a block of exactly a plate's
    size with nothing around it. Under a heading row, or where the first column rises or falls, it is a table — unless a
    plate is `asked` for.
    """
    blocks: list[Block] = []
    notes: list[int] = []
    title: list[str] = []
    at = 0
    while at < len(grid):
        if at == SEARCHED and not blocks:
            break
        found = _with_heading(grid, at, asked) or _with_letters(grid, at, asked) or _bare(grid, at, asked)
        if found is None:
            if any(grid[at]):
                notes.append(at)
                title.append(" ".join(cell for cell in grid[at] if cell))
            at += 1
            continue
        made, end = found
        for block in made:
            block.title = title
        blocks += made
        title, at = [], end
    return blocks, notes


def _with_heading(grid: Grid, at: int, asked: bool) -> tuple[list[Block], int] | None:
    row = grid[at]
    if "1" not in row and "01" not in row:
        return None
    for left, cell in enumerate(row):
        if not (match := _COUNT.match(cell)) or match[1] != "1":
            continue
        count = 1
        while left + count < len(row) and (m := _COUNT.match(row[left + count])) and int(m[1]) == count + 1:
            count += 1
        if count not in WIDTHS:
            continue
        labels = [(at, left + i) for i in range(count)]
        if left and at + 1 < len(grid) and row_number(grid[at + 1][left - 1]) == 0:
            return _lettered(grid, at + 1, left, count, labels)
        # "Time, 1, 2 … 12" over rows that begin with a number heads a table.
        if not asked and left and _numbers([row[left - 1] for row in grid[at + 1 : at + 1 + WIDTHS[count]]]):
            return None
        return _unlettered(grid, at + 1, left, count, labels)
    return None


def _with_letters(grid: Grid, at: int, asked: bool) -> tuple[list[Block], int] | None:
    row = grid[at]
    if ("A" not in row[:3] and "a" not in row[:3]) or (not asked and _under_headings(grid, at)):
        return None
    for left in range(1, min(len(row), 4)):
        if row[left - 1] in ("A", "a") and at + 1 < len(grid) and row_number(grid[at + 1][left - 1]) == 1:
            count = _filled(row, left)
            if count in WIDTHS or count - 1 in WIDTHS:
                return _lettered(grid, at, left, count if count in WIDTHS else count - 1, [])
    return None


def _under_headings(grid: Grid, at: int) -> bool:
    """Whether the line above names columns: words over several of them, such as "Sample, rep 1, rep 2 …"."""
    above = grid[at - 1] if at else []
    return sum(bool(cell) and not _numbers([cell]) for cell in above) > 2


def _bare(grid: Grid, at: int, asked: bool) -> tuple[list[Block], int] | None:
    """A grid with nothing around it: just so many numbers in rows and columns as a plate has wells."""
    left = next((i for i, cell in enumerate(grid[at]) if cell), 0)
    count = _filled(grid[at], left)
    if count not in WIDTHS:
        return None
    end = at
    while end < len(grid) and _filled(grid[end], left) == count and _numbers(grid[end][left : left + count]):
        end += 1
    if end - at != WIDTHS[count]:
        return None
    if not asked and (sum(map(bool, grid[at - 1] if at else [])) > 1 or _axis_first(grid, at, end, left, count)):
        return None
    cells = [[(r, left + c) for c in range(count)] for r in range(at, end)]
    return [Block(end - at, count, cells, [])], end


def _lettered(
    grid: Grid, first: int, left: int, count: int, labels: list[tuple[int, int]]
) -> tuple[list[Block], int] | None:  # fmt: skip
    """Rows lettered A, B …; where each letter stands before several lines, each line is a grid of its own."""
    starts: list[int] = []
    at = first
    while at < len(grid) and len(starts) < 32:
        number = row_number(grid[at][left - 1])
        if number == len(starts):
            starts.append(at)
        elif grid[at][left - 1] or not any(grid[at][left : left + count]):
            break
        at += 1
    lines = max(1, starts[1] - starts[0]) if len(starts) > 1 else 1
    size = smallest_plate(len(starts), count)
    if len(starts) < 2 or size is None or size[1] != count:
        return None
    rows = size[0]
    blocks = []
    for line in range(lines):
        cells = [[(start + line, left + c) for c in range(count)] for start in starts]
        edge = [(start + line, left - 1) for start in starts] if line == 0 else []
        right = {grid[start + line][left + count] for start in starts if left + count < len(grid[start + line])}
        own = right.pop() if len(right) == 1 else ""
        beside = [(start + line, left + count) for start in starts] if own else []
        blocks.append(Block(rows, count, cells, (labels if line == 0 else []) + edge + beside, right=own))
    return blocks, starts[-1] + lines


def _unlettered(
    grid: Grid, first: int, left: int, count: int, labels: list[tuple[int, int]]
) -> tuple[list[Block], int] | None:  # fmt: skip
    end = first + WIDTHS[count]
    if end > len(grid) or any(_filled(grid[r], left) < 1 for r in (first, end - 1)):
        return None
    if any(not _numbers(grid[r][left : left + count]) for r in range(first, end)):
        return None
    return [
        Block(WIDTHS[count], count, [[(r, left + c) for c in range(count)] for r in range(first, end)], labels)
    ], end


def _filled(row: list[str], left: int) -> int:
    return next((i for i in range(len(row) - 1, left - 1, -1) if row[i]), left - 1) - left + 1


def _numbers(cells: list[str]) -> bool:
    return all(any(parse_number(cell, d).meaning is not Meaning.TEXT for d in (".", ",")) for cell in cells if cell)


def _axis_first(grid: Grid, at: int, end: int, left: int, count: int) -> bool:
    """Whether the first column of a block is an axis: it goes one way, and is not typed as the rest is.

    Down the first column of a plate a dilution may go one way as well; its readings have as many decimals as the rest.
    """
    first = [row[left] for row in grid[at:end]]
    if not _one_way(first):
        return False
    rest = [cell for row in grid[at:end] for cell in row[left + 1 : left + count] if cell]
    return _decimals(first) != _decimals(rest)


def _decimals(cells: list[str]) -> int:
    return max((len(cell) - 1 - max(cell.rfind("."), cell.rfind(",")) for cell in cells if "." in cell or "," in cell),
               default=0)  # fmt: skip


def _one_way(cells: list[str]) -> bool:
    values = [
        next((n.value for d in (".", ",") if (n := parse_number(cell, d)).value is not None), None) for cell in cells
    ]
    steps = [b - a for a, b in pairwise(values) if a is not None and b is not None]
    return len(steps) == len(cells) - 1 and (all(s > 0 for s in steps) or all(s < 0 for s in steps))


def parsed(block: Block, grid: Grid, decimal: Decimal) -> list[list[TypedNumber]]:
    """The cells of a block as numbers, missing where the grid ends early; always rows × columns."""
    numbers = [[parse_number(grid[r][c] if c < len(grid[r]) else "", decimal) for r, c in row] for row in block.cells]
    empty = [parse_number("", decimal)] * block.columns
    return numbers + [empty] * (block.rows - len(numbers))


def is_text(numbers: list[list[TypedNumber]]) -> bool:
    """Whether a grid holds words: names of what is in the wells."""
    told = [n for row in numbers for n in row if n.meaning is not Meaning.MISSING]
    return 2 * sum(n.meaning is Meaning.TEXT for n in told) > len(told)


_DATE = re.compile(
    r"\b\d{4}[-/.]\d{1,2}[-/.]\d{1,2}\b|\b\d{1,2}[-/.]\d{1,2}[-/.]\d{2,4}\b"
    r"|\b\d{1,2}\.? (jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*\.? \d{4}\b|\b(am|pm)\b"
    r"|\b(date|datum|read (at|on)|started?|begin|end(ed)?|time of day|uhrzeit)\b", re.IGNORECASE,
)  # fmt: skip


def read_title(block: Block) -> Title:
    """What the lines above a grid say: the plate, the wavelength, the time. Dates and times of day say none of it."""
    plate = wavelength = time = ""
    for line in [*block.title, block.right]:
        if _DATE.search(line):
            if match := _WAVELENGTH.search(line):
                wavelength = f"{next(g for g in match.groups() if g)} nm"
            continue
        rest = line
        if match := _WAVELENGTH.search(line):
            wavelength = f"{next(g for g in match.groups() if g)} nm"
            rest = f"{line[: match.start()]} {line[match.end() :]}"
        if match := _CLOCK.search(rest):
            time = match[1]
        elif match := _TIME.search(rest):
            number, unit, bare, bare_unit = match.groups()
            time = f"{number or bare} {unit or bare_unit or ''}".strip()
        if match := _PLATE.search(line):
            plate = f"Plate {match[1]}"
        elif line.startswith(FILE):
            plate = line.removeprefix(FILE)
    if not wavelength and re.fullmatch(r"\d{3,4}", block.right):
        wavelength = f"{block.right} nm"
    return Title(plate, wavelength, time)


def purpose(block: Block, numbers: list[list[TypedNumber]]) -> str:
    """What a grid gives: "names" of the wells, their "series", "levels" or "dilutions", or "readings"."""
    above = block.title[-1] if block.title else ""
    if is_text(numbers):
        return "series" if _SERIES.search(above) else "names"
    if _LEVELS.search(above) and not _WAVELENGTH.search(above):
        return "levels"
    if _DILUTIONS.search(above):
        return "dilutions"
    return "readings"
