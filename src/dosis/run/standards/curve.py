"""Step: the standard curve, fitted to the standards inside the window; beside it the curves it is compared with."""

import math
from contextlib import suppress
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import ArrayLike
from pydantic import Field, model_validator

from dosis.core.fitting.fit import fit
from dosis.core.fitting.uneven import uneven_spread
from dosis.core.fitting.weights import Rising, WeightRule
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS, Model, custom
from dosis.core.rounding import fixed, given, p_value, significant
from dosis.run.curves.candidates import Missed, candidate, compared
from dosis.run.curves.setting import Number, setting_words, shown_weights
from dosis.run.curves.words import bent, r2_name, shown_r_squared
from dosis.run.layout import Level
from dosis.run.outcome.drawn import Suggestion
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.record import Record
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.scatter import with_blanks
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed

PLAIN = 0.02  # p of a spread that rises along the curve below which standards are weighted by it (docs/coverage.md)
BETTER = 2.0  # by which AICc must fall for a larger model to be proposed (Burnham & Anderson 2002, 2.6)
CUSTOM = "custom"
FIVE = ("logistic5", "logistic5_mirrored")  # mirror images of each other: which serves is seen by trying both
WIDE_LEVELS, WIDE_SPAN = 5, 20.0  # levels, and highest over lowest, from which nobody expects a straight line
Per = Literal["each", "run", "plate", "series"]


class Window(Record):
    """Lowest and highest concentration of the standards taken into the fit; None leaves an end open."""

    lower: Level | None = None
    upper: Level | None = None

    @model_validator(mode="after")
    def _ordered(self) -> "Window":
        if self.lower is not None and self.upper is not None and self.lower > self.upper:
            raise ValueError("The window's lower end is above its upper end; swap them.")
        return self

    def holds(self, level: float) -> bool:
        """Whether a standard of that level is inside, ends included."""
        return (self.lower is None or level >= self.lower) and (self.upper is None or level <= self.upper)


class LeaveOut(Record):
    """How many of the lowest and of the highest levels stay out of the fit."""

    lowest: Annotated[int, Field(ge=0, le=50)] = 0
    highest: Annotated[int, Field(ge=0, le=50)] = 0


