"""Levels of a column — concentrations, doses, x: units lifted out of the cells, mixed units brought to one."""

import re
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from itertools import pairwise

from dosis.core.numbers import LARGEST, Decimal, Meaning, TypedNumber, parse_number
from dosis.core.units import UnitError, convert, is_unit, normal_unit
from dosis.intake.understanding import Choices
from dosis.run.recipes import worked_out
from dosis.run.trade_words import role_word

_LOG = re.compile(r"^(log ?(10)?|lg)\b[ _]*", re.IGNORECASE)
_WORD = re.compile(r"[^\W\d_]{2}")
_NONE = re.compile(
    r"^(negative |untreated |solvent |vehicle |carrier )?controls?\b|^(vehicle|untreated|solvent|dmso)\b", re.I
)
_SUM = re.compile(r"[\d)]\s*[*×·/^+−-]\s*[\d(]|\b(sqrt|log10|ln|exp)\(")
_LOG_RANGE = (-20.0, 20.0)  # powers of ten between which a dose may lie
STANDS_OUT = 1.9  # times the widest other step by which a lowest log dose lies below the next, to stand for none


@dataclass(frozen=True)
class Levels:
    """Levels by row, in `unit`; what was lifted, converted, worked out or could not be read, for the statements.

    label : the unit that the numbers were in before they were converted as a whole.
    controls : rows whose cell is a word for a control, which is no dose. logged : whether the cells are log10 of them.
    lowest : the lowest log dose where it may stand for none; zero : the one a person says does.
    """

    values: dict[int, float]
    unit: str
    lifted: int = 0
    converted: tuple[str, ...] = ()
    unread: dict[int, str] = field(default_factory=dict)
    clash: str = ""
    worked: tuple[str, ...] = ()
    controls: frozenset[int] = frozenset()
    logged: bool = False
    lowest: float | None = None
    zero: float | None = None
    label: str = ""


def _row(number: int) -> str:
    return f"Row {number}"


def stands_for_none(text: str) -> bool:
    """Whether a cell in a column of levels is a word for a control, to which nothing was given."""
    return bool(_NONE.match(text.strip())) or role_word(text.strip()) == "vehicle"


def names_what_was_read(text: str, decimal: Decimal) -> bool:
    """Whether a cell in a column of levels is a word, and none for a level that is missing or out of range."""
    return bool(_WORD.match(text.strip())) and parse_number(text, decimal).meaning is Meaning.TEXT


def without_log(quantity: str) -> str:
    """What a heading of logarithms is the logarithm of: "log10 dose" → "dose", "log[C]" → "C"."""
    return _LOG.sub("", quantity).strip(" []()") or quantity


def read_levels(
    cells: Mapping[int, TypedNumber], heading_unit: str, chosen: Choices, place: Callable[[int], str] = _row,
    heading: str = "",
) -> Levels:  # fmt: skip
    """Read levels (row or other number → cell); `place` says in words where one stands.

    The column's unit is the chosen one, the heading's, or the most frequent in the cells. A typed-in choice relabels
    cells without a unit of their own; cells with one are converted to it. Sums such as "0.080*2/10" are worked out.
    """
    units = Counter(
        normal_unit(n.unit) for n in cells.values() if n.meaning is Meaning.NUMBER and n.unit and is_unit(n.unit)
    )
    in_cells = units.most_common(1)[0][0] if units else ""
    target = heading_unit or in_cells
    values: dict[int, float] = {}
    unread: dict[int, str] = {}
    worked: list[str] = []
    controls: set[int] = set()
    clash = ""
    for row, number in cells.items():
        if number.meaning is Meaning.MISSING:
            continue
        value, unit = number.value, number.unit
        if number.meaning is not Meaning.NUMBER or value is None or (unit and not is_unit(unit)):
            if stands_for_none(number.text):
                values[row] = 0.0
                controls.add(row)
                continue
            sum_ = worked_out(number.text) if _SUM.search(number.text) else None
            if sum_ is None or abs(sum_[0]) > LARGEST:
                unread[row] = number.text
                continue
            value, unit = sum_
            worked.append(number.text)
        try:
            values[row] = convert(value, unit, target) if unit else value
        except UnitError as error:
            clash = clash or f"{place(row)}: {error}"
            unread[row] = number.text
    found = Levels(
        values, target, sum(units.values()), tuple(unit for unit in units if unit != target), unread, clash,
        tuple(worked), frozenset(controls),
    )  # fmt: skip
    return _in_unit(_powers(found, heading, chosen), chosen)


def _powers(found: Levels, heading: str, chosen: Choices) -> Levels:
    """Logarithms of doses as the doses; a control stays none."""
    typed = {row: value for row, value in found.values.items() if row not in found.controls}
    below = len(set(typed.values())) > 2 and max(typed.values()) < 0
    logged = bool(_LOG.match(heading)) or (below and bool(re.match(r"^(dose|conc|c$)", heading, re.IGNORECASE)))
    if chosen.log_levels is not None:
        logged = chosen.log_levels
    if not logged or not typed or not all(_LOG_RANGE[0] <= value <= _LOG_RANGE[1] for value in typed.values()):
        return found
    ranks = sorted(set(typed.values()))
    steps = [b - a for a, b in pairwise(ranks)]
    lowest = ranks[0] if len(steps) > 2 and steps[0] > STANDS_OUT * max(steps[1:]) else None
    zero = chosen.zero_level
    values = {
        row: value if row in found.controls else 0.0 if value == zero else float(f"{10**value:.12g}")
        for row, value in found.values.items()
    }
    return replace(found, values=values, logged=True, lowest=lowest, zero=zero)


def _in_unit(found: Levels, chosen: Choices) -> Levels:
    """With the unit a person gives them: the same numbers under another label, or the same levels in other numbers."""
    unit = found.unit if chosen.level_unit is None else chosen.level_unit
    if not chosen.level_shown or chosen.level_shown == unit:
        return replace(found, unit=unit)
    try:
        values = {row: convert(value, unit, chosen.level_shown) for row, value in found.values.items()}
    except UnitError as error:
        return replace(found, unit=unit, clash=found.clash or str(error))
    return replace(found, values=values, unit=chosen.level_shown, label=unit)
