"""Step: the checks a reviewer would make, each with its threshold, what was found and why it matters."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.core.limits import mandel
from dosis.core.rounding import fixed, given, p_value, significant
from dosis.run.curves.words import BEND
from dosis.run.layout import Group
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import Remark, State
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.spikes import recover_spikes
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step
from dosis.run.steps.summary import NAMED, sum_up

CURVED = 0.01  # p of Mandel's test below which a calibration counts as curved
Share = Annotated[float, Field(gt=0, le=10)]


class ChecksStep(Step):
    """Thresholds of the checks."""

    title = "Checks"
    kind: Literal["checks"] = "checks"
    standard_recovery: Share = 0.15
    lowest_recovery: Share = 0.20
    qc_recovery: Share = 0.20
    spike_recovery: Share = 0.20

    def run(self, bench: StandardBench) -> StepOutcome:
        """Make every check that this run allows."""
        recover_spikes(bench)
        made = (
            self._recovery(bench), self._bend(bench), self._mandel(bench), self._intercept(bench), self._cv(bench),
            self._qc(bench), self._spikes(bench), self._in_range(bench),
        )  # fmt: skip
        return sum_up(bench, self.kind, made)

    def _recovery(self, bench: StandardBench) -> Check | None:
        """ICH M10 (2022), 3.2.5.2: standards within 15 %, the lowest within 20 %, at least three quarters of them."""
        levels = [
            (group, None if result.estimate is None else result.estimate / group.level)
            for group in bench.groups(Role.STANDARD)
            if group.level and (result := bench.read_backs.get(group.id)) and bench.in_window(group.level)
        ]
        everyone = len(levels)
        span = bench.working_range
        if span is not None and bench.fit is not None and not bench.fit.is_straight:
            # Standards on a plateau anchor the curve; they are not there to be read back (ICH M10, 3.2.5.2).
            levels = [each for each in levels if span.lower <= (each[0].level or 0.0) <= span.upper]
        if not levels:
            return None
        lowest = min(group.level or 0.0 for group, _ in levels)
        for group, recovery in levels:
            limit = self.lowest_recovery if group.level == lowest else None
            bench.write(
                "check.recovery", group.name, text=f"read back ÷ {given(group.level or 0.0)}, allowed "
                f"± {percent(limit or self.standard_recovery)}", result=_recovered(recovery), value=recovery,
            )  # fmt: skip
        anchors = everyone - len(levels)
        off = [
            (group, recovery)
            for group, recovery in levels
            if recovery is None
            or abs(recovery - 1) > (self.lowest_recovery if group.level == lowest else self.standard_recovery)
        ]
        named = ", ".join(f"{self._which(bench, group)} {_recovered(recovery)}" for group, recovery in off[:NAMED])
        named += f" and {len(off) - NAMED} more" if len(off) > NAMED else ""
        state = State.PASS if not off else State.LOOK if len(off) <= len(levels) / 4 else State.FAIL
        return Check(
            id="recovery", title="Standards recovered", state=state,
            found=f"{len(levels) - len(off)} of {len(levels)} within" + (f"; off: {named}" if off else "")
            + (f"; {anchors} outside the quantifiable range are not judged" if anchors else ""),
            threshold=f"± {percent(self.standard_recovery)}, lowest ± {percent(self.lowest_recovery)}",
            why="A curve that does not give its own standards back will not give samples right.",
            groups=tuple(group.id for group, _ in off), verdict=f"Standards off: {named}.",
        )  # fmt: skip

    def _which(self, bench: StandardBench, group: Group) -> str:
        """A standard by its name, and by its level where others have the same name."""
        if [other.name for other in bench.groups(Role.STANDARD)].count(group.name) < 2:
            return group.name
        return f"{group.name} {given(group.level or 0.0)} {bench.layout.level.unit}".rstrip()

    def _bend(self, bench: StandardBench) -> Check | None:
        if bench.fit is None or bench.fit_problem or bench.fit.lack_of_fit.p_value is None:
            return None
        p = bench.fit.lack_of_fit.p_value
        return Check(
            id="bend", title="Straight" if bench.fit.is_straight else "Curve fits",
            state=State.LOOK if p < BEND else State.PASS,
            found=f"lack of fit p {p_value(p)}", threshold=f"p ≥ {BEND}",
            why="The standards leave the line by more than their replicates differ: the response bends. "
            "Leave out the bent end, or use a curve." if bench.fit.is_straight else
            "The standards leave the curve by more than their replicates differ. Look at the residuals, and try a "
            "curve with one parameter more.",
            working="statistic.lack",
            verdict=f"The standards {'bend away from the line' if bench.fit.is_straight else 'leave the curve'} "
            f"(lack of fit p {p_value(p)}).",
        )  # fmt: skip

    def _mandel(self, bench: StandardBench) -> Check | None:
        """ISO 8466-1 (1990), 4.1.3: a line against a parabola, at 1 %."""
        fit = bench.fit
        if fit is None or bench.fit_problem or not fit.is_straight or "intercept" not in fit.named or bench.turned:
            return None
        test = mandel(fit, bench.fits.get("quadratic"))
        if test.p_value is None or test.statistic is None:
            return None
        df = ", ".join(map(str, test.degrees_of_freedom))
        bench.write("check.mandel", "Line against parabola", text=f"F({df}) = {significant(test.statistic, 3)}",
                    result=f"p {p_value(test.p_value)}", value=test.p_value)  # fmt: skip
        return Check(
            id="mandel", title="No parabola fits better", state=State.LOOK if test.p_value < CURVED else State.PASS,
            found=f"p {p_value(test.p_value)}", threshold=f"p ≥ {CURVED}",
            why="A parabola through the standards leaves much less than the line: the response is curved. Narrow the "
            "range, or use the parabola.",
            verdict=f"A parabola fits the standards better than a line (Mandel, p {p_value(test.p_value)}).",
        )  # fmt: skip

    def _intercept(self, bench: StandardBench) -> Check | None:
        free = bench.fits.get("line")
        if bench.fit is None or bench.fit.model.intercept or free is None:
            return None
        p = free.parameters["intercept"].p_value
        if p is None:
            return None
        return Check(
            id="intercept", title="Through zero allowed", state=State.LOOK if p < 0.05 else State.PASS,
            found=f"free intercept differs from zero with p {p_value(p)}", threshold="p ≥ 0.05",
            why="Forcing a line through zero against the data tilts it and biases low samples.",
            verdict=f"The standards do not pass through zero (p {p_value(p)}).",
        )  # fmt: skip

    def _cv(self, bench: StandardBench) -> Check | None:
        cvs = [
            (group, summary.cv, summary.n)
            for group in bench.groups(Role.STANDARD, Role.SAMPLE, Role.QC)
            if (summary := bench.summaries.get(group.id)) and summary.cv is not None and group.level != 0
        ]
        if not cvs:
            return None
        for group, cv, n in cvs:
            bench.write("check.cv", group.name, text=f"SD ÷ mean of {n}", result=percent(cv), value=cv)
        high = [(group, cv) for group, cv, _ in cvs if cv > bench.cv_limit]
        for group, cv in high:
            if group.role is not Role.STANDARD:
                text = f"{group.name}: its readings disagree, CV {percent(cv)}; look for a slip before it is reported."
                bench.remark(group, Remark(state=State.LOOK, short=f"CV {percent(cv)}", text=text))
        return Check(
            id="cv", title="Replicates agree", state=State.LOOK if high else State.PASS,
            found=", ".join(f"{group.name} CV {percent(cv)}" for group, cv in high[:6])
            + (f" and {len(high) - 6} more" if len(high) > 6 else "")
            or f"worst CV {percent(max(cv for _, cv, _ in cvs))}",
            threshold=f"CV ≤ {percent(bench.cv_limit)}",
            why="Replicates that disagree point to a slip in one of them; look before excluding.",
            groups=tuple(group.id for group, _ in high),
        )  # fmt: skip

    def _qc(self, bench: StandardBench) -> Check | None:
        """ICH M10 (2022), 3.3.2 in spirit: two thirds of all QCs within the limit."""
        known = [
            (group, None if value.value is None else value.value / group.level, value.shown)
            for group in bench.groups(Role.QC)
            if group.level and (value := bench.in_sample.get(group.id))
        ]
        if not known or bench.fit is None or bench.fit_problem:
            return None
        self._single(bench, [group for group, *_ in known])
        for group, recovery, shown in known:
            bench.write(
                "check.qc", group.name, text=f"{shown} ÷ {given(group.level or 0.0)}, allowed ± "
                f"{percent(self.qc_recovery)}", result=_recovered(recovery), value=recovery,
            )  # fmt: skip
        # One outside the standards has a bound and no recovery; it is off all the same.
        off = [each for each in known if each[1] is None or abs(each[1] - 1) > self.qc_recovery]
        found = ", ".join(
            f"{group.name} {shown if recovery is None else f'{fixed(100 * recovery, 0)} %'}"
            for group, recovery, shown in (off or known)[:6]
        )
        state = State.PASS if not off else State.LOOK if len(off) <= len(known) / 3 else State.FAIL
        if lost := self._half(bench, [group for group, *_ in known]):
            found, state = f"{found}; {lost}", State.FAIL
        return Check(
            id="qc", title="QC recovered", state=state, found=found,
            threshold=f"± {percent(self.qc_recovery)}, half at each level",
            why="The QC has a known concentration; how well it is read back is how far the samples can be trusted.",
            groups=tuple(group.id for group, *_ in off), verdict=f"QC off: {found}.",
        )  # fmt: skip

    def _half(self, bench: StandardBench, groups: list[Group]) -> str:
        """ICH M10 (2022), 3.3.2: at each level half of its readings within the limit; the first level that has not."""
        if bench.fit is None or bench.turned:
            return ""
        at: dict[float, list[bool]] = {}
        for group in groups:
            ids, level = bench.used(group), group.level or 0.0
            for found in bench.fit.estimates([bench.values[id] for id in ids]):
                value = None if found is None else found * bench.factors.get(group.id, 1.0) / level
                at.setdefault(level, []).append(value is not None and abs(value - 1) <= self.qc_recovery)
        for level, within in sorted(at.items()):
            if len(within) > 1 and 2 * sum(within) < len(within):
                unit = bench.layout.level.unit
                return f"at {given(level)} {unit}".rstrip() + f" {sum(within)} of {len(within)} readings within"
        return ""

    def _single(self, bench: StandardBench, groups: list[Group]) -> None:
        """What each reading of a QC comes to by itself, by which its scatter within a run is told from that between."""
        if bench.fit is None or bench.turned:
            return
        for group in groups:
            ids = bench.used(group)
            for id, found in zip(ids, bench.fit.estimates([bench.values[id] for id in ids]), strict=True):
                value = None if found is None else found * bench.factors.get(group.id, 1.0)
                shown = "cannot be read" if value is None else significant(value)
                bench.write(f"own.{group.id}", bench.readings.texts[id], result=shown, value=value)

    def _spikes(self, bench: StandardBench) -> Check | None:
        spiked = [group for group in bench.groups(Role.SAMPLE) if group.spike_of]
        if not spiked or bench.fit is None or bench.fit_problem:
            return None
        found = [(group, value.value if (value := bench.recoveries.get(group.id)) else None) for group in spiked]
        for group, recovery in found:
            bench.write("check.spikes", group.name, text=f"of {given(group.level or 0.0)} added to {group.spike_of}",
                        result=_recovered(recovery), value=recovery)  # fmt: skip
        off = [(group, r) for group, r in found if r is None or abs(r - 1) > self.spike_recovery]
        named = ", ".join(f"{group.name} {_recovered(r)}" for group, r in (off or found)[:NAMED])
        return Check(
            id="spikes", title="Additions recovered", state=State.LOOK if off else State.PASS, found=named,
            threshold=f"± {percent(self.spike_recovery)}",
            why="An addition that is not found again shows that something in the sample changes the signal. Standard "
            "additions are the way around it.",
            groups=tuple(group.id for group, _ in off), verdict=f"Additions not recovered: {named}.",
        )  # fmt: skip

    def _in_range(self, bench: StandardBench) -> Check | None:
        samples = bench.groups(Role.SAMPLE)
        if not samples or not bench.read_backs or bench.fit is None or bench.fit_problem:
            return None
        out = [group for group in samples if not (rb := bench.read_backs.get(group.id)) or rb.flag]
        low, high = (given(end) for end in bench.reading_range(bench.fit))
        for group in out:
            flag = bench.read_backs[group.id].reason if group.id in bench.read_backs else "no usable reading"
            bench.write("check.range", group.name, text=f"standards {low} to {high} {bench.layout.level.unit}".rstrip(),
                        result=flag)  # fmt: skip
        return Check(
            id="range", title="Samples within the standards", state=State.LOOK if out else State.PASS,
            found=f"{len(samples) - len(out)} of {len(samples)} within", threshold="all",
            why="Outside the standards nothing shows what the curve does.",
            groups=tuple(group.id for group in out),
        )  # fmt: skip


def _recovered(recovery: float | None) -> str:
    """A recovery as it helps: of one far off the size says nothing more."""
    if recovery is None:
        return "cannot be read"
    if recovery < 0:
        return "below zero"
    return "more than tenfold" if recovery > 10 else f"{fixed(100 * recovery, 0)} %"
