"""Step: the dose that has a given effect — relative to the curve's plateaus, and on the scale of the controls."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.inference.doses import Dose, dose_between
from dosis.core.inference.parameters import not_determined
from dosis.core.inference.read_back import Flag
from dosis.core.inference.result import Fit
from dosis.core.rounding import given, significant
from dosis.run.effects.effect import Effect, EffectDose, Shape
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.questions.dose.bench import Compound, DoseBench
from dosis.run.questions.dose.effect_shown import NOT_DETERMINED, PLATEAUS, Instead, between_doses, instead_of_dose
from dosis.run.questions.dose.reading_off import ReadOff, dose_range, read_off
from dosis.run.record import changed
from dosis.run.steps.step import Step

Percent = Annotated[float, Field(gt=0, lt=100)]
MOLAR = {"M": 0, "mM": 3, "µM": 6, "nM": 9, "pM": 12}  # decades by which −log10 of a molar dose is of mol/L


class EffectsStep(Step):
    """EC50 or IC50 of each series, any other effect, and what goes with it.

    levels : effects in percent, the first of which leads. method : how the interval of the relative half-effect dose
        is made, "wald" on the logarithmic scale or by "profile" likelihood.
    """

    title = "Half effect"
    kind: Literal["effects"] = "effects"
    levels: Annotated[tuple[Percent, ...], Field(min_length=1, max_length=6)] = (50.0,)
    method: Literal["wald", "profile"] = "wald"
    interval: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95
    extrapolate: bool = False

    def run(self, bench: DoseBench) -> StepOutcome:
        """One row for each series."""
        if not any(compound.fit for compound in bench.compounds.values()):
            return self.told("Waiting for a curve.", State.FAIL)
        bench.interval = self.interval
        found = read_off(bench, self.levels, self.interval)
        instead = {
            key: instead_of_dose(bench, compound, compound.fit, self.interval)
            for key, compound in bench.compounds.items() if compound.fit is not None
        }  # fmt: skip
        shown = [found.falls[key] for key, none in instead.items() if none is None]
        symbol: Literal["IC", "EC"] = "IC" if shown and all(shown) else "EC"
        for key, compound in bench.compounds.items():
            bench.tag = compound.tag
            bench.effects.append(self._effect(bench, key, found, symbol, instead.get(key)))
        bench.tag = ""
        reached = sum(effect.doses[0].relative.value is not None for effect in bench.effects)
        linear = all(each.fit is None or not each.fit.model.positive_x for each in bench.compounds.values())
        wald = "by the standard error" if linear else "on the logarithmic scale"
        method = "by profile likelihood" if self.method == "profile" else wald
        some = f" **{len(bench.effects) - reached} not reached.**" if reached < len(bench.effects) else ""
        said = f"Relative and absolute, {self.interval * 100:g} % intervals {method}.{some}"
        return self.told(said, State.LOOK if some else State.PASS)

    def _effect(
        self, bench: DoseBench, key: str, found: ReadOff, symbol: Literal["IC", "EC"], instead: Instead | None
    ) -> Effect:
        compound, unit = bench.compounds[key], bench.layout.level.unit
        result = compound.fit
        if result is None:
            remark = Remark(state=State.FAIL, short="no curve", text=f"{compound.name}: {compound.problem}")
            empty = tuple(EffectDose(percent=level) for level in self.levels)
            return Effect(series=key, name=compound.name, group=compound.groups[0].id, n=len(compound.ids),
                          symbol=symbol, doses=empty, remarks=(remark,))  # fmt: skip
        remarks: list[Remark] = []
        if instead is not None:
            remarks.append(instead.remark)
        doses = tuple(self._dose(bench, key, result, found, level, remarks, symbol, instead) for level in self.levels)
        first, area = doses[0].relative, found.areas.get(key)
        shape = Shape(
            minus_log=_minus_log(first, MOLAR.get(unit, 0)),
            area=Value() if area is None else Value.of(area.estimate, area.lower, area.upper),
            other=Value() if instead else self._other(bench, compound, doses),
            threshold=self._threshold(bench, compound.name, result, instead, remarks),
            **{name: self._parameter(result, name, instead) for name in ("slope", "lower", "upper")},
        )
        self._write(bench, first, shape, dose_range(result))
        return Effect(
            series=key, name=compound.name, group=compound.groups[0].id, n=len(compound.ids),
            symbol=symbol, doses=doses, shape=shape, r_squared=result.r_squared,
            about_zero=not result.model.intercept, remarks=tuple(remarks),
        )  # fmt: skip

    def _parameter(self, result: Fit, name: str, instead: Instead | None) -> Value:
        if name not in result.parameters:
            return Value()
        if name not in result.fixed and (instead is not None or name in not_determined(result)):
            return NOT_DETERMINED
        estimate = result.parameters[name]
        return Value.of(estimate.estimate, *(estimate.interval(self.interval) or (None, None)))

    def _threshold(
        self, bench: DoseBench, name: str, result: Fit, instead: Instead | None, remarks: list[Remark]
    ) -> Value:
        """The no-effect concentration of a curve that has one, by its profile: its standard error says too little."""
        if not result.model.kinked:
            return Value()
        if instead is not None or result.rmse is None or result.joint or result.model.kinked in result.fixed:
            return self._parameter(result, result.model.kinked, instead)
        lower, upper = result.profile(result.model.kinked, self.interval)
        if lower is None and upper is not None:
            shown = f"< {significant(upper, 2)}"
            text = f"{name}: no threshold is shown; one there may be is {shown} {bench.layout.level.unit}".rstrip()
            text += ". Test lower doses, or take a curve without one."
            remarks.append(Remark(state=State.LOOK, short="no threshold", text=text))
            return Value(censor="<", upper=upper, shown=shown)
        if lower is not None and upper is None:
            return Value(censor=">", lower=lower, shown=f"> {significant(lower, 2)}")
        return Value.of(result.named[result.model.kinked], lower, upper)

    def _write(self, bench: DoseBench, dose: Value, shape: Shape, doses: tuple[float, float]) -> None:
        """How −log10 and the area come about; slope and plateaus are parameters with working of their own."""
        id, unit = f"effect.{self.levels[0]:g}", bench.layout.level.unit
        if shape.minus_log.value is not None:
            decades = f" + {MOLAR[unit]}, as mol/L" if MOLAR.get(unit) else ""
            bench.write(id, "−log10", text=f"−log10({dose.shown}){decades}, {_span(shape.minus_log)}",
                        result=shape.minus_log.shown, value=shape.minus_log.value)  # fmt: skip
        if shape.area.value is not None:
            span = f"{given(doses[0])} to {given(doses[1])} {unit}".rstrip()
            bench.write(
                id, "Area", text=f"∫ of the curve over log10 dose, {span}; {_span(shape.area)}",
                result=shape.area.shown, value=shape.area.value,
            )  # fmt: skip

    def _dose(
        self, bench: DoseBench, key: str, result: Fit, read: ReadOff, percent: float, remarks: list[Remark],
        symbol: str, instead: Instead | None,
    ) -> EffectDose:  # fmt: skip
        compound = bench.compounds[key]
        name = f"{symbol}{percent:g}"
        if instead is not None:
            for kind, value in (("relative", instead.relative), ("absolute", instead.absolute)):
                if kind == "relative" or bench.references:
                    bench.write(f"effect.{percent:g}", f"{name} {kind}", text=instead.remark.text, result=value.shown)
            return EffectDose(percent=percent, relative=instead.relative,
                              absolute=instead.absolute if bench.references else Value())  # fmt: skip
        lost = not_determined(result)
        if lost & PLATEAUS:
            relative = NOT_DETERMINED
            if percent == self.levels[0]:
                text = (
                    f"{compound.name}: the doses do not show where the curve levels off, so the dose at {percent:g} % "
                    "of the way between its plateaus is not determined. Test doses further out, or hold the plateau "
                    "at the value of its control."
                )
                remarks.append(Remark(state=State.LOOK, short="plateau not determined", text=text))
        else:
            dose = self._profiled(result, read.doses[key, percent, "span"], percent)
            relative = self._found(bench, compound, dose, remarks, leading=percent == self.levels[0])
        bench.write(
            f"effect.{percent:g}", f"{name} relative",
            text=f"dose at {percent:g} % of the way between the plateaus of {result.model.name}",
            result=f"{relative.shown} {bench.layout.level.unit}".rstrip(), value=relative.value,
        )  # fmt: skip
        if relative.shown_lower:
            bench.write(f"effect.{percent:g}", f"{self.interval * 100:g} % interval",
                        text=f"{relative.shown_lower} to {relative.shown_upper}")  # fmt: skip
        response = bench.response_at(compound, percent / 100)
        absolute = between = Value()
        if response is not None:
            absolute = self._found(bench, compound, read.doses[key, percent, "response"], [], leading=False)
            bench.write(
                f"effect.{percent:g}", f"{name} absolute",
                text=f"dose at a response of {given(response)} {bench.layout.signal.unit}".rstrip(),
                result=absolute.shown, value=absolute.value,
            )  # fmt: skip
            straight = dose_between(np.array(result.x), np.array(result.y), response)
            if straight.estimate is not None:
                between = Value(value=straight.estimate, shown=significant(straight.estimate, 3))
                bench.write(f"effect.{percent:g}", "Interpolated", result=between.shown, value=between.value,
                            text="a straight line between the two doses around it, on log dose")  # fmt: skip
        return EffectDose(percent=percent, relative=relative, absolute=absolute, between=between)

    def _found(
        self, bench: DoseBench, compound: Compound, dose: Dose | str, remarks: list[Remark], *, leading: bool
    ) -> Value:
        if isinstance(dose, str) or compound.fit is None:
            if leading:
                remarks.append(Remark(state=State.LOOK, short="no plateaus", text=f"{compound.name}: {dose}"))
            return Value()
        unit, (low, high) = bench.layout.level.unit, dose_range(compound.fit)
        if dose.estimate is None or (dose.flag in (Flag.ABOVE_RANGE, Flag.BELOW_RANGE) and not self.extrapolate):
            above = dose.flag is not Flag.BELOW_RANGE
            bound = f"{'> ' if above else '< '}{given(high if above else low)}"
            if leading:
                short = "not reached" if above else "below the lowest dose"
                text = f"{compound.name}: {bound} {unit}; {dose.reason}. " + (
                    "Test higher doses." if above else "Test lower doses."
                )
                remarks.append(Remark(state=State.LOOK, short=short, text=text))
            return Value(censor=">" if above else "<", lower=high if above else None, upper=None if above else low,
                         shown=bound)  # fmt: skip
        around = between_doses(compound.fit, dose.estimate) if not_determined(compound.fit) else None
        if dose.lower is None and dose.upper is None and around is not None:
            if leading:
                ends = " and ".join(map(given, around))
                text = (
                    f"{compound.name}: the response steps between the doses {ends} {unit}".rstrip()
                    + ", and nothing shows where; these two are the interval. Test doses between them."
                )
                remarks.append(Remark(state=State.LOOK, short="between two doses", text=text))
            return Value.of(dose.estimate, *around)
        if leading and (dose.lower is None or dose.upper is None):
            text = f"{compound.name} has no interval: {dose.reason or 'open on one side'}."
            remarks.append(Remark(state=State.LOOK, short="no interval", text=text))
        value = Value.of(dose.estimate, dose.lower, dose.upper)
        if dose.lower is None and dose.upper is None:
            return changed(value, shown_lower="", shown_upper="")
        return value

    def _profiled(self, result: Fit, dose: Dose | str, percent: float) -> Dose | str:
        """Half of the span of a symmetric curve is its midpoint, of which there is a profile."""
        symmetric = result.model.id in ("logistic4", "logistic3", "logistic2", "logistic2_fraction")
        if (
            isinstance(dose, str)
            or self.method != "profile"
            or percent != 50
            or not symmetric
            or result.joint
            or (result.common and result.fixed)
        ):
            return dose
        lower, upper = result.profile("midpoint", self.interval)
        return Dose(dose.estimate, lower, upper, dose.standard_error, dose.flag, dose.reason)

    def _other(self, bench: DoseBench, compound: Compound, doses: tuple[EffectDose, ...]) -> Value:
        """The half-effect dose on the other scale, raw beside normalized."""
        curve = compound.other or compound.fit
        if not bench.references or curve is None:
            return Value()
        half = next((dose.relative for dose in doses if dose.percent == 50), None)
        if compound.other is None and half is not None and half.value is not None:
            return half  # the curve is the same on both scales
        try:
            dose = curve.dose_at(0.5, "span", self.interval)
        except ValueError:
            return Value()
        low, high = dose_range(curve)
        if dose.estimate is None or not low <= dose.estimate <= high:
            return Value()
        return Value.of(dose.estimate, dose.lower, dose.upper)


def _minus_log(dose: Value, decades: int) -> Value:
    """−log10 of a dose with its interval, which turns round."""
    if dose.value is None or dose.value <= 0:
        return Value()
    ends = [None if end is None or end <= 0 else decades - math.log10(end) for end in (dose.upper, dose.lower)]
    return Value.of(decades - math.log10(dose.value), ends[0], ends[1])


def _span(value: Value) -> str:
    return f"{value.shown_lower} to {value.shown_upper}" if value.shown_lower not in ("", "none") else "no interval"
