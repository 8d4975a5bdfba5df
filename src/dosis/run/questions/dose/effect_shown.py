"""What is said of a series instead of a half-effect dose: that it shows no effect, or only at an end of its doses."""

from collections.abc import Sequence
from dataclasses import dataclass

from dosis.core.inference.effect import EffectSeen, effect_seen, greatest_change
from dosis.core.inference.result import Fit
from dosis.core.rounding import given, p_value, with_interval
from dosis.run.effects.effect import Effect
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.dose.bench import Compound, DoseBench

SMALL = 0.25  # share of the scale below which what a single end dose shows is no effect (common practice, no source)
NOT_DETERMINED = Value(shown="not determined")
NONE_SHOWN = Value(shown="none shown")
PLATEAUS = {"lower", "upper"}


@dataclass(frozen=True)
class Instead:
    """What stands in the place of every relative and absolute effect dose, and why."""

    relative: Value
    absolute: Value
    remark: Remark


def instead_of_dose(bench: DoseBench, compound: Compound, fit: Fit, level: float) -> Instead | None:
    """None where the readings show an effect from which a dose can be read off."""
    scale = _scale(bench, compound)
    seen = effect_seen(fit, None if scale is None else scale[1] - scale[0])
    if seen.where in ("everywhere", "unknown"):
        return None
    name, unit = compound.name, bench.layout.level.unit
    greatest, size = _greatest(bench, fit, scale, level)
    doses = fit.places.levels.tolist()
    half = bench.response_at(compound, 0.5)
    mean = float(fit.weights @ fit.y) / float(fit.weights.sum())
    effective = scale is not None and half is not None and (mean - half) * (scale[0] - half) < 0
    p = "" if seen.p is None else f" (p {p_value(seen.p)})"
    if effective and seen.where != "highest":
        # All doses, or all but the lowest, have their effect already.
        below = doses[min(seen.where == "lowest", len(doses) - 1)]
        bound = _bound("<", below)
        text = (
            f"{name}: the effect is there at every dose and changes by no more than it scatters{p}; half effect lies "
            f"below {given(below)} {unit}".rstrip()
            + f". {greatest} Test lower doses."
        )
        return Instead(bound, bound, Remark(state=State.LOOK, short="effect at every dose", text=text))
    if seen.where == "highest" and (size is None or size >= SMALL):
        bound = _bound(">", doses[-2])
        text = (
            f"{name}: only the highest dose, {given(doses[-1])} {unit}".rstrip()
            + f", shows an effect, so half effect lies above {given(doses[-2])} {unit}".rstrip()
            + f". {greatest} Test doses around and above it."
        )
        return Instead(bound, bound, Remark(state=State.LOOK, short="only at the highest dose", text=text))
    absolute = NONE_SHOWN if scale is None else _bound(">", doses[-1])  # at no dose half of the controls' span
    return Instead(NONE_SHOWN, absolute, _none_shown(name, seen, doses, unit, greatest))


def leading(effect: Effect) -> str:
    """What the first effect dose of a series is called: "IC50", "EC10"."""
    return f"{effect.symbol}{effect.doses[0].percent:g}"


def leading_of_all(effects: Sequence[Effect]) -> str:
    """What that of several is called, both where some fall and some rise: "IC10 or EC10"."""
    return " or ".join(dict.fromkeys(map(leading, effects)))


def between_doses(fit: Fit, estimate: float) -> tuple[float, float] | None:
    """The doses in the fit around an estimate, both above zero; None where it has none on one side."""
    levels = fit.places.levels
    below, above = levels[(levels < estimate) & (levels > 0)], levels[levels > estimate]
    return (float(below[-1]), float(above[0])) if below.size and above.size else None


def _bound(sign: str, dose: float) -> Value:
    above = sign == ">"
    return Value(censor=">" if above else "<", lower=dose if above else None, upper=None if above else dose,
                 shown=f"{sign} {given(dose)}")  # fmt: skip


def _scale(bench: DoseBench, compound: Compound) -> tuple[float, float] | None:
    """Responses without effect and with the full one, on the scale that was fitted."""
    none, full = bench.response_at(compound, 0.0), bench.response_at(compound, 1.0)
    return None if none is None or full is None else (none, full)


def _greatest(bench: DoseBench, fit: Fit, scale: tuple[float, float] | None, level: float) -> tuple[str, float | None]:
    """The greatest effect in words, and its size as a share of the scale."""
    change = greatest_change(fit, None if scale is None else scale[0], level=level)
    at = f"at {given(change.dose)} {bench.layout.level.unit}".rstrip()
    if scale is None:
        shown, lower, upper = with_interval(change.estimate, change.lower, change.upper)
        unit, what, size = bench.layout.signal.unit, "greatest change from the lowest dose", None
    else:
        factor = 100 / (scale[1] - scale[0])
        size = abs(change.estimate / (scale[1] - scale[0]))
        ends = sorted(factor * end for end in (change.lower, change.upper) if end is not None)
        shown, lower, upper = with_interval(factor * change.estimate, *(ends if len(ends) == 2 else (None, None)))
        unit, what = "%", "greatest effect"
    span = "" if change.lower is None else f" ({lower} to {upper})"
    return f"The {what} seen is {shown}{span} {unit}".rstrip() + f", {at}.", size


def _none_shown(name: str, seen: EffectSeen, doses: list[float], unit: str, greatest: str) -> Remark:
    if seen.where in ("lowest", "highest"):
        end = doses[0 if seen.where == "lowest" else -1]
        text = f"{name}: only the {seen.where} dose, {given(end)} {unit}".rstrip()
        text += ", differs from the others, as an edge well may; that is not an effect of the dose."
    else:
        p = "" if seen.p is None else f" (p {p_value(seen.p)})"
        text = f"{name}: the response does not change with dose by more than it scatters{p}."
    return Remark(state=State.LOOK, short="no effect shown", text=f"{text} {greatest}")
