"""How a sheet lies: whether its rows are what its columns should be, and whether it is a table or plates."""

from itertools import pairwise

from dosis.core.numbers import Decimal, Meaning, parse_number
from dosis.intake.along import is_wave
from dosis.intake.columns import HEADINGS, is_axis, split_heading
from dosis.intake.roles import names_a_role
from dosis.intake.text import Grid
from dosis.intake.times import is_time
from dosis.intake.understanding import ColumnKind
from dosis.run.trade_words import column_word, counted
from dosis.run.wells import parse_well

WHOLE_SCAN = 30  # wavelengths from which columns are scans to be looked at, whatever their names
_SCAN_ROWS = 3  # at least so many places of the axis make a scan


# Words that name a role and head a column as well.
ROLE_HEADS = ("sample", "samples", "standard", "standards", "sample id", "sample name", "sample type", "unknown")


def turned(grid: Grid) -> Grid:
    """Rows for columns. Turning twice gives the table back."""
    width = max(map(len, grid), default=0)
    return [[row[i] if i < len(row) else "" for row in grid] for i in range(width)]


def should_turn(grid: Grid, decimal: Decimal, *, of_samples: bool = False, scans: bool = False) -> bool:
    """Whether the headings stand down the first column, or one column is the axis of scans beside it.

    of_samples : whether a person asks for what is in samples, of which each column beside an axis is then one; scans :
        what scans show, which stand beside their axis.
    """
    filled = [row for row in grid if any(row)]
    while len(filled) > 2 and sum(map(bool, filled[0])) == 1 and sum(map(bool, filled[1])) > 2:
        filled.pop(0)
    if len(filled) < 2 or len(filled[0]) < 3:
        return False
    first_row, first_column = filled[0][1:], [row[0] for row in filled[1:]]
    if is_wave(filled[0][0]) and (scans or (len(filled) > WHOLE_SCAN and not of_samples)):
        return False
    if _is_scan(filled, decimal, of_samples):
        return True
    # Headings differ from each other; two samples called "NM" are no headings of wavelengths.
    down, along = (len({_kind_of(cell) for cell in cells} - {None}) for cells in (first_column, first_row))
    corner = is_heading(filled[0][0])
    if down + corner < 2 or down <= along:
        # "Conc 0 1 2 / A880 …": the heading in the corner goes with the row beside it, not with the column below.
        beside = sum(map(names_a_role, first_row)) - sum(map(names_a_role, first_column))
        numbers = not any(parse_number(cell, decimal).meaning is Meaning.TEXT for cell in first_row if cell)
        known = _kind_of(filled[0][0]) in (ColumnKind.LEVEL, ColumnKind.DILUTION)
        lies = corner and along == 0 and ((numbers and known) or beside > 0)
        return lies and _only_words(first_column, decimal) and _rows_of_numbers(filled, decimal)
    return True


def _is_scan(filled: Grid, decimal: Decimal, of_samples: bool) -> bool:
    """A first column of rising wavelengths or times, and beside it columns named for blanks, standards or wells.

    Columns named for anything else are scans or courses to be looked at as such, each a series.
    """
    if not is_axis(filled[0][0]) or len(filled) <= _SCAN_ROWS or (is_time(filled[0][0]) and not of_samples):
        return False
    named = [cell for cell in filled[0][1:] if cell]
    if not of_samples and not any(map(names_a_role, named)) and None in map(parse_well, named):
        return False
    axis = [parse_number(row[0], decimal) for row in filled[1:]]
    values = [n.value for n in axis if n.meaning is Meaning.NUMBER and n.value is not None]
    steps = [b - a for a, b in pairwise(values)]
    one_way = all(s > 0 for s in steps) or all(s < 0 for s in steps)
    return len(values) == len(axis) and one_way and not any(map(is_heading, filled[0][1:]))


def is_heading(cell: str) -> bool:
    """Whether a cell is a word that heads a column of a table of readings."""
    return _kind_of(cell) is not None


def _kind_of(cell: str) -> ColumnKind | None:
    words, quantity = cell.strip(), split_heading(cell)[0]
    if (
        len(words) < 2
        or any(c.isdigit() for c in quantity)
        or (names_a_role(words) and words.casefold() not in ROLE_HEADS)
    ):
        return None  # "Std 1", "Std A" and "Blank" name rows
    if column_word(quantity or words) in ("name", "level", "dilution", "role"):
        return ColumnKind(column_word(quantity or words) or "name")
    if counted(words):
        return ColumnKind.READING
    return next((kind for kind, p in HEADINGS if p.match(words) or (quantity and p.match(quantity))), None)


def _only_words(cells: list[str], decimal: Decimal) -> bool:
    return all(parse_number(cell, decimal).meaning is Meaning.TEXT for cell in cells if cell)


def _rows_of_numbers(filled: Grid, decimal: Decimal) -> bool:
    """All but at most one of the rows are numbers after their first cell."""
    words = 0
    for row in filled:
        told = [parse_number(cell, decimal) for cell in row[1:] if cell]
        words += 2 * sum(n.meaning is Meaning.TEXT for n in told) > len(told)
    return words <= 1
