"""Concentrations of a column: units lifted out of the cells, mixed units brought to one."""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

from dosis.core.numbers import Meaning, TypedNumber
from dosis.core.units import UnitError, convert, is_unit, normal_unit
from dosis.intake.understanding import Choices


@dataclass(frozen=True)
class Levels:
    """Concentrations by row, in `unit`; what was lifted, converted or could not be read, for the statements."""

    values: dict[int, float]
    unit: str
    lifted: int
    converted: tuple[str, ...]
    unread: dict[int, str]
    clash: str


def _row(number: int) -> str:
    return f"Row {number}"


def read_levels(
    cells: dict[int, TypedNumber], heading_unit: str, chosen: Choices, place: Callable[[int], str] = _row
) -> Levels:
    """Read concentrations (row or other number → cell); `place` says in words where one stands.

    The column's unit is the chosen one, the heading's, or the most frequent in the cells. A typed-in choice relabels
    cells without a unit of their own; cells with one are converted to it.
    """
    units = Counter(
        normal_unit(n.unit) for n in cells.values() if n.meaning is Meaning.NUMBER and n.unit and is_unit(n.unit)
    )
    in_cells = units.most_common(1)[0][0] if units else ""
    target = heading_unit or in_cells
    values: dict[int, float] = {}
    unread: dict[int, str] = {}
    clash = ""
    for row, number in cells.items():
        if number.meaning is Meaning.MISSING:
            continue
        if number.meaning is not Meaning.NUMBER or number.value is None or (number.unit and not is_unit(number.unit)):
            unread[row] = number.text
            continue
        try:
            values[row] = convert(number.value, number.unit, target) if number.unit else number.value
        except UnitError as error:
            clash = clash or f"{place(row)}: {error}"
            unread[row] = number.text
    converted = tuple(unit for unit in units if unit != target)
    unit = target if chosen.level_unit is None else chosen.level_unit
    return Levels(values, unit, sum(units.values()), converted, unread, clash)
