"""Step: what x and y are — the columns as they came, or computed from them."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.columns import derive
from dosis.core.expressions import ExpressionError
from dosis.core.numbers import LARGEST
from dosis.core.rounding import given
from dosis.core.units import UnitError
from dosis.run.layout import Name, Quantity, Unit
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.relation.bench import RelationBench
from dosis.run.roles import Role
from dosis.run.steps.step import Step

Expression = Annotated[str, Field(max_length=500)]
NAMED = 3


class ColumnsStep(Step):
    """Compute x and y by expressions in x, y and the other columns read at each point; empty leaves them as they came.

    Examples: "1/x", "-log10(y/100)", "x + 273.15". names and units are those of the axes, where they are other ones.
    """

    title = "Columns"
    kind: Literal["columns"] = "columns"
    x: Expression = ""
    x_name: Name = ""
    x_unit: Unit | None = None
    y: Expression = ""
    y_name: Name = ""
    y_unit: Unit | None = None

    def run(self, bench: RelationBench) -> StepOutcome:
        """Put x and y of every point on the bench."""
        level_of = {id: group.level for group in bench.groups(Role.POINT) for id in group.readings}
        ids = [id for id, level in level_of.items() if level is not None]
        bench.x = {id: float(level) for id in ids if (level := level_of[id]) is not None}
        columns = {"x": [bench.x[id] for id in ids], "y": [bench.values.get(id, math.nan) for id in ids]}
        for at, name in enumerate(bench.channel_names()):
            if name not in columns:
                channel = bench.channel(at)
                columns[name] = [channel.get(id, math.nan) for id in ids]
        said, undefined = [], 0
        found: dict[str, list[float]] = {}
        for axis, expression in (("x", self.x), ("y", self.y)):
            if not expression.strip():
                continue
            try:
                with np.errstate(all="ignore"):
                    made = derive(expression, {name: np.array(values) for name, values in columns.items()})
            except (ExpressionError, UnitError, ValueError) as error:
                bench.x = {}  # nothing is drawn through what was not asked for
                return self.told(f"{axis}: {error}", State.FAIL)
            found[axis] = made.values.tolist()
            said.append(f"{axis} = {expression.strip()}")
        if "x" in found:
            bench.x = {id: v for id, v in zip(ids, found["x"], strict=True) if math.isfinite(v) and abs(v) <= LARGEST}
            undefined += len(ids) - len(bench.x)
        if "y" in found:
            undefined += self._with_y(bench, ids, found["y"])
        bench.x_quantity = self._quantity(self.x, self.x_name, self.x_unit, bench.layout.level)
        bench.y_quantity = self._quantity(self.y, self.y_name, self.y_unit, bench.layout.signal)
        for id in level_of.keys() - bench.x.keys():
            bench.why_not.setdefault(id, "no x")
        return self._tell(bench, said, undefined)

    def _with_y(self, bench: RelationBench, ids: list[int], made: list[float]) -> int:
        """Readings as they are after the expression; how many have none."""
        lost = 0
        for id, value in zip(ids, made, strict=True):
            had = id in bench.values
            if math.isfinite(value) and abs(value) <= LARGEST:
                bench.values[id] = value
            elif had:
                del bench.values[id]
                bench.why_not[id] = f"{self.y} has no value there"
                lost += 1
        bench.decimals = max(bench.decimals, 3)
        return lost

    def _quantity(self, expression: str, name: str, unit: str | None, own: Quantity) -> Quantity:
        computed = expression.strip()
        return Quantity(
            name=name or computed[:200] or own.name,
            unit=unit if unit is not None else "" if computed else own.unit,
        )

    def _tell(self, bench: RelationBench, said: list[str], undefined: int) -> StepOutcome:
        groups = bench.groups(Role.POINT)
        without = [group.name for group in groups if group.level is None]
        if not any(id in bench.x for group in groups for id in group.readings):
            return self.told("There are no points yet. Give readings the role point and an x.", State.FAIL)
        computed = f"**{', '.join(said)}**; " if said else ""
        text = f"{computed}x is {bench.x_quantity.label}, y is {bench.y_quantity.label}."
        lost = ""
        if undefined:
            lost = f"{given(undefined)} points have no value by this expression and are left out."
        if without:
            shown = ", ".join(without[:NAMED]) + (" …" if len(without) > NAMED else "")
            lost += f" Without an x, and so not used: {shown}."
        state = State.LOOK if lost else State.PASS
        return self.told(f"{text} {lost}".strip(), state, lost.strip())