class CurveStep(Step):
    """A curve model through the standards: which, how weighted, to readings or means, over which window.

    model : the id of a model, or "custom" with an `expression` in x and named parameters and a `start` for each.
    weights : "auto" for equal ones, unless the standards plainly scatter more the higher they read.
    fixed : parameters held at a value.
    per : one curve for "each" series, or else each plate, that has standards of its own; or as asked, pooled in the
        "run", or by "plate" or "series".
    way : the signal fitted on the concentration and read back, or the concentration on the signal and predicted.
    """

    title = "Curve"
    kind: Literal["curve"] = "curve"
    per: Per = "each"
    way: Literal["signal", "concentration"] = "signal"
    model: Annotated[str, Field(max_length=60)] = "line"
    expression: Annotated[str, Field(max_length=300)] = ""
    start: dict[str, Number] = Field(default_factory=dict)
    weights: Literal["auto", "none", "1/x", "1/x^2", "1/y", "1/y^2", "1/yhat^2"] = "auto"
    robust: Literal["off", "huber", "bisquare"] = "off"
    fit_to: Literal["readings", "means"] = "readings"
    fixed: dict[str, Number] = Field(default_factory=dict)
    leave_out: LeaveOut = LeaveOut()
    window: Window = Window()

    @model_validator(mode="after")
    def _known(self) -> "CurveStep":
        if self.model != CUSTOM and self.model not in MODELS:
            raise ValueError(f"There is no curve model “{self.model}”.")
        if self.model == CUSTOM:
            custom(self.expression)  # an expression that makes no sense is refused in its own words
        unknown = sorted(set(self.fixed) - set(self.declared.names))
        if unknown:
            raise ValueError(f"{self.declared.name} has no parameter “{unknown[0]}” to hold.")
        return self

    @property
    def declared(self) -> Model:
        """The model itself."""
        return custom(self.expression) if self.model == CUSTOM else MODELS[self.model]

    def words(self, before: Step | None, unit: str) -> str:
        """The whole step in words."""
        setting = setting_words(self.declared, self.weights, self.robust, self.fixed)
        means = ", equal weights" if self.weights == "none" else ""
        means += ", to the means" if self.fit_to == "means" else ""
        out = self.leave_out
        each = {"each": "", "run": ", one for the run"}.get(self.per, f", one for each {self.per}")
        turned = ", concentration on signal" if self.way == "concentration" else ""
        ends = [f"{end} {count}" for end, count in (("lowest", out.lowest), ("highest", out.highest)) if count]
        left = f", without the {' and the '.join(ends)}" if ends else ""
        return f"Curve: {setting}{means}{left}{turned}{each}, {_window_words(self.window, unit)}"

    def run(self, bench: StandardBench) -> StepOutcome:
        """Fit the chosen model and, beside it, the others; look for a bend."""
        x, y, ids = self._standards(bench)
        problem = self._unfit(bench, x)
        bench.turned = self.way == "concentration"
        weights = self._by_spread(bench, x, y)
        if not problem:
            for id in self._compared(x):
                try:
                    bench.fits[id] = self._fit(id, np.array(x), np.array(y), weights)
                except ValueError as error:
                    problem = str(error) if id == self.model else problem
        bench.fit = bench.fits.get(self.model)
        if bench.fit is None:
            bench.fit_problem = problem
            return self.told(problem, State.FAIL)
        entries = [[id] for id in ids]
        if self.fit_to == "means":
            entries = [[id for id, at in zip(ids, x, strict=True) if at == level] for level in sorted(set(x))]
        bench.fit = bench.fits[self.model] = with_blanks(bench, bench.fit, entries)
        means = _means(bench, bench.fit)
        bench.candidates = tuple([
            candidate(id, result, chosen=id == self.model, missed=_missed(means, result, turned=bench.turned))
            for id, result in bench.fits.items()
        ])  # fmt: skip
        bench.comparison = compared(bench.candidates, "standards", BETTER)
        if bench.fit.slope_is_flat:
            bench.fit_problem = "The signal does not change with concentration, so nothing can be read back."
            return self.told(bench.fit_problem, State.FAIL)
        bench.suggestion = (
            self._straight_part(x, y, bench, weights)
            or self._other_model(x, y, bench, weights)
            or self._weighted(bench)
        )
        pooled, why = self._pooled(bench)
        look = bent(bench.fit) or bool(bench.fit.warnings) or bool(why)
        sentence = f"{self._sentence(bench, bench.fit)}{pooled and ' '}{pooled}{why}"
        return self.told(sentence, State.LOOK if look else State.PASS, pooled.replace("**", "") if why else "")

    def _pooled(self, bench: StandardBench) -> tuple[str, str]:
        """Whose standards share this curve; and why, where nobody has asked for that."""
        series = [*dict.fromkeys(group.series or "no series" for group in bench.groups(Role.STANDARD))]
        if len(series) < 2 or not bench.samples_choose:
            return "", ""
        if self.per != "each":
            return f"The standards of {listed(series)} are pooled, as asked.", ""
        return f"**The standards of {listed(series)} are pooled in one curve.**", (
            " Not every sample says which of them is its own: give each its series, or ask for one curve for the run."
        )

    def _compared(self, x: list[float]) -> tuple[str, ...]:
        """The chosen model and what it is compared with: sigmoids with each other, and a line where one could serve."""
        others: tuple[str, ...] = ("line",)
        if self.declared.shape == "straight":
            others = ("line", "line_through_zero", "quadratic")
        elif self.declared.shape == "sigmoid":
            five = ("logistic5", "logistic5_mirrored") if self.model in FIVE else ("logistic5",)
            others = ("logistic4", *five) if wide(x) else ("logistic4", *five, "line")
        return (self.model, *(id for id in others if id != self.model))

    def _by_spread(self, bench: StandardBench, x: list[float], y: list[float]) -> WeightRule | Rising:
        """Weights by the standards' spread where that rises with their signal and nobody has chosen any."""
        chosen = "none" if self.weights == "auto" else self.weights
        if self.weights not in ("auto", "none") or self.robust != "off" or bench.turned:
            return chosen
        with np.errstate(all="ignore"):
            found = uneven_spread(np.array(x), np.array(y))
        bench.uneven = found if found is not None and found.p < PLAIN else None
        return chosen if bench.uneven is None or self.weights == "none" else bench.uneven.weights

    def _weighted(self, bench: StandardBench) -> Suggestion | None:
        """Weights, where all readings were asked to count alike though they plainly do not."""
        if bench.uneven is None or self.weights != "none":
            return None
        text = (
            f"The standards scatter more the higher they read ({_ends_of(bench)}), so intervals are too narrow at the "
            "top and too wide at the bottom."
        )
        return Suggestion(lower=None, upper=None, weights="auto", text=text, action="Weight them by their spread")

    def _fit(self, id: str, x: ArrayLike, y: ArrayLike, weights: WeightRule | Rising, **options: Any) -> Fit:
        own = id == self.model
        if self.way == "concentration":
            x, y = y, x
        return fit(
            self.declared if own else MODELS[id], x, y, weights=weights,
            robust=None if self.robust == "off" else self.robust, means=self.fit_to == "means",
            fixed=self.fixed if own and self.fixed else None, start=self.start if own and self.start else None,
            **options,
        )  # fmt: skip

    def _standards(self, bench: StandardBench) -> tuple[list[float], list[float], list[int]]:
        """Levels and signals of the standards taken into the fit, and which readings they are."""
        pairs = [
            (group.level, bench.values[id], id)
            for group in bench.groups(Role.STANDARD)
            if group.level is not None and self.window.holds(group.level)
            for id in bench.used(group)
        ]
        low, high = self.leave_out.lowest, self.leave_out.highest
        if low or high:
            levels = sorted({pair[0] for pair in pairs})
            kept = set(levels[low : len(levels) - high])
            pairs = [pair for pair in pairs if pair[0] in kept]
        return [pair[0] for pair in pairs], [pair[1] for pair in pairs], [pair[2] for pair in pairs]

    def _unfit(self, bench: StandardBench, x: list[float]) -> str:
        """Why no curve can be fitted, in the words of the lab; empty when one can."""
        standards = bench.groups(Role.STANDARD)
        if not standards:
            return "There are no standards. Give at least two readings the role standard and a concentration."
        if not any(group.level is not None for group in standards):
            return "The standards have no concentrations. Give each standard its level."
        declared = self.declared
        levels, need = len(set(x)), len(declared.parameters) - len(self.fixed)
        if levels >= need:
            if (x and any(x)) or self.model != "line_through_zero":
                return ""
            return "All standards are at zero concentration."
        inside = " inside the window" if self.window != Window() or self.leave_out != LeaveOut() else ""
        have = "No standard with a usable reading"
        if levels:
            have = f"Only one concentration ({given(x[0])})" if levels == 1 else f"Only {levels} concentrations"
        verb = "is" if levels < 2 else "are"
        return f"{have} {verb} left{inside}; a {declared.name.lower()} needs {need} or more."

    def _straight_part(
        self, x: list[float], y: list[float], bench: StandardBench, weights: WeightRule | Rising
    ) -> Suggestion | None:
        """The widest range from the lowest standard up whose lack of fit is not significant, with 4 levels or more."""
        if bench.fit is None or not bent(bench.fit) or not bench.fit.is_straight or bench.turned:
            return None
        levels = sorted(set(x))
        for keep in range(len(levels) - 1, 3, -1):
            top = levels[keep - 1]
            result = self._fit(self.model, x, y, weights, window=(None, top))
            if not bent(result):
                unit = bench.layout.level.unit
                dropped = len(levels) - keep
                gone = "the top standard" if dropped == 1 else f"the top {dropped} standards"
                p = result.lack_of_fit.p_value
                said = f", lack of fit p {p_value(p)}" if p is not None else ""
                return Suggestion(
                    lower=self.window.lower, upper=top,
                    text=f"The line bends at the top. Without {gone} it is straight{said}.",
                    action=f"Use {given(levels[0])} – {given(top)} {unit}".rstrip(),
                )  # fmt: skip
        return None

    def _other_model(
        self, x: list[float], y: list[float], bench: StandardBench, weights: WeightRule | Rising
    ) -> Suggestion | None:
        """A curve that describes clearly better what the chosen one does not."""
        now = bench.fit
        if now is None or now.aicc is None or not (bent(now) or self.model in FIVE):
            return None
        tried = {id: result for id, result in bench.fits.items() if id != self.model}
        if wide(x) and not bench.turned and "logistic4" not in bench.fits:
            with suppress(ValueError):
                tried["logistic4"] = self._fit("logistic4", x, y, weights)
        better = [(result.aicc, id) for id, result in tried.items() if result.aicc is not None and result.converged]
        best, id = min(better, default=(now.aicc, self.model))
        if now.aicc - best < BETTER:
            return None
        name = MODELS[id].name
        why = f"{now.model.name} leaves more unexplained than the replicates differ. " if bent(now) else ""
        return Suggestion(
            lower=None, upper=None, model=id, action=f"Use {name}",
            text=f"{why}{name} describes these standards better: AICc {fixed(best, 1)} against {fixed(now.aicc, 1)}.",
        )  # fmt: skip

    def _sentence(self, bench: StandardBench, result: Fit) -> str:
        what = "means" if self.fit_to == "means" else "readings"
        turned = self.way == "concentration"
        levels = len(set((result.y if turned else result.x).tolist()))
        said = f"{result.model.name} through {result.n} {what} of {levels} standards"
        if turned:
            said += ", **concentration on signal**"
        if result.turn is not None:
            said += ", **weighted by their spread**"
        elif self.weights not in ("none", "auto"):
            said += f", weights {shown_weights(self.weights)}"
        if self.robust != "off":
            said += f", robust ({self.robust})"
        r2 = "" if result.r_squared is None else f", {r2_name(result)} **{shown_r_squared(result.r_squared)}**"
        p = result.lack_of_fit.p_value
        bend = (
            f" {'It bends: l' if result.is_straight else 'L'}ack of fit p {p_value(p)}." if bent(result) and p else ""
        )
        spread = "" if result.turn is None else f" They scatter more the higher they read: {_ends_of(bench)}."
        return " ".join([f"{said}{r2}.{spread}{bend}", *result.warnings])


