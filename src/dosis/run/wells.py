"""Wells: their names, the plates that exist, and the orders in which a person goes over a selection of them."""

import re
from collections import defaultdict
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field

from dosis.run.record import Record

Place = tuple[int, int, int]  # plate, row and column, from 0
Direction = Literal["down", "across"]

SIZES = {24: (4, 6), 48: (6, 8), 96: (8, 12), 384: (16, 24), 1536: (32, 48)}  # ANSI/SLAS 4-2004 and the smaller ones
_WELL = re.compile(r"^([A-Za-z]{1,2})\s?-?0{0,2}([1-9]\d?)$")


class Plate(Record):
    """A plate of a run."""

    name: str = ""
    rows: Annotated[int, Field(ge=1, le=32)]
    columns: Annotated[int, Field(ge=1, le=48)]


def row_letters(row: int) -> str:
    """A, B … Z, AA … AF for rows counted from 0."""
    return chr(65 + row) if row < 26 else "A" + chr(65 + row - 26)


def well_name(row: int, column: int) -> str:
    """ "B07" without the zero: "B7"."""
    return f"{row_letters(row)}{column + 1}"


def parse_well(text: str) -> tuple[int, int] | None:
    """Row and column, from 0, of a well as typed ("b7", "B07", "AF48"); None when it is none."""
    match = _WELL.match(text.strip())
    if match is None:
        return None
    row, column = row_number(match[1]), int(match[2]) - 1
    return (row, column) if row is not None and column < 48 else None


def row_number(letters: str) -> int | None:
    """0 for A, 31 for AF; None for what is no row of a plate."""
    upper = letters.strip().upper()
    if len(upper) == 1 and "A" <= upper <= "Z":
        return ord(upper) - 65
    if len(upper) == 2 and upper[0] == "A" and "A" <= upper[1] <= "F":
        return 26 + ord(upper[1]) - 65
    return None


def smallest_plate(rows: int, columns: int) -> tuple[int, int] | None:
    """The smallest usual plate that holds so many rows and columns."""
    return next((size for size in SIZES.values() if size[0] >= rows and size[1] >= columns), None)


def arranged(
    places: Sequence[Place], direction: Direction, replicates: int, beside: bool
) -> list[list[Place]]:  # fmt: skip
    """Cut a selection into groups of replicates, in the order in which a person would pipette them.

    Parameters
    ----------
    places : the selected wells, in any order.
    direction : in which one group follows the other; "down" goes down the first column (or columns), then the next.
    replicates : wells of a group. beside : replicates lie across the direction (side by side when going down), not
        along it.

    Returns
    -------
    Groups in order. A group at a ragged edge has fewer wells; none is left out.
    """
    flip = direction == "across"
    # Worked as "down" throughout: for "across" rows and columns change places.
    turned = sorted(((plate, c, r) if not flip else (plate, r, c)) for plate, r, c in places)
    lines: dict[tuple[int, int], list[int]] = defaultdict(list)
    for plate, line, along in turned:
        lines[plate, line].append(along)
    groups: list[list[tuple[int, int, int]]] = []
    if not beside:
        for (plate, line), alongs in lines.items():
            for i in range(0, len(alongs), replicates):
                groups.append([(plate, line, along) for along in alongs[i : i + replicates]])
    else:
        for plate in sorted({plate for plate, _ in lines}):
            own = sorted(line for p, line in lines if p == plate)
            for i in range(0, len(own), replicates):
                chunk = own[i : i + replicates]
                for along in sorted({along for line in chunk for along in lines[plate, line]}):
                    groups.append([(plate, line, along) for line in chunk if along in lines[plate, line]])
    return [[(p, line, a) if flip else (p, a, line) for p, line, a in group] for group in groups]
