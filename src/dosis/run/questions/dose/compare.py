"""Step: are the series the same? One curve or two, what differs, and how far the half-effect doses stand apart."""

import math
from collections.abc import Callable
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.fitting.compare import extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.inference.common import CommonError
from dosis.core.inference.goodness import Test
from dosis.core.inference.joint import Ratio, SharedFit
from dosis.core.inference.spread import Spread
from dosis.core.potency import slopes_equivalent
from dosis.core.rounding import fixed, p_value, significant, with_interval
from dosis.run.layout import Name
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.dose.bench import Compound, DoseBench
from dosis.run.steps.step import Step

MOST = 12  # series compared; of hundreds of compounds the wall of curves says more
WHICH = 4  # series of which is also said which parameter differs
HAS = {1: "has", 2: "have"}
JointFit = Callable[[list[str]], SharedFit | None]  # both curves at once, with these parameters shared


class CompareStep(Step):
    """Every series against a reference, the first unless another is named.

    level : of the ratio's interval, and 1 − level the p below which series differ; None for that of the effect doses.
    """

    title = "Compare"
    kind: Literal["compare"] = "compare"
    on: bool = True
    reference: Name = ""
    level: Annotated[float, Field(ge=0.5, le=0.999)] | None = None

    def run(self, bench: DoseBench) -> StepOutcome:
        """Compare in pairs."""
        fitted = {key: compound for key, compound in bench.compounds.items() if compound.fit is not None}
        if not self.on:
            return self.told("Switched off.", State.PASS)
        if len(fitted) < 2:
            return self.told("Fewer than two curves; there is nothing to compare.", State.PASS)
        if len(fitted) > MOST:
            return self.told(f"{len(fitted)} series are too many to compare in pairs; sort them instead.", State.PASS)
        reference = self.reference if self.reference in fitted else next(iter(fitted))
        for i, key in enumerate(key for key in fitted if key != reference):
            bench.comparisons.append(
                self._pair(bench, fitted[reference], fitted[key], f"compare.{i}", which=len(fitted) <= WHICH)
            )
        first = bench.comparisons[0].text
        more = f" {len(bench.comparisons) - 1} more compared." if len(bench.comparisons) > 1 else ""
        return self.told(f"{first}{more}", State.PASS)

    def _pair(self, bench: DoseBench, one: Compound, other: Compound, id: str, *, which: bool) -> Comparison:
        assert one.fit is not None and other.fit is not None
        if one.fit.model != other.fit.model:
            text = f"{one.name} and {other.name} cannot be compared: they are fitted by different models."
            return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text)
        if one.fit.fixed != other.fit.fixed or any(
            one.fit.named[name] != other.fit.named[name] for name in one.fit.fixed
        ):
            text = f"{one.name} and {other.name} cannot be compared: different parameters of theirs are held."
            return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text)
        model = one.fit.model
        joint = _together(one, other)
        separate, common = joint([]), joint([name for name in model.names if name not in one.fit.fixed])
        names = f"{one.name} and {other.name}"
        if separate is None or common is None:
            text = f"{names} cannot be compared: one of them does not determine the curve."
            return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text)
        same = extra_sum_of_squares(common, separate)
        _write(bench, id, "One curve or two", same)
        if same.p_value is None:
            text = f"{names}: {same.reason}"
            return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text, working=id)
        differ = same.p_value < bench.differing_below(self.level)
        said = [f"{names} are **{'not the same' if differ else 'not told apart'}** (p {p_value(same.p_value)})."]
        ratio = Value()
        if "midpoint" in model.names:
            bare = [name for name in (one.name, other.name) if not _has_dose(bench, name)]
            if bare:
                said.append(f"No ratio of doses: {' and '.join(bare)} {HAS[len(bare)]} no half-effect dose.")
            elif not model.positive_x:
                said.append(self._apart(bench, id, one.name, other.name, separate))
            else:
                parallel = joint([name for name in model.names if name not in {"midpoint", *one.fit.fixed}])
                ratio, text = self._ratio(bench, id, one.name, other.name, separate, parallel)
                said.append(text)
        if differ and which:
            said.append(self._differing(bench, id, separate, joint))
        return Comparison(
            reference=one.name, name=other.name, state=State.PASS, text=" ".join(filter(None, said)), ratio=ratio,
            working=f"{bench.tag}{id}",
        )  # fmt: skip

    def _apart(self, bench: DoseBench, id: str, one: str, other: str, separate: SharedFit) -> str:
        """Midpoints on an x that is no dose, such as a voltage: how far apart they lie, as no ratio means anything."""
        first, second = (separate.parameters[f"midpoint of {name}"] for name in (one, other))
        if first.standard_error is None or second.standard_error is None:
            return "One of the midpoints is not determined."
        apart = second.estimate - first.estimate
        t = t_quantile((1 + (self.level or bench.interval)) / 2, separate.degrees_of_freedom)
        half = t * math.hypot(first.standard_error, second.standard_error)
        shown, lower, upper = with_interval(apart, apart - half, apart + half)
        unit = bench.layout.level.unit
        bench.write(id, "Difference", text=f"midpoint of {other} − midpoint of {one}, each its own curve",
                    result=f"{shown} ({lower} to {upper}) {unit}".rstrip(), value=apart)  # fmt: skip
        return f"The midpoint of {other} less that of {one} is **{shown}** ({lower} to {upper}) {unit}".rstrip() + "."

    def _ratio(
        self, bench: DoseBench, id: str, one: str, other: str, separate: SharedFit, parallel: SharedFit | None
    ) -> tuple[Value, str]:  # fmt: skip
        test = Test(None, None) if parallel is None else extra_sum_of_squares(parallel, separate)
        alike = parallel is not None and test.p_value is not None and test.p_value >= bench.differing_below(self.level)
        if parallel is not None:
            _write(bench, id, "Parallel", test)
        alike_enough = self._equivalence(bench, id, one, other, separate)
        found: Ratio = (parallel if alike and parallel is not None else separate).ratio(
            "midpoint", other, one, self.level or bench.interval
        )
        value = Value.of(found.estimate, found.lower, found.upper)
        shown, lower, upper = value.shown, value.shown_lower, value.shown_upper
        span = f" ({lower} – {upper})" if found.lower is not None else ""
        how = "parallel curves" if alike else "each its own curve"
        bench.write(id, "Ratio", text=f"half-effect dose of {other} ÷ {one}, {how}",
                    result=f"{shown}{span}", value=found.estimate)  # fmt: skip
        p = "" if test.p_value is None else f" (p {p_value(test.p_value)})"
        holds = (
            f"The curves are parallel{p}, so that holds at every effect."
            if alike
            else f"Their shapes differ{p}, so that holds at half effect only."
        )
        return value, f"{other} needs **{shown} times** the dose{span}. {holds}{alike_enough}"

    def _equivalence(self, bench: DoseBench, id: str, one: str, other: str, separate: SharedFit) -> str:
        """The question turned round: are the slopes alike enough (USP <1032>), not merely not shown to differ?"""
        slopes = [separate.parameters.get(f"slope of {name}") for name in (other, one)]
        if slopes[0] is None or slopes[1] is None:
            return ""
        found = slopes_equivalent(
            slopes[0].estimate, slopes[1].estimate, slopes[0].standard_error, slopes[1].standard_error,
            separate.degrees_of_freedom,
        )  # fmt: skip
        span = (
            ""
            if found.lower is None or found.upper is None
            else f" ({fixed(found.lower, 2)} – {fixed(found.upper, 2)}, 90 %)"
        )
        low, high = found.margins
        verdict = "equivalent" if found.passed else "not shown to be equivalent"
        ratio = f"{fixed(found.estimate, 2)}{span}"
        bench.write(id, "Equivalence", text=f"ratio of the slopes {ratio}, within {low:g} to {high:g}?",
                    result=verdict, value=found.estimate)  # fmt: skip
        return f" Slopes {verdict}: ratio {ratio}, margins {low:g} to {high:g}."

    def _differing(self, bench: DoseBench, id: str, separate: SharedFit, joint: JointFit) -> str:
        """Which parameter the two do not share: each made common in turn, against all of their own."""
        differing = []
        for name in dict.fromkeys(slot.parameter.name for slot in separate.joint.slots):
            shared = joint([name])
            if shared is None:
                continue
            test = extra_sum_of_squares(shared, separate)
            _write(bench, id, f"Same {name}", test)
            if test.p_value is not None and test.p_value < bench.differing_below(self.level):
                differing.append(f"{name} (p {p_value(test.p_value)})")
        return f"They differ in {', '.join(differing)}." if differing else ""