def _ends_of(bench: StandardBench) -> str:
    """How far the standards scatter at both ends of the curve."""
    assert bench.uneven is not None
    low, high = (significant(sd, 2) for sd in (bench.uneven.lowest, bench.uneven.highest))
    return f"SD {low} where they read least and {high} where most, p {p_value(bench.uneven.p)}"


def wide(x: list[float]) -> bool:
    """Whether the standards go so far that a sigmoid is to be expected."""
    above = {level for level in x if level > 0}
    return len(above) >= WIDE_LEVELS and max(above) > WIDE_SPAN * min(above)


def _means(bench: StandardBench, result: Fit) -> dict[float, float]:
    """The mean reading at every level above zero that took part in the fit."""
    low, high = bench.span_of(result)
    standards: dict[float, list[float]] = {}
    for group in bench.groups(Role.STANDARD):
        if group.level is not None and group.level > 0 and low <= group.level <= high:
            standards.setdefault(group.level, []).extend([bench.values[id] for id in bench.used(group)])
    return {level: math.fsum(values) / len(values) for level, values in standards.items() if values}


def _missed(means: dict[float, float], result: Fit, *, turned: bool) -> Missed:
    """By how much, on average, a curve misses its standards read back, how many can be read, and of how many."""
    signals = list(means.values())
    found = result.predict(signals).tolist() if turned else result.estimates(signals)
    off = [abs(x / level - 1) for level, x in zip(means, found, strict=True) if x is not None and math.isfinite(x)]
    return (math.fsum(off) / len(off) if off else None), len(off), len(means)


def _window_words(window: Window, unit: str) -> str:
    low = None if window.lower is None else f"from {given(window.lower)}"
    high = None if window.upper is None else f"up to {given(window.upper)}"
    ends = " ".join(end for end in (low, high) if end)
    return f"standards {ends} {unit}".rstrip() if ends else "all standards"
