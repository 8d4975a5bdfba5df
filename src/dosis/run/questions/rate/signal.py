"""Step: what was read along the time — as it came, computed from it, and the unit of time."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.columns import derive
from dosis.core.expressions import ExpressionError
from dosis.core.rounding import given
from dosis.core.units import UnitError, conversion_factor
from dosis.run.layout import Name, Quantity, Unit
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.rate.bench import RateBench
from dosis.run.steps.step import Step


class CourseSignalStep(Step):
    """Compute y by an expression in y and t, such as "-log10(y/100)"; empty leaves it as it came.

    time_unit : another unit of time; None leaves that of the readings.
    """

    title = "Signal"
    names: ClassVar = {"y": "y computed as", "y_name": "name", "y_unit": "unit"}
    kind: Literal["course_signal"] = "course_signal"
    y: Annotated[str, Field(max_length=500)] = ""
    y_name: Name = ""
    y_unit: Unit | None = None
    time_unit: Unit | None = None

    def run(self, bench: RateBench) -> StepOutcome:
        """Bring time and y to what is asked for."""
        trouble = self._in_time(bench)
        lost = 0
        if self.y.strip():
            had = np.isfinite(bench.y)
            try:
                with np.errstate(all="ignore"):
                    columns = {"y": bench.y.ravel(), "t": np.tile(bench.x, len(bench.y))}
                    bench.y = derive(self.y, columns).values.reshape(bench.y.shape)
            except (ExpressionError, UnitError, ValueError) as error:
                bench.y = np.full(bench.y.shape, np.nan)
                return self.told(f"y: {error}", State.FAIL)
            bench.y[~np.isfinite(bench.y)] = np.nan
            lost = int((had & ~np.isfinite(bench.y)).sum())
        own, computed = bench.layout.signal, self.y.strip()
        bench.quantity = Quantity(
            name=self.y_name or computed[:200] or own.name,
            unit=self.y_unit if self.y_unit is not None else "" if computed else own.unit,
        )
        bench.layout = bench.layout.model_copy(update={"signal": bench.quantity})
        bench.sort()
        if not bench.courses:
            return self.told("There are no courses yet. Give readings the role course.", State.FAIL)
        span = f"{given(float(bench.x[0]))} to {given(float(bench.x[-1]))} {bench.time.unit}".rstrip()
        said = f"**{len(bench.courses):,} courses** of {bench.x.size:,} times, {span}; y is {bench.quantity.label}."
        if len(bench.courses) == 1:
            said = f"**One course** of {bench.x.size:,} times, {span}; y is {bench.quantity.label}."
        if computed:
            said = f"**y = {computed}**; {said}"
        more = f" {lost:,} points have no value by this expression and are gaps." if lost else ""
        look = bool(lost or trouble)
        return self.told(f"{said}{more}{trouble}", State.LOOK if look else State.PASS, f"{more}{trouble}".strip())

    def _in_time(self, bench: RateBench) -> str:
        own, wanted = bench.time.unit, self.time_unit
        if wanted is None or wanted == own:
            return ""
        if not own:  # a unit that was not told is named, not converted
            bench.time = Quantity(name=bench.time.name, unit=wanted)
            return ""
        try:
            factor = conversion_factor(own, wanted)
        except UnitError as error:
            return f" {error} Time stays in {own}."
        bench.x, bench.time = bench.x * factor, Quantity(name=bench.time.name, unit=wanted)
        return ""