def _together(one: Compound, other: Compound) -> JointFit:
    """Both series fitted at once, as each was by itself: with the same weights, robust or not, and parameters held."""
    assert one.fit is not None and other.fit is not None
    fits = (one.fit, other.fit)
    x, y, weights = (np.concatenate(each) for each in zip(*((f.x, f.y, f.weights) for f in fits), strict=True))
    labels = [one.name] * fits[0].n + [other.name] * fits[1].n
    fixed = {name: fits[0].named[name] for name in fits[0].fixed}
    errors = _shared_errors(one, other)
    judged = [f.rmse**2 * f.degrees_of_freedom / f.sse for f in fits if f.rmse and f.sse > 0 and not f.joint]
    scale = float(np.mean(judged)) if judged else 1.0

    def joint(share: list[str]) -> SharedFit | None:
        try:
            found = fit(fits[0].model, x, y, series=labels, share=share, fixed=fixed or None, weights=weights)
        except ValueError:
            return None
        return found.but(common=errors, scale=scale)

    return joint


def _shared_errors(one: Compound, other: Compound) -> tuple[CommonError, ...]:
    """The errors of the references, on the readings of both; one that both stand on moves both."""
    assert one.fit is not None and other.fit is not None
    if not one.fit.fixed:
        return ()  # between free plateaus they move the plateaus alone
    found: dict[tuple[str, int], list[Array | None]] = {}
    spreads: dict[tuple[str, int], Spread] = {}
    for at, compound in enumerate((one, other)):
        for key, error in zip(compound.reference_keys, compound.fit.common if compound.fit else (), strict=True):
            found.setdefault(key, [None, None])[at] = error.on
            spreads.setdefault(key, error.spread)
    empty = np.zeros(one.fit.n), np.zeros(other.fit.n)
    return tuple(
        CommonError(
            spreads[key], on=np.concatenate([none if on is None else on for on, none in zip(ons, empty, strict=True)])
        )
        for key, ons in found.items()
    )


def _has_dose(bench: DoseBench, name: str) -> bool:
    """Whether a half-effect dose was read off that series; what a curve gives without is no potency."""
    return any(effect.name == name and effect.doses[0].relative.value is not None for effect in bench.effects)


def _write(bench: DoseBench, id: str, label: str, test: Test) -> None:
    if test.statistic is None or test.p_value is None:
        bench.write(id, label, text=test.reason)
        return
    df = ", ".join(map(str, test.degrees_of_freedom))
    bench.write(id, label, text=f"extra sum of squares, F({df}) = {significant(test.statistic, 3)}",
                result=f"p {p_value(test.p_value)}", value=test.p_value)  # fmt: skip
