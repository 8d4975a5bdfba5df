"""Step: a curve through the points of each series — any model, an equation of one's own, or the table itself."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, model_validator

from dosis.core.expressions import ExpressionError
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.interpolation import interpolate
from dosis.core.models import MODELS, Model, custom
from dosis.core.rounding import given, p_value
from dosis.run.curves.ends import Number, Range, end_words
from dosis.run.curves.setting import setting_words, shown_weights
from dosis.run.curves.words import bent, r2_name, shown_r_squared
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.relation.bench import Line, RelationBench
from dosis.run.questions.relation.beside import beside, proposed
from dosis.run.questions.relation.leaving_out import LeaveOut, left_out
from dosis.run.steps.step import Changed, Step

OWN, TABLE = "custom", "table"
Weights = Literal["none", "error", "1/x", "1/x^2", "1/y", "1/y^2", "1/yhat^2"]


class RelationCurveStep(Step):
    """The same curve for every series.

    model : one of the models, "custom" with its `equation` in x and parameters, or "table", which reads off the points
        by straight lines between neighbors and fits nothing.
    start, bounds, fixed : of parameters, by name; starts that are not given are searched for.
    weights : "error" takes 1/error² of the column of errors.
    fit_to : every reading, or the mean at each x. window, leave_out : which points are taken in.
    digits : significant digits of the parameters as listed; None as their intervals decide.
    """

    title = "Curve"
    kind: Literal["relation_curve"] = "relation_curve"
    model: Annotated[str, Field(max_length=60)] = "line"
    equation: Annotated[str, Field(max_length=500)] = ""
    start: dict[str, Number] = Field(default_factory=dict)
    bounds: dict[str, Range] = Field(default_factory=dict)
    fixed: dict[str, Number] = Field(default_factory=dict)
    weights: Weights = "none"
    robust: Literal["off", "huber", "bisquare"] = "off"
    fit_to: Literal["readings", "means"] = "readings"
    window: Range = Range()
    leave_out: LeaveOut = LeaveOut()
    digits: Annotated[int, Field(ge=1, le=10)] | None = None
    level: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95

    @model_validator(mode="after")
    def _known(self) -> "RelationCurveStep":
        if self.model not in (OWN, TABLE) and self.model not in MODELS:
            raise ValueError(f"There is no curve model “{self.model}”.")
        if self.model == OWN:
            if not self.equation.strip():
                raise ValueError("Type the equation, in x and parameters: a*exp(-b*x) + c.")
            try:
                custom(self.equation)
            except ExpressionError as error:
                raise ValueError(str(error)) from error
        if self.model != TABLE:
            for names in (self.start, self.fixed, self.bounds):
                if unknown := sorted(set(names) - set(self.declared.names)):
                    raise ValueError(f"{self.declared.name} has no parameter “{unknown[0]}”.")
        return self

    @property
    def declared(self) -> Model:
        """The model itself; a table has none, and is drawn as a line would be."""
        return custom(self.equation) if self.model == OWN else MODELS.get(self.model, MODELS["line"])

    def words(self, before: Step | None, unit: str) -> str:
        """The whole step in words."""
        if self.model == TABLE:
            return "Curve: none; read off the table"
        ends = (
            f", x from {end_words(self.window.lower)} to {end_words(self.window.upper)}"
            if self.window != Range()
            else ""
        )
        start = "".join(f", {name} from {given(value)}" for name, value in self.start.items())
        error = ", weights 1/error²" if self.weights == "error" else ""
        rule = "none" if self.weights == "error" else self.weights
        said = setting_words(self.declared, rule, self.robust, self.fixed)
        means = ", through means" if self.fit_to == "means" else ""
        return f"Curve: {said}{error}{means}{ends}{self.leave_out.words}{start}"

    def changes(self, before: Step | None) -> list[Changed]:
        """Its choices, ends and rules in words."""
        return [each for each in super().changes(before) if each.before != each.after]

    def run(self, bench: RelationBench) -> StepOutcome:
        """Sort the points into series and fit each."""
        self.sort(bench)
        lines = list(bench.lines.values())
        if not lines:
            return self.told("Waiting for points.", State.FAIL)
        if self.leave_out.too_many:
            return self.told(self.leave_out.too_many, State.FAIL)
        for i, line in enumerate(lines):
            line.tag = f"{i}." if len(lines) > 1 else ""
            if len(lines) > 1:
                line.called = line.among = line.name
            if self.model == TABLE:
                self._as_table(line)
            else:
                # An own equation is searched for once; where it came to is where the other series begin.
                found = next((other.fit for other in lines[:i] if other.fit is not None), None)
                line.fit, line.problem = self._fitted(line, None if found is None else found.named)
        if self.model == TABLE:
            return self._tell_table(lines)
        for line in lines:
            if line.fit is not None:
                beside(line, self.model, self._fit)
                line.suggestion = proposed(line, self.model)
        return self._tell(lines)

    def sort(self, bench: RelationBench) -> None:
        """Put the points that are taken in on the bench, by series."""
        for group in bench.points():
            line = bench.lines.setdefault(group.series, Line(group.series or "All points", group.series))
            line.groups.append(group)
        for line in bench.lines.values():
            rows = [
                (bench.x[id], id)
                for group in line.groups
                for id in bench.used(group)
                if id in bench.x and id in bench.values
            ]
            rows.sort(key=lambda row: bench.by_id[row[1]].row)
            gone = left_out(rows, self.window.lower, self.window.upper, self.leave_out)
            bench.left_out |= gone
            line.ids = [id for _, id in rows if id not in gone]
            line.x = [x for x, id in rows if id not in gone]
            line.y = [bench.values[id] for id in line.ids]
            line.errors = [bench.by_id[id].error for id in line.ids]

    def _fitted(self, line: Line, near: Mapping[str, float] | None) -> tuple[Fit | None, str]:
        model = self.declared
        need, levels = len(model.names) - len(self.fixed), len(set(line.x))
        if levels < need:
            have = f"{levels} different x" if levels != 1 else "Only one x"
            return None, f"{have}; {model.name.lower()} needs {need} or more."
        if self.weights == "error" and any(error is None for error in line.errors):
            bare = sum(error is None for error in line.errors)
            return None, f"{bare} of {len(line.errors)} points have no error to be weighted by. Choose other weights."
        try:
            return self._fit(model, line, near), ""
        except ValueError as error:
            return None, str(error)

    def _fit(self, model: Model, line: Line, near: Mapping[str, float] | None = None) -> Fit:
        own = model.id == self.declared.id
        errors = np.array([error or np.nan for error in line.errors])
        weights: Any = 1 / np.square(errors) if self.weights == "error" else self.weights
        options: dict[str, Any] = {}
        if own:
            ends = {name: (end.lower, end.upper) for name, end in self.bounds.items()}
            options = {"fixed": self.fixed or None, "start": self._whole_start(model, near), "bounds": ends or None}
        return fit(
            model,
            line.x,
            line.y,
            weights=weights,
            robust=None if self.robust == "off" else self.robust,
            means=self.fit_to == "means",
            **options,
        )

    def _whole_start(self, model: Model, near: Mapping[str, float] | None) -> Mapping[str, float] | None:
        """The starts as given; of an own equation only where every one is, because else all are searched for."""
        own = model.id == OWN
        if not self.start or (own and set(self.start) | set(self.fixed) < set(model.names)):
            return near if own else None
        return self.start

    def _as_table(self, line: Line) -> None:
        if len(set(line.x)) < 2:
            line.problem = "A table needs at least two different x."
            return
        line.table = interpolate("interpolation_linear", line.x, line.y)

    def _tell_table(self, lines: list[Line]) -> StepOutcome:
        problem = next((line.problem for line in lines if line.problem), "")
        if problem:
            return self.told(problem, State.FAIL)
        points = sum(len(line.x) for line in lines)
        return self.told(f"No curve: **{points} points** are read off by straight lines between neighbors.", State.PASS)

    def _tell(self, lines: list[Line]) -> StepOutcome:
        made = [line for line in lines if line.fit is not None]
        failed = [line for line in lines if line.fit is None]
        if not made:
            return self.told(failed[0].problem, State.FAIL)
        first = made[0].fit
        assert first is not None
        said = first.model.name if self.model != OWN else f"{first.model.equation}"
        weights = "1/error²" if self.weights == "error" else shown_weights(self.weights)
        said += "" if self.weights == "none" else f", weights {weights}"
        said += "" if self.robust == "off" else f", robust ({self.robust})"
        if len(lines) == 1:
            r2 = "" if first.r_squared is None else f", {r2_name(first)} **{shown_r_squared(first.r_squared)}**"
            p = first.lack_of_fit.p_value
            bend = f". Lack of fit p {p_value(p)}" if bent(first) and p is not None else ""
            text = f"{said} through {first.n} points{r2}{bend}."
        else:
            text = f"{said} through the points of **{len(made)} of {len(lines)}** series."
        why = "; ".join(f"{line.name}: {line.problem}" for line in failed[:3])
        warned = next((w for line in made if line.fit for w in line.fit.warnings), "")
        state = (
            State.LOOK if why or warned or any(line.fit is not None and bent(line.fit) for line in made) else State.PASS
        )
        return self.told(" ".join(filter(None, (text, why, warned))), state, why or warned)
