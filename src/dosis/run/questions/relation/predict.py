"""Step: what the curve says at typed values — y at x, and x at y — each with its interval."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.inference.result import Fit
from dosis.core.interpolation import Interpolation
from dosis.core.numbers import LARGEST
from dosis.core.rounding import given
from dosis.run.curves.equation import put
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.relation.bench import Line, RelationBench
from dosis.run.questions.relation.part import Prediction
from dosis.run.steps.step import Step

Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]
Numbers = Annotated[tuple[Number, ...], Field(max_length=2000)]
NAMED = 2


class PredictStep(Step):
    """Read y at `at_x` and x at `at_y` off every series.

    of : the interval is that of the curve there, or of one more reading, which scatters as the points do.
    """

    title = "Predict"
    kind: Literal["predict"] = "predict"
    at_x: Numbers = ()
    at_y: Numbers = ()
    of: Literal["curve", "reading"] = "curve"
    level: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95

    def words(self, before: Step | None, unit: str) -> str:
        """What is asked for."""
        asked = [f"{axis} at {', '.join(map(given, values[:6]))}{' …' if len(values) > 6 else ''}"
                 for axis, values in (("y", self.at_x), ("x", self.at_y)) if values]  # fmt: skip
        whose = "the curve" if self.of == "curve" else "a reading"
        return f"Predict: {'; '.join(asked) or 'nothing'}, interval of {whose}"

    def run(self, bench: RelationBench) -> StepOutcome:
        """Answer every value for every series."""
        lines = [line for line in bench.lines.values() if line.fit is not None or line.table is not None]
        if not (self.at_x or self.at_y):
            return self.told("Nothing asked yet. Type an x to read y at it, or a y to read x.", State.PASS)
        if not lines:
            return self.told("Waiting for a curve.", State.FAIL)
        for axis, values in (("x", self.at_x), ("y", self.at_y)):
            for i, at in enumerate(values):
                for line in lines:
                    id = f"{line.tag}predict.{axis}{i}"
                    found, beyond = self._answer(line, axis, at)
                    bench.predictions.append(Prediction(axis, at, given(at), line.key, found, beyond, id))  # type: ignore[arg-type]
                    self._write(bench, line, axis, at, found, id)
        off = [each for each in bench.predictions if each.beyond]
        first = bench.predictions[0]
        other = "y" if first.asked == "x" else "x"
        said = f"{other} at {first.asked} = {first.shown_at}: **{first.value.shown}**"
        more = len(bench.predictions) - 1
        text = f"{said}{f', and {more} more' if more else ''}."
        if off:
            why = off[0].beyond[:1].upper() + off[0].beyond[1:]
            text += f" {why}: {', '.join(f'{each.asked} = {each.shown_at}' for each in off[:NAMED])}."
        return self.told(text, State.LOOK if off else State.PASS)

    def _answer(self, line: Line, axis: str, at: float) -> tuple[Value, str]:
        if line.table is not None:
            return _off_table(line.table, axis, at)
        assert line.fit is not None
        return self._y_at(line.fit, at) if axis == "x" else self._x_at(line.fit, at)

    def _y_at(self, fit: Fit, x: float) -> tuple[Value, str]:
        if fit.model.positive_x and x < 0:
            return Value(), "this curve has no value below x = 0"
        with np.errstate(all="ignore"):
            y = float(fit.predict([x])[0])
            band = fit.band([x], self.level, "mean" if self.of == "curve" else "observation")
        if not math.isfinite(y):
            return Value(), "the curve has no value there"
        low, high = fit.range
        beyond = "" if low <= x <= high else "outside the points"
        ends = (None, None) if band is None else (float(band[0][0]), float(band[1][0]))
        return Value.of(y, *(end if end is not None and math.isfinite(end) else None for end in ends)), beyond

    def _x_at(self, fit: Fit, y: float) -> tuple[Value, str]:
        with np.errstate(all="ignore"):
            found = fit.read_back(y, self.level, n=1 if self.of == "reading" else math.inf)
        if found.estimate is None:
            return Value(), found.reason or "the curve does not reach it"
        return Value.of(found.estimate, found.lower, found.upper), found.reason if found.flag else ""

    def _write(self, bench: RelationBench, line: Line, axis: str, at: float, found: Value, id: str) -> None:
        tag, bench.tag = bench.tag, ""
        label = f"{'y' if axis == 'x' else 'x'} at {axis} = {given(at)}"
        how = "by a straight line between the two points around it"
        if line.fit is not None:
            at_text = "".join(f"; {name} = {put(value)}" for name, value in line.fit.named.items())
            how = (
                f"{line.fit.model.equation}{at_text}"
                if axis == "x"
                else f"solved for x: {line.fit.model.equation}{at_text}"
            )
        bench.write(id, label, text=how, result=found.shown, value=found.value)
        if found.shown_lower:
            of = "the curve" if self.of == "curve" else "one more reading"
            bench.write(
                id,
                f"{self.level * 100:g} % interval",
                text=f"of {of}",
                result=f"{found.shown_lower} to {found.shown_upper}",
            )
        bench.tag = tag


def _off_table(table: Interpolation, axis: str, at: float) -> tuple[Value, str]:
    """Between two rows of the table, and never beyond its ends; there is no interval."""
    if axis == "x":
        y = float(table.predict([at])[0])
        return (
            (Value.of(y, None, None), "")
            if math.isfinite(y)
            else (Value(), "outside the table, which is never extrapolated")
        )
    found = table.read_back(at)
    if found.estimate is None:
        return Value(), found.reason.replace("signal", "y").replace("standard", "point")
    return Value.of(found.estimate, None, None), ""
