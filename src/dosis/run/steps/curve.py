"""Step: the standard curve, fitted to every usable reading of the standards inside the window."""

from typing import Literal

from pydantic import model_validator

from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS
from dosis.core.rounding import fixed, given, p_value, significant
from dosis.run.layout import Level, Role
from dosis.run.outcome import Candidate, State, StepOutcome, Suggestion
from dosis.run.record import Record
from dosis.run.workbench import Workbench

OFFERED = ("line", "line_through_zero")  # the models compared side by side
BEND = 0.05  # p of the lack-of-fit test below which a curve is called bent


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


class CurveStep(Record):
    """A line or a line through zero, weighted or not, over a window of standards."""

    kind: Literal["curve"] = "curve"
    model: Literal["line", "line_through_zero"] = "line"
    weights: Literal["none", "1/x", "1/x^2", "1/y", "1/y^2"] = "none"
    window: Window = Window()

    def run(self, bench: Workbench) -> StepOutcome:
        """Fit the chosen model and, beside it, the others; look for a bend."""
        x, y = self._standards(bench)
        problem = self._unfit(bench, x)
        if not problem:
            for model in OFFERED:
                try:
                    bench.fits[model] = fit(model, x, y, weights=self.weights)
                except ValueError as error:
                    problem = problem or (str(error) if model == self.model else "")
        bench.fit = bench.fits.get(self.model)
        bench.candidates = tuple(_candidate(result, id == self.model) for id, result in bench.fits.items())
        if bench.fit is None:
            bench.fit_problem = problem
            return StepOutcome(kind=self.kind, title="Curve", sentence=problem, state=State.FAIL)
        if bench.fit.slope_is_flat:
            bench.fit_problem = "The signal does not change with concentration, so nothing can be read back."
            return StepOutcome(kind=self.kind, title="Curve", sentence=bench.fit_problem, state=State.FAIL)
        bench.suggestion = self._straight_part(x, y, bench)
        return StepOutcome(
            kind=self.kind, title="Curve", sentence=self._sentence(bench.fit),
            state=State.LOOK if bent(bench.fit) else State.PASS,
        )  # fmt: skip

    def _standards(self, bench: Workbench) -> tuple[list[float], list[float]]:
        pairs = [
            (group.level, bench.values[id])
            for group in bench.groups(Role.STANDARD)
            if group.level is not None and self.window.holds(group.level)
            for id in bench.used(group)
        ]
        return [x for x, _ in pairs], [y for _, y in pairs]

    def _unfit(self, bench: Workbench, x: list[float]) -> str:
        """Why no curve can be fitted, in the words of the lab; empty when one can."""
        standards = bench.groups(Role.STANDARD)
        if not standards:
            return "There are no standards. Give at least two readings the role standard and a concentration."
        if not any(group.level is not None for group in standards):
            return "The standards have no concentrations. Give each standard its level."
        levels, need = len(set(x)), len(MODELS[self.model].parameters)
        if levels >= need:
            return "" if (x and any(x)) or self.model == "line" else "All standards are at zero concentration."
        inside = " inside the window" if self.window != Window() else ""
        have = f"Only one concentration ({given(x[0])})" if levels else "No standard with a usable reading"
        return f"{have} is left{inside}; a {MODELS[self.model].name.lower()} needs {need} or more."

    def _straight_part(self, x: list[float], y: list[float], bench: Workbench) -> Suggestion | None:
        """The widest range from the lowest standard up whose lack of fit is not significant, with 4 levels or more."""
        if bench.fit is None or not bent(bench.fit):
            return None
        levels = sorted(set(x))
        for keep in range(len(levels) - 1, 3, -1):
            top = levels[keep - 1]
            result = fit(self.model, x, y, weights=self.weights, window=(None, top))
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

    def _sentence(self, result: Fit) -> str:
        said = f"{MODELS[self.model].name} through {result.n} readings of {len(set(result.x.tolist()))} standards"
        if self.weights != "none":
            said += f", weights {self.weights.replace('^2', '²')}"
        r2 = "" if result.r_squared is None else f", R² **{shown_r_squared(result.r_squared)}**"
        p = result.lack_of_fit.p_value
        bend = f" It bends: lack of fit p {p_value(p)}." if p is not None and p < BEND else ""
        return f"{said}{r2}.{bend}"


def bent(result: Fit) -> bool:
    """Whether the fit's excess over the replicates' spread is significant."""
    p = result.lack_of_fit.p_value
    return p is not None and p < BEND


def shown_r_squared(r_squared: float) -> str:
    """R² to four decimals, more when those would all be nines."""
    for places in (4, 5, 6, 7):
        text = fixed(r_squared, places)
        if not text.startswith("1"):
            return text
    return "1"


def _candidate(result: Fit, chosen: bool) -> Candidate:
    p = result.lack_of_fit.p_value
    return Candidate(
        model=result.model.id, name=result.model.name, chosen=chosen,
        rmse=result.rmse, r_squared=result.r_squared, aicc=result.aicc, lack_of_fit_p=p,
        shown_rmse="—" if result.rmse is None else significant(result.rmse, 3),
        shown_r_squared="—" if result.r_squared is None else shown_r_squared(result.r_squared),
        shown_aicc="—" if result.aicc is None else fixed(result.aicc, 1),
        shown_lack_of_fit="—" if p is None else p_value(p),
    )  # fmt: skip
