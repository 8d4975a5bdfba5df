"""Step: read every sample, QC and standard back through the curve."""

import math
from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.inference.inverse import predicted
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.result import Fit
from dosis.core.inference.spread import Spread
from dosis.core.numbers import Meaning
from dosis.core.replicates import Replicates
from dosis.core.rounding import fixed, given, p_value, significant
from dosis.run.curves.equation import filled, put, with_numbers
from dosis.run.layout import Group
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import Remark, State, Value
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.bounds import below
from dosis.run.standards.scatter import carried, judge
from dosis.run.steps.step import Step

Ends = tuple[float, float]
PLAIN = 0.05  # p below which samples are said in bold to scatter differently
WIDER = 0.01  # p below which a sample's own scatter is larger than the curve's: of a tray of 100 about one by chance
_SIGNAL = "\n"  # where in an equation the signal is still to be put in


class ReadBackStep(Step):
    """Concentration from each group's signal with Fieller's interval; extrapolates only when asked to.

    scatter : how far one reading of a sample may be off: "tested" judges samples and standards together where they
        scatter alike, else the samples by their own; "curve" by the curve's alone, "own" but for samples whose readings
        scatter significantly more.
    """

    title = "Read back"
    kind: Literal["read_back"] = "read_back"
    level: Annotated[float, Field(ge=0.5, le=0.999)] = 0.95
    extrapolate: bool = False
    scatter: Literal["tested", "curve", "own"] = "tested"

    def run(self, bench: StandardBench) -> StepOutcome:
        """Read back, flag what lies outside the standards, and write the equation with the numbers put in."""
        groups = bench.groups(Role.SAMPLE, Role.QC)
        everyone = bench.groups(Role.STANDARD, Role.SAMPLE, Role.QC)
        if bench.fit is not None and not bench.fit_problem:
            read = [group for group in everyone if group.id in bench.summaries]
            results = self._read(bench, bench.fit, [(group, bench.summaries[group.id]) for group in read])
            lowest = bench.reading_range(bench.fit)[0]
            bench.read_backs = {
                group.id: result if group.role is Role.STANDARD else below(result, lowest)
                for group, result in zip(read, results, strict=True)
            }
        calculate = None if bench.fit is None else _calculation(bench.fit, turned=bench.turned)
        span = (0.0, 0.0) if bench.fit is None else bench.reading_range(bench.fit)
        level = f"{self.level * 100:g} % interval"
        for group in everyone:
            self._one(bench, group, calculate, span, level)
        how = "by Fieller's theorem" if bench.fit is None or bench.fit.is_straight else "by the curve's band"
        how = "of a prediction" if bench.turned else how
        said = f"{level} {how}.{self._judged(bench)}"
        if bench.fit is None or bench.fit_problem:
            sentence = "Waiting for a curve." if groups else "No samples."
            return self.told(sentence, State.FAIL if groups else State.PASS)
        if not groups:
            return self.told("No samples to read back; the curve stands on its own.", State.PASS)
        out = sum(1 for group in groups if (rb := bench.read_backs.get(group.id)) and rb.flag)
        outside = (
            f" **{out} outside the standards**{', extrapolated as asked' if self.extrapolate else ''}." if out else ""
        )
        return self.told(f"Concentration from each mean, {said}{outside}", State.LOOK if out else State.PASS)

    def _read(
        self, bench: StandardBench, fit: Fit, groups: list[tuple[Group, Replicates]]
    ) -> list[ReadBack]:  # fmt: skip
        """Every group read back, by the scatter it is judged by."""
        means, counts = [summary.value for _, summary in groups], [summary.worth for _, summary in groups]
        if bench.turned:
            return predicted(fit, means, counts, self.level)
        bench.judged = judged = judge(fit, groups, WIDER)
        carries = carried(bench, fit, [group for group, _ in groups])
        reader = fit if self.scatter == "curve" else judged.fit
        own = judged.own if self.scatter == "tested" else ()
        if self.scatter == "own":
            reader = fit
            own = tuple(Spread.of(s.sd, s.n) if group.id in judged.alone else None for group, s in groups)
        bench.own_spreads = {
            group.id: spread for (group, _), spread in zip(groups, own, strict=False) if spread is not None
        }
        return reader.read_back_many(means, counts, self.level, own=own, carries=carries)

    def _by(self, bench: StandardBench, group: Group) -> str:
        """The scatter of a reading that a sample's interval is made by, where the curve's weights leave it one."""
        judged = bench.judged
        if judged is None or self.scatter == "curve":
            return ""
        own = bench.own_spreads.get(group.id)
        if own is not None:
            return f"; by its readings' SD {significant(math.sqrt(own.variance), 3)}, {own.degrees_of_freedom:g} df"
        if judged.fit.rmse is None or judged.fit.weighting != "none" or self.scatter != "tested":
            return ""
        return f"; by a reading's SD {significant(judged.fit.rmse, 3)}, {judged.fit.degrees_of_freedom} df"

    def _judged(self, bench: StandardBench) -> str:
        """What the samples' intervals are judged by, where it is not the curve's scatter alone."""
        judged = bench.judged
        if self.scatter != "tested" or judged is None or (judged.fit is bench.fit and judged.p is None):
            return ""
        if judged.p is None:
            return " Samples scatter as the standards do, so both are judged together."
        plain = "**" if judged.p < PLAIN else ""
        much = f"{plain}Samples scatter {significant(judged.times, 2)} times as much as the standards{plain}"
        return f" {much} (p {p_value(judged.p)}), so their intervals are by their own scatter."

    def _one(
        self, bench: StandardBench, group: Group, calculate: Callable[[float], str] | None, span: Ends, level: str
    ) -> None:
        _remark_left_out(bench, group)
        summary = bench.summaries.get(group.id)
        if summary is None or bench.fit is None or calculate is None or bench.fit_problem:
            if group.role is not Role.STANDARD:
                bench.in_reading[group.id] = _unread(bench, group)
            return
        result = bench.read_backs[group.id]
        unit = bench.layout.level.unit
        value = self._value(result, span)
        text = calculate(summary.value) if bench.writes(group) else ""
        if group.role is Role.STANDARD and result.estimate is None:
            bench.note(group, self.kind, "Read back", text=f"{text}: {result.reason}")
            return
        if group.role is Role.STANDARD:
            shown = f"{significant(result.estimate or 0.0)} {unit}".rstrip()
            bench.note(group, self.kind, "Read back", text=text, result=shown, value=result.estimate)
            if group.level:
                recovery = (result.estimate or 0.0) / group.level
                found = f"{significant(result.estimate or 0.0)} ÷ {given(group.level)}"
                bench.note(
                    group, self.kind, "Recovery", text=found, result=f"{fixed(100 * recovery, 1)} %", value=recovery
                )
            return
        if value.censor:
            # The raw estimate is the reason for the bound, so the working names it; the answer never does.
            came_to = "" if result.estimate is None else f" = {significant(result.estimate)}"
            text += f"{came_to}: {result.reason}"
        shown = f"{value.shown} {unit}".rstrip()
        bench.note(group, self.kind, "Read back", text=text, result=shown, value=value.value)
        bench.in_reading[group.id] = value
        if value.value is not None and bench.writes(group):
            interval = f"{value.shown_lower} to {value.shown_upper}"
            why = f" ({result.reason})" if value.lower is None and result.reason else ""
            bench.note(group, self.kind, level, text=f"{interval} {unit}{why}{self._by(bench, group)}".strip())
        if result.flag or result.reason:
            self._remark_range(bench, group, result, span)
        if bench.judged is not None and (p := bench.judged.alone.get(group.id)) is not None:
            text = f"{group.name}: its readings scatter more than the standards and the other samples (p {p_value(p)})"
            text += "; its interval is by its own scatter." if self.scatter != "curve" else (
                ", so its interval is too narrow. Look for a slip, or judge it by its own scatter."
            )  # fmt: skip
            bench.remark(group, Remark(state=State.LOOK, short="scatters more", text=text))

    def _value(self, result: ReadBack, standards: Ends) -> Value:
        outside = result.flag in (Flag.ABOVE_RANGE, Flag.BELOW_RANGE)
        if result.estimate is None and not outside:
            return Value()
        if result.estimate is None or (result.flag and not self.extrapolate):
            low, high = standards
            if result.flag is Flag.ABOVE_RANGE:
                return Value(censor=">", value=None, lower=high, shown=f"> {given(high)}")
            censor: Literal["<", "≤"] = "≤" if low <= 0 else "<"
            return Value(censor=censor, value=None, upper=low, shown=f"{censor} {given(low)}")
        return Value.of(result.estimate, result.lower, result.upper)

    def _remark_range(self, bench: StandardBench, group: Group, result: ReadBack, span: Ends) -> None:
        low, high = (f"{given(end)} {bench.layout.level.unit}".rstrip() for end in span)
        if result.flag is Flag.ABOVE_RANGE:
            more = "dilute and rerun" if not self.extrapolate else "extrapolated; dilute and rerun to be sure"
            text = f"{group.name} is above the top standard ({high}): {more}."
            bench.remark(group, Remark(state=State.LOOK, short="above top standard", text=text))
        elif result.flag is Flag.BELOW_RANGE:
            zero = " above zero" if bench.fit is not None and bench.span_of(bench.fit)[0] == 0 else ""
            text = f"{group.name} is below the lowest standard{zero} ({low}): {_for_more(group)}."
            bench.remark(group, Remark(state=State.LOOK, short="below lowest standard", text=text))
        elif result.flag is Flag.AMBIGUOUS:
            bench.remark(
                group, Remark(state=State.LOOK, short="two concentrations", text=f"{group.name}: {result.reason}.")
            )
        elif (result.lower is None or result.upper is None) and result.reason:
            text = f"{group.name} has no interval: {result.reason}."
            bench.remark(group, Remark(state=State.LOOK, short="no interval", text=text))


