"""Step: from the concentration in the reading to that in the sample."""

from typing import Literal

from dosis.core.rounding import given
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.standards.bench import StandardBench
from dosis.run.steps.step import Step


class DilutionStep(Step):
    """Multiply by each sample's dilution factor; interval and bounds go along."""

    title = "Dilution"
    kind: Literal["dilution"] = "dilution"
    on: bool = True

    def run(self, bench: StandardBench) -> StepOutcome:
        """Scale every read-back value and write the factor into the working."""
        unit = bench.layout.level.unit
        factors = set()
        for group in bench.answered():
            factor = group.dilution if self.on else 1.0
            factors.add(factor)
            bench.factors[group.id] = factor
            value = bench.in_reading[group.id]
            scaled = scale(value, factor)
            bench.in_sample[group.id] = scaled
            if (scaled.value is not None or scaled.censor) and bench.writes(group):
                bench.note(
                    group, self.kind, f"× dilution {given(factor)}" if factor != 1 else "Not diluted",
                    text=f"{value.shown} × {given(factor)}" if factor != 1 else "",
                    result=f"{scaled.shown} {unit}".rstrip() + " in the sample", value=scaled.value,
                )  # fmt: skip
        return StepOutcome(kind=self.kind, title="Dilution", sentence=self._sentence(factors), state=State.PASS)

    def _sentence(self, factors: set[float]) -> str:
        if not self.on:
            return "Switched off. Answers are in the reading, not in the sample."
        if factors <= {1.0}:
            return "No sample was diluted."
        if len(factors) == 1:
            return f"**× {given(factors.pop())}** for every sample."
        return f"Each by its own factor, **× {given(min(factors))} to × {given(max(factors))}**."


def scale(value: Value, factor: float) -> Value:
    """A concentration times a dilution factor."""
    if factor == 1.0:
        return value
    lower = None if value.lower is None else value.lower * factor
    upper = None if value.upper is None else value.upper * factor
    if value.value is not None:
        return Value.of(value.value * factor, lower, upper)
    bound = lower if value.censor == ">" else upper
    shown = f"{value.censor} {given(bound)}" if bound is not None else value.shown
    return Value(censor=value.censor, lower=lower, upper=upper, shown=shown)
