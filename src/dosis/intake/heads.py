"""Heading rows: one, or two where names stand over units, or a name over several columns."""

import re
from collections.abc import Sequence
from typing import NamedTuple

from dosis.core.numbers import Decimal, Meaning, parse_number
from dosis.core.units import is_unit

_BRACKETS = re.compile(r"^[(\[/]?\s*(.*?)\s*[)\]]?$")


class Heads(NamedTuple):
    """The headings, one for each column, and how many rows they stand in."""

    headings: list[str]
    rows: int


def read_heads(rows: Sequence[Sequence[str]], decimal: Decimal) -> Heads:
    """The headings of a table whose first row is a heading; `rows` are its first filled rows."""
    first = list(rows[0])
    if len(rows) > 2 and (units := _units(rows[1])) and _has_number(rows[2], decimal):
        return Heads([f"{h} ({u})" if h and u else h or u for h, u in zip(first, units, strict=True)], 2)
    if len(rows) > 2 and _spans(rows, decimal):
        over = ""
        joined = []
        for above, below in zip(first, rows[1], strict=True):
            over = above or over
            joined.append(" ".join(filter(None, (over, below))))
        return Heads(joined, 2)
    return Heads(first, 1)


def _units(row: Sequence[str]) -> list[str]:
    """The units of a row that holds nothing else; empty where it holds more."""
    bare = [match[1] if (match := _BRACKETS.match(cell)) else cell for cell in row]
    told = [cell for cell in bare if cell and cell not in ("-", "–", "—")]
    return [cell if is_unit(cell) else "" for cell in bare] if told and all(map(is_unit, told)) else []


def _spans(rows: Sequence[Sequence[str]], decimal: Decimal) -> bool:
    """Whether names in the first row stand over several columns, each of which has a heading of its own below."""
    first, second = rows[0], rows[1]
    gaps = sum(not above and bool(below) for above, below in zip(first, second, strict=True))
    return gaps > 0 and not _has_number(second, decimal) and all(second) and _has_number(rows[2], decimal)


def _has_number(row: Sequence[str], decimal: Decimal) -> bool:
    return any(parse_number(cell, decimal).meaning is Meaning.NUMBER for cell in row)