def _unread(bench: StandardBench, group: Group) -> Value:
    """A group with no usable reading: over range still says something, as a bound, when there is a top standard."""
    meanings = {bench.cell(id).meaning for id in group.readings if not bench.why_not.get(id, "").startswith("excluded")}
    if bench.fit and not bench.fit_problem and meanings in ({Meaning.ABOVE}, {Meaning.BELOW}):
        low, top = bench.reading_range(bench.fit)
        if bench.rises(bench.fit) is (meanings == {Meaning.ABOVE}):
            return Value(censor=">", lower=top, shown=f"> {given(top)}")
        return Value(censor="<", upper=low, shown=f"< {given(low)}")
    return Value()


def _for_more(group: Group) -> str:
    """What helps where there is too little to read."""
    less = f"dilute it less than × {given(group.dilution)}, or " if group.dilution > 1 else ""
    return f"{less}add a lower standard or concentrate the sample"


def _remark_left_out(bench: StandardBench, group: Group) -> None:
    if bench.why_not.keys().isdisjoint(group.readings):
        return
    excluded = [id for id in group.readings if bench.why_not.get(id, "").startswith("excluded")]
    odd = [id for id in group.readings if id in bench.why_not and id not in excluded]
    for id in odd:
        read = bench.cell(id)
        cell = f"“{read.text.strip()}”" if read.text.strip() else "one reading"
        short, advice = _odd(bench, group, read.meaning)
        rest = "left out of the mean" if bench.used(group) else "so nothing is left to read"
        text = f"{group.name}: {cell} is {bench.why_not[id]} and {rest}{advice}."
        bench.remark(group, Remark(state=State.LOOK, short=short, text=text))
    if excluded and not bench.used(group) and not odd:
        text = f"{group.name}: every reading is excluded, so there is nothing to read back."
        bench.remark(group, Remark(state=State.LOOK, short="all excluded", text=text))


