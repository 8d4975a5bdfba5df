"""Step: how much stronger one treatment kills than another."""

from collections.abc import Hashable
from typing import Annotated, Literal

from pydantic import Field

from dosis.core import quantal
from dosis.core.quantal.potency import Controls, QuantalPotency
from dosis.core.rounding import given, p_value, significant
from dosis.run.layout import Group, Name, Unit
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.mortality.bench import CountBench, Treatment
from dosis.run.questions.mortality.line import controls_of
from dosis.run.questions.mortality.time_course import timed
from dosis.run.roles import Role
from dosis.run.steps.step import Step

MOST = 12


class CompareLethalStep(Step):
    """Every series against a reference, by parallel lines on log10 dose; where there are times, at each of them.

    declared : potency of the reference in `unit`, by which the others have theirs.
    """

    title = "Compare"
    kind: Literal["compare_lethal"] = "compare_lethal"
    on: bool = True
    reference: Name = ""
    declared: Annotated[float, Field(gt=0, le=1e15)] | None = None
    unit: Unit = ""

    def run(self, bench: CountBench) -> StepOutcome:
        """Compare in pairs."""
        able = {key: made for key, made in bench.treatments.items() if made.fit is not None and made.fit.converged}
        if not self.on:
            return self.told("Switched off.", State.PASS)
        if len(able) < 2 or len(able) > MOST:
            few = "Fewer than two lines; there is nothing to compare."
            return self.told(few if len(able) < 2 else "Too many series to compare in pairs.", State.PASS)
        pairs = self._pairs(able)
        if not pairs:
            same = "The series are the same animals counted at several times, which are not compared with each other."
            return self.told(same, State.PASS)
        for i, (reference, key) in enumerate(pairs):
            bench.comparisons.append(self._pair(bench, able[reference], able[key], f"compare.{i}"))
        more = f" {len(bench.comparisons) - 1} more compared." if len(bench.comparisons) > 1 else ""
        return self.told(f"{bench.comparisons[0].text}{more}", State.PASS)

    def _pairs(self, able: dict[str, Treatment]) -> list[tuple[str, str]]:
        """Every treatment with the reference at the same time: counts of the same animals later are not independent."""
        by_time: dict[str, list[str]] = {}
        for key in able:
            by_time.setdefault(timed(key)[1], []).append(key)
        wanted = timed(self.reference)[0]
        pairs = []
        for keys in by_time.values():
            reference = next((key for key in keys if key == self.reference), None)
            reference = reference or next((key for key in keys if wanted and timed(key)[0] == wanted), keys[0])
            pairs += [(reference, key) for key in keys if key != reference]
        return pairs

    def _pair(self, bench: CountBench, one: Treatment, other: Treatment, id: str) -> Comparison:
        assert one.fit is not None and other.fit is not None
        # The counts as they were fitted: after Abbott's correction, or with the background fitted once more to both.
        rows = [
            (made.name, *row)
            for made in (one, other)
            if (fit := made.fit)
            for row in zip(fit.dose.tolist(), fit.affected.tolist(), fit.exposed.tolist(), strict=True)
            if row[0] > 0
        ]
        labels, dose, affected, exposed = (list(column) for column in zip(*rows, strict=True))
        potencies = quantal.relative_potency(
            dose, affected, exposed, labels, link=one.fit.link, level=bench.interval, log_dose=one.fit.log_dose,
            controls=_controls(one, other), widened=one.fit.widened in ("always", "beta-binomial"),
        )  # fmt: skip
        found = potencies[other.name]
        if found.estimate is None:
            text = f"{one.name} and {other.name} cannot be compared: {found.reason}."
            return Comparison(reference=one.name, name=other.name, state=State.LOOK, text=text)
        # Potency is how many times stronger; people ask how many times the dose it takes.
        ends = [None if end is None else 1 / end for end in (found.upper, found.lower)]
        value = Value.of(1 / found.estimate, ends[0], ends[1])
        shown, lower, upper = value.shown, value.shown_lower, value.shown_upper
        p = "" if found.p_value is None else f" (p {p_value(found.p_value)})"
        parallel = found.p_value is None or found.p_value >= bench.differing_below()
        alike = "The lines are parallel" if one.fit.log_dose else "The lines meet at dose zero"
        unlike = "The lines are not parallel" if one.fit.log_dose else "The lines do not meet at dose zero"
        bench.write(
            id,
            "Parallel lines" if one.fit.log_dose else "Common dose zero",
            text=f"likelihood ratio {found.likelihood_ratio or 0:.3g}",
            result=p.strip(" ()"),
        )
        bench.write(id, "Ratio", text=f"dose of {other.name} ÷ dose of {one.name}, Fieller",
                    result=f"{shown} ({lower} – {upper})", value=value.value)  # fmt: skip
        holds = (
            f"{alike}{p}, so that holds at every effect."
            if parallel
            else f"{unlike}{p}: the ratio changes with the effect."
        )
        different = ends[0] is not None and ends[1] is not None and not ends[0] <= 1 <= ends[1]
        verdict = "**differ**" if different else "**cannot be told apart**"
        text = (
            f"{one.name} and {other.name} {verdict}: {other.name} needs **{shown} times** the dose ({lower} – {upper})."
        )
        return Comparison(
            reference=one.name, name=other.name, state=State.PASS, ratio=value, working=id,
            text=f"{text} {holds}{self._in_units(bench, id, other.name, found, parallel=parallel)}",
        )  # fmt: skip

    def _in_units(self, bench: CountBench, id: str, name: str, found: QuantalPotency, *, parallel: bool) -> str:
        """Its potency, where that of the reference is declared."""
        if self.declared is None or found.estimate is None:
            return ""
        if not parallel:
            return f" {name} has no potency in units: its line is another."
        ends = [None if end is None else end * self.declared for end in (found.lower, found.upper)]
        value = Value.of(found.estimate * self.declared, *ends)
        span = f"{value.shown} ({value.shown_lower} – {value.shown_upper}) {self.unit}".rstrip()
        text = f"{significant(found.estimate, 5)} × {given(self.declared)}, the declared potency of the reference"
        bench.write(id, "In units", text=text, result=span, value=value.value)
        return f" Its potency is **{span}**."


def _controls(one: Treatment, other: Treatment) -> dict[Hashable, Controls]:
    """The controls to which a background was fitted, as one where both series have the same."""
    found: dict[Hashable, Controls] = {}
    shared = set(map(id, _control_groups(one))) == set(map(id, _control_groups(other)))
    for made in (one, other):
        affected, exposed = controls_of(made)
        if made.fit is not None and made.fit.background_of == "estimated" and exposed:
            found[made.name] = next(iter(found.values())) if found and shared else Controls(affected, exposed)
    return found


def _control_groups(made: Treatment) -> list[Group]:
    return [group for group in made.groups if group.role is Role.VEHICLE or group.level == 0]
