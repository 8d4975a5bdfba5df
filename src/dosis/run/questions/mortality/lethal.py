"""Step: the dose that kills half, and any other share; beside it Spearman and Kärber's mean, which needs no line."""

import math
import re
from contextlib import suppress
from typing import Annotated, Literal

from pydantic import Field

from dosis.core import quantal
from dosis.core.quantal.model import QuantalFit, abbott
from dosis.core.rounding import fixed, given, p_value, significant, with_interval
from dosis.run.curves.equation import DIGITS, put
from dosis.run.effects.effect import Effect, EffectDose, Shape
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.mortality.bench import CountBench, Treatment
from dosis.run.questions.mortality.line import controls_of
from dosis.run.steps.step import Step

METHODS = {"fieller": "Fieller's theorem", "delta": "the delta method", "profile": "profile likelihood"}
_IN_A_VOLUME = re.compile(
    r"/\s*(\d+\s*)?[cdmµun]?(L|l|m³|m\^?3)\b|[cdmµun]?(L|l|m)\s*(⁻¹|⁻³|\^?-[13])|^[mµunp]?M$|^pp[mbt]\b|^[%‰]"
)
LEAST_TRIM, MOST_TRIM = 0.1, 0.45
Percent = Annotated[float, Field(gt=0, lt=100)]


