"""Step: what the curve can detect and quantify, and the range in which what it reads back is precise enough."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.core.distributions import t_quantile
from dosis.core.inference.result import Fit
from dosis.core.limits import capability, currie, detection_limits, signal_beyond_blanks, working_range
from dosis.core.replicates import summarize
from dosis.core.rounding import given, significant
from dosis.run.curves.equation import DIGITS
from dosis.run.outcome.drawn import Span, Statistic
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.steps.step import Step

BLANKS = 3  # readings from which the blanks' own spread is used
SEVEN = 7  # readings from which t·s of blanks is given, as the procedure asks for
BEYOND = {"LOD": 3.0, "LOQ": 10.0}  # SDs of the blanks from their mean


class LimitsStep(Step):
    """LOD and LOQ by the blanks' spread, or the line's; the range whose read-back CV stays below a figure."""

    title = "Limits"
    kind: Literal["limits"] = "limits"
    on: bool = True
    cv: Annotated[float, Field(gt=0, le=1)] = 0.20

    def run(self, bench: StandardBench) -> StepOutcome:
        """Find the limits and leave the range on the bench for the figure."""
        if not self.on:
            return self.told("Switched off.", State.PASS)
        fit = bench.fit
        if fit is None or bench.fit_problem:
            return self.told("Waiting for a curve.", State.PASS)
        if bench.turned:
            return self.told("Limits need the signal fitted on the concentration.", State.PASS)
        unit = bench.layout.level.unit
        said = [self._detection(bench, unit)]
        if fit.rmse is None:
            return self.told("Without a spread of the standards there are no limits.", State.PASS)
        count = [len(bench.used(group)) for group in bench.groups(Role.SAMPLE)]
        readings = max(set(count), key=count.count, default=1) or 1
        if fit.is_straight and not fit.slope_is_flat:
            _capability(bench, fit, readings, unit)
            _by_blanks(bench, fit, unit)
        found = working_range(fit, self.cv, readings=readings)
        percent = f"{100 * self.cv:g} %"
        if found.low is None or found.high is None:
            said.append(f"Nowhere is the read-back CV within {percent}: {found.reason}.")
            return self.told(" ".join(filter(None, said)), State.LOOK)
        bench.working_range = Span(lower=found.low, upper=found.high)
        span = f"{significant(found.low, 3)} – {significant(found.high, 3)} {unit}".rstrip()
        bench.shown_working_range = span
        of = f"means of {readings}" if readings > 1 else "single readings"
        what = "SE of a read-back ÷ its concentration, curve and sample both counted"
        _keep(bench, f"CV ≤ {percent}", f"{what}, {of}", span, None)
        said.append(f"Read-back CV within {percent} from **{span}** ({of}).")
        return self.told(" ".join(filter(None, said)), State.PASS)

    def _detection(self, bench: StandardBench, unit: str) -> str:
        fit = bench.fit
        blanks = [bench.values[id] for group in bench.groups(Role.BLANK) for id in bench.used(group)]
        if fit is None:
            return ""
        if fit.is_straight and fit.rmse is not None and not fit.slope_is_flat:
            spread = bench.blank.sd if bench.blank is not None and len(blanks) >= BLANKS else None
            limits = detection_limits(fit, spread)
            basis = f"SD of {len(blanks)} blanks" if spread is not None else "RMSE of the line"
            if limits.at is not None:
                basis = f"SD of a reading at the lowest standard, {given(limits.at)} {unit}".rstrip()
            lod, loq = (f"{significant(value, 2)} {unit}".rstrip() for value in (limits.lod, limits.loq))
            sigma, slope = significant(limits.spread, DIGITS), significant(limits.slope, DIGITS)
            for label, factor, shown, value in (("LOD", 3.3, lod, limits.lod), ("LOQ", 10, loq, limits.loq)):
                text = f"{factor} × {sigma} ÷ {slope} ({basis}, over the slope)"
                _keep(bench, label, text, shown, value)
            return f"LOD **{lod}**, LOQ **{loq}** (3.3 and 10 σ/S, {basis})."
        return self._through_curve(bench, fit, blanks, unit)

    def _through_curve(self, bench: StandardBench, fit: Fit, blanks: list[float], unit: str) -> str:
        """From the spread of what reads nothing: standards at zero, or blanks where the curve begins near them."""
        zero = [
            bench.values[id] for group in bench.groups(Role.STANDARD) if group.level == 0 for id in bench.used(group)
        ]
        of, readings = ("standards at zero", zero) if len(zero) >= BLANKS else ("blanks", blanks)
        low, high = fit.predict(bench.span_of(fit)).tolist()
        level = summarize(readings) if len(readings) >= BLANKS else None
        if level is None or level.sd is None or abs(level.mean - low) > abs(level.mean - high):
            return f"No LOD: that takes {BLANKS} readings at zero concentration or more."
        sign, said = "−" if high < low else "+", []
        signals = [signal_beyond_blanks(fit, readings, factor) for factor in BEYOND.values()]
        for (name, factor), signal, found in zip(BEYOND.items(), signals, fit.estimates(signals), strict=True):
            if found is None or found <= 0:
                continue
            shown = f"{significant(found, 2)} {unit}".rstrip()
            text = (
                f"read back at {significant(signal, DIGITS)} = {significant(level.mean, DIGITS)} {sign} {factor:g} × "
                f"{significant(level.sd, DIGITS)} (mean and SD of {len(readings)} {of})"
            )
            _keep(bench, name, text, shown, found)
            said.append(f"{name} **{shown}**")
        how = f"mean of {len(readings)} {of} {sign} 3 and 10 SD"
        return (
            f"{', '.join(said)} ({how}, through the curve)." if said else f"No LOD: the curve does not reach the {how}."
        )


def _capability(bench: StandardBench, fit: Fit, readings: int, unit: str) -> None:
    """Critical and minimum detectable value by the calibration itself."""
    try:
        found = capability(fit, readings)
    except ValueError:
        return
    of = f"means of {readings}" if readings > 1 else "single readings"
    base = f"{significant(found.spread, DIGITS)} ÷ {significant(found.slope, DIGITS)}"
    for label, factor, value in (("Critical", found.t, found.critical), ("Detectable", found.delta, found.detectable)):
        text = (
            f"{significant(factor, DIGITS)} × {base}; spread of the line at zero and of {of}, "
            f"{found.degrees_of_freedom} degrees of freedom, 5 % risk each (ISO 11843-2)"
        )
        _keep(bench, label, text, f"{significant(value, 2)} {unit}".rstrip(), value)


def _by_blanks(bench: StandardBench, fit: Fit, unit: str) -> None:
    """Currie's levels from the spread of blanks, and t·s where there are enough of them."""
    blanks = [bench.values[id] for group in bench.groups(Role.BLANK) for id in bench.used(group)]
    sd = summarize(blanks).sd if len(blanks) >= BLANKS else None
    if not sd:
        return
    slope, n = abs(fit.named["slope"]), len(blanks)
    found = currie(sd, slope, n_blanks=n)
    base = f"{significant(sd, DIGITS)} ÷ {significant(slope, DIGITS)}"
    names = ("Critical, blanks", "Detectable, blanks")
    for label, signal, value in zip(names, (found.critical, found.detection), found.concentrations[:2], strict=True):
        text = f"{significant(signal / sd, DIGITS)} × {base}, from the SD of {n} blanks by Student’s t (Currie 1968)"
        _keep(bench, label, text, f"{significant(value, 2)} {unit}".rstrip(), value)
    if n >= SEVEN:
        t = t_quantile(0.99, n - 1)
        text = f"t × s ÷ slope = {significant(t, DIGITS)} × {base}, 99 %"
        _keep(bench, "t·s of blanks", text, f"{significant(t * sd / slope, 2)} {unit}".rstrip(), t * sd / slope)


def _keep(bench: StandardBench, name: str, text: str, shown: str, value: float | None) -> None:
    """List a limit, with its working."""
    id = f"limit.{len(bench.limits)}"
    bench.write(id, name, text=text, result=shown, value=value)
    bench.limits.append(Statistic(name=name, shown=shown, working=f"{bench.tag}{id}"))