def _odd(bench: StandardBench, group: Group, meaning: Meaning) -> tuple[str, str]:
    """An odd reading in a word or two, and what to do; on a falling curve a high signal is little of what is sought."""
    if meaning not in (Meaning.ABOVE, Meaning.BELOW):
        return ("missing reading" if meaning is Meaning.MISSING else "not a number"), ""
    side = "over range" if meaning is Meaning.ABOVE else "under range"
    if bench.fit is None or bench.fit_problem:
        return side, ""
    if bench.rises(bench.fit) is (meaning is Meaning.ABOVE):
        return side, ": dilute and rerun"
    return f"{side}, so low", f"; on this curve that is a low concentration: {_for_more(group)}"


def _calculation(curve: Fit, *, turned: bool = False) -> Callable[[float], str]:
    """The equation turned round, with the numbers put in and no sign lost, for a signal still to be put in."""
    if turned:
        equation = with_numbers(curve).replace("y = ", "", 1)
        return lambda signal: f"{equation} at x = {put(signal)}"
    if curve.model.solved:
        around = filled(curve.model.solved, {name: put(value) for name, value in curve.named.items()} | {"y": _SIGNAL})
        between = around.split(_SIGNAL)
        return lambda signal: put(signal).join(between)
    equation = curve.model.equation.replace("y = ", "", 1)
    how = "by the formula for quadratic equations" if curve.model.roots else "found by bisection"
    return lambda signal: f"where {equation} is {put(signal)}, {how}"