class LethalStep(Step):
    """LD50 or LC50 of each series and any other, with intervals by Fieller, the delta method or the profile.

    symbol : LC of a concentration in the medium, LD of a dose in or on the animal; by the unit, or as asked.
    trim : the share cut off at each end for the trimmed Spearman–Kärber; None for as little as it takes.
    """

    title = "Lethal dose"
    kind: Literal["lethal"] = "lethal"
    levels: Annotated[tuple[Percent, ...], Field(min_length=1, max_length=6)] = (50.0, 10.0, 90.0)
    method: Literal["fieller", "delta", "profile"] = "fieller"
    interval: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95
    trim: Annotated[float, Field(gt=0, lt=0.5)] | None = None
    symbol: Literal["by unit", "LC", "LD"] = "by unit"

    def run(self, bench: CountBench) -> StepOutcome:
        """One row for each series."""
        if not any(made.fit for made in bench.treatments.values()):
            return self.told("Waiting for a line.", State.FAIL)
        symbol = lethal_symbol(bench.layout.level.unit) if self.symbol == "by unit" else self.symbol
        bench.interval = self.interval
        for key, made in bench.treatments.items():
            bench.tag = made.tag
            bench.effects.append(self._effect(bench, key, made, symbol))
        bench.tag = ""
        found = sum(effect.doses[0].relative.value is not None for effect in bench.effects)
        missing = len(bench.effects) - found
        some = f" **{missing} without a number.**" if missing else ""
        said = f"{self.interval * 100:g} % intervals by {METHODS[self.method]}; Spearman–Kärber beside it.{some}"
        return self.told(said, State.LOOK if missing else State.PASS)

    def _effect(self, bench: CountBench, key: str, made: Treatment, symbol: Literal["LC", "LD"]) -> Effect:
        remarks: list[Remark] = []
        fit = made.fit
        if fit is None or not fit.converged:
            text = f"{made.name}: {made.problem} Test doses that kill some, but not all."
            remarks.append(Remark(state=State.LOOK, short="no line", text=text))
        doses = tuple(self._dose(bench, made, level, symbol, remarks) for level in self.levels)
        plain, trimmed = self._spearman(bench, made)
        words = ""
        if fit is not None and fit.converged:
            p = "" if fit.pearson_p is None else f", p {p_value(fit.pearson_p)}"
            words = f"χ² {significant(fit.pearson, 3)} on {fit.degrees_of_freedom}{p}"
            bench.write("quantal.fit", "χ² of fit", text="Σ (affected − n·p)² ÷ (n·p·(1 − p))", result=words,
                        value=fit.pearson)  # fmt: skip
            bench.write("quantal.fit", "Deviance", result=significant(fit.deviance, DIGITS), value=fit.deviance)
        slope = Value()
        if fit is not None and fit.converged:
            error = float(fit.standard_errors[1])
            slope = Value(value=fit.slope, shown=with_interval(fit.slope, fit.slope - error, fit.slope)[0])
        return Effect(
            series=key, name=made.name, group=made.groups[0].id, n=len(made.rows), symbol=symbol, doses=doses,
            shape=Shape(slope=slope),
            spearman=plain, trimmed=trimmed, shown_fit=words, remarks=tuple(remarks),
        )  # fmt: skip

    def _dose(
        self, bench: CountBench, made: Treatment, level: float, symbol: str, remarks: list[Remark]
    ) -> EffectDose:  # fmt: skip
        fit, unit, id = made.fit, bench.layout.level.unit, f"effect.{level:g}"
        if fit is None:
            return EffectDose(percent=level)
        found = fit.dose_for(level / 100, self.interval, self.method)
        if found.estimate is None:
            shown = "not bounded"
            if found.lower is not None and found.upper is not None:
                shown = f"{given(found.lower)} to {given(found.upper)}"
            elif found.lower is not None:
                shown = f"> {given(found.lower)}"
            elif found.upper is not None:
                shown = f"< {given(found.upper)}"
            bench.write(id, f"{symbol}{level:g}", text=found.reason, result=f"{shown} {unit}".rstrip())
            if fit.converged:
                text = f"{made.name} has no {symbol}{level:g}: {found.reason}."
                remarks.append(Remark(state=State.LOOK, short=f"no {symbol}{level:g}", text=text))
            censor: Literal["", ">", "<"] = ">" if shown.startswith(">") else "<" if shown.startswith("<") else ""
            return EffectDose(percent=level, relative=Value(
                censor=censor, lower=found.lower, upper=found.upper, shown=shown,
            ))  # fmt: skip
        value = Value.of(found.estimate, found.lower, found.upper)
        shown, lower, upper = value.shown, value.shown_lower, value.shown_upper
        bench.write(id, f"{symbol}{level:g}", text=_calculation(fit, level / 100), result=f"{shown} {unit}".rstrip(),
                    value=found.estimate)  # fmt: skip
        why = f" ({found.reason})" if found.reason else ""
        bench.write(
            id, f"{self.interval * 100:g} % interval", text=f"{lower} to {upper}, by {METHODS[self.method]}{why}"
        )
        if level == self.levels[0]:
            for method in ("delta", "fieller", "profile"):
                if method != self.method:
                    other = fit.dose_for(level / 100, self.interval, method)
                    if other.estimate is not None:
                        _, low, high = with_interval(found.estimate, other.lower, other.upper)
                        bench.write(id, "Also", text=f"{low} to {high}, by {METHODS[method]}")
        return EffectDose(percent=level, relative=value)

    def _spearman(self, bench: CountBench, made: Treatment) -> tuple[Value, Value]:
        """Plain where the response runs from none to all; trimmed as asked for, or by as little as it takes."""
        affected_controls, exposed_controls = controls_of(made)
        share = affected_controls / exposed_controls if exposed_controls else 0.0
        rows = [(x, float(abbott(r / n, share)) * n if share < 1 else r, n) for x, r, n in made.rows if x > 0]
        by_dose: dict[float, tuple[float, float]] = {}
        for x, r, n in rows:
            had = by_dose.get(x, (0.0, 0.0))
            by_dose[x] = had[0] + r, had[1] + n
        dose = sorted(by_dose)
        if len(dose) < 2:
            return Value(), Value()
        killed, exposed = [by_dose[x][0] for x in dose], [by_dose[x][1] for x in dose]
        plain = trimmed = Value()
        with suppress(ValueError):
            mean = quantal.spearman_karber(dose, killed, exposed, 0.0, self.interval)
            plain = Value.of(mean.estimate, mean.lower, mean.upper)
        least = max(killed[0] / exposed[0], 1 - killed[-1] / exposed[-1], LEAST_TRIM)
        trim = min(math.ceil(100 * least) / 100, MOST_TRIM) if self.trim is None else self.trim
        with suppress(ValueError):
            mean = quantal.spearman_karber(dose, killed, exposed, trim, self.interval)
            trimmed = Value.of(mean.estimate, mean.lower, mean.upper)
        for label, value in (("Spearman–Kärber", plain), (f"trimmed {100 * trim:.0f} %", trimmed)):
            if value.value is not None:
                bench.write(f"effect.{self.levels[0]:g}", label, result=value.shown, value=value.value,
                            text=f"mean of log10 dose, {value.shown_lower} to {value.shown_upper}")  # fmt: skip
        return plain, trimmed


def lethal_symbol(unit: str) -> Literal["LC", "LD"]:
    """ "LC" of an amount in a volume, a share or a molarity (mg/L, ppm, %, µM); "LD" per mass, per animal or bare."""
    return "LC" if _IN_A_VOLUME.search(unit) else "LD"


def _calculation(fit: QuantalFit, share: float) -> str:
    target = {"probit": "Φ⁻¹", "logit": "logit", "cloglog": "cloglog"}[fit.link]
    intercept, slope = put(fit.intercept), put(fit.slope)
    line = f"({target}({fixed(share, 2)}) − {intercept}) ÷ {slope}"
    return f"10^({line})" if fit.log_dose else line
