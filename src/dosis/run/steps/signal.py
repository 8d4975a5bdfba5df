"""Step: which number of each place is the signal — a channel as it came, or a column derived from several."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from dosis.core.arrays import Array
from dosis.core.columns import derive
from dosis.core.expressions import ExpressionError
from dosis.core.interpolation import LookupTable, lookup_table
from dosis.core.numbers import LARGEST, Meaning
from dosis.core.rounding import fixed
from dosis.core.units import UnitError, is_unit
from dosis.run.bench import Bench
from dosis.run.layout import Name, Quantity, Unit
from dosis.run.outcome.readings import SignalColumn
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.readings import WHY, Cell
from dosis.run.record import Record
from dosis.run.steps.step import Step

Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]
SIGNAL = "Signal"
SCAN = 5  # channels from which they are a scan, whose highest is worth naming


class DerivedColumn(Record):
    """A column computed from others, by an expression in ordinary notation."""

    name: Annotated[Name, Field(min_length=1)]
    expression: Annotated[str, Field(min_length=1, max_length=500)]
    unit: Unit = ""


class Lookup(Record):
    """A look-up table as the run uses it: a copy, so that the run stays what it is when the table changes."""

    name: Annotated[Name, Field(min_length=1)]
    x: Annotated[tuple[Number, ...], Field(min_length=2, max_length=10_000)]
    y: Annotated[tuple[Number, ...], Field(min_length=2, max_length=10_000)]
    x_unit: Unit = ""
    y_unit: Unit = ""

    @model_validator(mode="after")
    def _pairs(self) -> "Lookup":
        if len(self.x) != len(self.y):
            raise ValueError(f"The table “{self.name}” has {len(self.x)} and {len(self.y)} numbers in its two columns.")
        lookup_table(self.name, self.x, self.y)
        return self

    def table(self) -> LookupTable:
        """As expressions use it."""
        return lookup_table(self.name, self.x, self.y)


class ColumnProblem(Record):
    """Why a derived column cannot be computed: which one, and where in its expression."""

    column: str
    text: str
    position: int | None = None


class ColumnLook(Record):
    """The first values of a column, while its expression is typed."""

    name: str
    unit: str
    shown: tuple[str, ...]


class SignalLook(Record):
    """What a signal step would give."""

    columns: tuple[ColumnLook, ...]
    problem: ColumnProblem | None


class SignalStep(Step):
    """Take a channel or a derived column for the signal; empty means the first channel."""

    title = "Signal"
    kind: Literal["signal"] = "signal"
    column: Name = ""
    derived: Annotated[tuple[DerivedColumn, ...], Field(max_length=20)] = ()
    tables: Annotated[tuple[Lookup, ...], Field(max_length=20)] = ()

    def words(self, before: Step | None, unit: str) -> str:
        """Which column, and how it comes about."""
        own = next((d for d in self.derived if d.name == self.column), None)
        return f"Signal: {f'{own.name} = {own.expression}' if own else self.column or 'as read'}"

    def run(self, bench: Bench) -> StepOutcome:
        """Compute the derived columns and put the chosen one on the bench."""
        names = bench.channel_names()
        columns, problem = self.columns(bench)
        bench.columns = tuple(
            SignalColumn(name=name, unit=unit, derived=name not in names, mean=_mean(values))
            for name, (values, unit) in columns.items()
        )
        chosen = self.column or names[0]
        if problem:
            return self.told(problem.text, State.FAIL)
        if chosen not in columns:
            return self.told(f"There is no column “{chosen}” in these readings. {names[0]} is used.", State.FAIL)
        unit = columns[chosen][1]
        if chosen == names[0]:
            more = f" {len(columns) - 1} more columns can be used." if len(columns) > 2 else ""
            return self.told(f"**{bench.layout.signal.label}** as read.{more}", State.PASS)
        values = columns[chosen][0]
        bench.layout = bench.layout.model_copy(update={"signal": Quantity(name=chosen, unit=unit)})
        own = next((d for d in self.derived if d.name == chosen), None)
        lost = self._take(bench, values, chosen, None if own else names.index(chosen))
        note = "" if not lost else f" Not defined for {lost} {'reading' if lost == 1 else 'readings'}."
        bench.decimals = _decimals(values) if own else bench.decimals
        self._write(bench, chosen, own, names)
        bench.more = []
        sentence = f"**{chosen}** = {own.expression}.{note}" if own else f"**{chosen}** as read.{note}"
        return self.told(sentence, State.LOOK if lost else State.PASS)

    def look(self, bench: Bench, rows: int = 8) -> SignalLook:
        """The first values of every column as they stand on the bench, and what stopped the deriving."""
        columns, problem = self.columns(bench)
        looks = tuple(
            ColumnLook(name=name, unit=unit, shown=shown_rows(values, rows)) for name, (values, unit) in columns.items()
        )
        return SignalLook(columns=looks, problem=problem)

    def columns(self, bench: Bench) -> tuple[dict[str, tuple[Array, str]], ColumnProblem | None]:
        """Every column by name, values (readings,) and unit; and what stopped the deriving, if anything did."""
        units = [bench.layout.signal.unit, *(channel.unit for channel in bench.readings.channels[1:])]
        columns: dict[str, tuple[Array, str]] = {}
        for i, name in enumerate(bench.channel_names()):
            read = bench.channel(i)
            columns[name] = np.array([read.get(id, math.nan) for id in bench.by_id]), units[i]
        tables = {lookup.name: lookup.table() for lookup in self.tables}
        for each in self.derived:
            if each.name in columns:
                text = f"There are two columns called “{each.name}”. Give the derived one another name."
                return columns, ColumnProblem(column=each.name, text=text)
            try:
                found = derive(
                    each.expression, {name: values for name, (values, _) in columns.items()}, tables=tables,
                    units={name: unit for name, (_, unit) in columns.items() if is_unit(unit)},
                )  # fmt: skip
            except (ExpressionError, UnitError, ValueError) as error:
                text = f"“{each.name}” cannot be computed: {error}"
                return columns, ColumnProblem(column=each.name, text=text, position=getattr(error, "position", None))
            columns[each.name] = (found.values, each.unit or found.unit or "")
        return columns, None

    def _take(self, bench: Bench, values: Array, chosen: str, channel: int | None) -> int:
        """Put the column's values on the bench; how many readings that counted have none."""
        lost = 0
        for reading, value in zip(bench.readings.readings, values.tolist(), strict=True):
            excluded = bench.why_not.get(reading.id, "").startswith("excluded")
            bench.values.pop(reading.id, None)
            if not excluded:
                bench.why_not.pop(reading.id, None)
            if math.isfinite(value):
                bench.values[reading.id] = value
                continue
            cell = reading if not channel else reading.more[channel - 1]
            bench.taken_from[reading.id] = cell if channel is not None or cell.meaning is Meaning.MISSING else Cell(
                text=cell.text, meaning=Meaning.TEXT, value=None
            )  # fmt: skip
            if channel is not None or reading.meaning is not Meaning.NUMBER:
                why = WHY.get(cell.meaning, "not a number")
            else:
                why, lost = f"without a value of {chosen}", lost + 1
            bench.why_not.setdefault(reading.id, why)
        return lost

    def _write(self, bench: Bench, chosen: str, own: DerivedColumn | None, names: tuple[str, ...]) -> None:
        used = [i for i, name in enumerate(names) if i and (name == chosen or (own and name in own.expression))]
        for group in filter(bench.writes, bench.layout.groups):
            for i in used:
                cells = tuple(bench.by_id[id].more[i - 1].text or "—" for id in group.readings)
                bench.note(group, self.kind, names[i], cells=cells)
            if own:
                bench.note(group, self.kind, chosen, cells=bench.signals(group.readings))


def highest(columns: tuple[SignalColumn, ...]) -> str:
    """The channel with the highest mean reading, for a scan; empty when there are too few to be one."""
    read = [column for column in columns if not column.derived and column.mean is not None]
    return max(read, key=lambda column: column.mean or 0.0).name if len(read) >= SCAN else ""


def _mean(values: Array) -> float | None:
    """The mean of a column, None where nothing was read: of the whole plate, so that one bubble does not decide."""
    there = values[np.isfinite(values)]
    return float(there.sum()) / there.size if there.size else None


def _decimals(values: Array) -> int:
    """Places that show a derived column to four digits."""
    size = float(np.max(np.abs(values[np.isfinite(values)]), initial=0.0))
    return 3 if size == 0 else min(max(3 - math.floor(math.log10(size)) - 1, 0), 8)


def shown_rows(values: Array, count: int) -> tuple[str, ...]:
    """The first values of a column, as shown while an expression is typed."""
    places = _decimals(values) + 1
    return tuple(fixed(v, places) if math.isfinite(v) else "—" for v in values[:count].tolist())
