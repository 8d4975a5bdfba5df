"""Step: the uncertainty of weighing, purity, volumes and recovery, beside that of the readings."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from dosis.core.budget import Budget, Distribution, Leaning, Part, budget, leaning_on_levels, standard_uncertainty
from dosis.core.inference.result import Fit
from dosis.core.numbers import LARGEST
from dosis.core.rounding import given, significant
from dosis.run.layout import Group
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers
from dosis.run.outcome.value import State
from dosis.run.record import Record
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.steps.step import Step

READINGS = "Readings and curve"
MOST = 200  # answers whose budget is listed
Level = Annotated[float, Field(gt=0, le=LARGEST)]


class Source(Record):
    """Where uncertainty comes from: how much, in percent, and of what.

    of : "answer" multiplies every answer alike, as the purity of the stock, its volume or the recovery do; "levels" is
    of each standard by itself, as the pipetting of a dilution is, or of the standards at `level` alone.
    """

    name: Annotated[str, Field(min_length=1, max_length=60)]
    percent: Annotated[float, Field(gt=0, le=1000)]
    given_as: Distribution = "standard"
    of: Literal["answer", "levels"] = "answer"
    level: Level | None = None


class BudgetStep(Step):
    """An uncertainty budget (EURACHEM/CITAC QUAM; GUM).

    coverage : k = 2, or t of 95 % on the effective degrees of freedom.
    """

    title = "Uncertainty"
    kind: Literal["budget"] = "budget"
    on: bool = False
    sources: Annotated[tuple[Source, ...], Field(max_length=20)] = ()
    coverage: Literal["2", "t"] = "2"

    def run(self, bench: StandardBench) -> StepOutcome:
        """Combine what is given with the uncertainty of each read-back."""
        if not self.on:
            return self.told("Intervals are of the regression alone.", State.PASS)
        if bench.fit is None or bench.fit_problem:
            return self.told("Waiting for a curve.", State.PASS)
        if bench.turned:
            return self.told("A budget needs the signal fitted on the concentration.", State.LOOK)
        if not self.sources:
            said = "Nothing is given beside the readings yet: intervals are of the regression alone."
            return self.told(said, State.LOOK)
        levels = {group.level for group in bench.groups(Role.STANDARD)}
        if lost := [each for each in self.sources if each.level is not None and each.level not in levels]:
            at = f"{given(lost[0].level or 0.0)} {bench.layout.level.unit}".rstrip()
            return self.told(f"{lost[0].name}: there is no standard at {at}. Choose one that is there.", State.LOOK)
        by_levels = any(source.of == "levels" for source in self.sources)
        leaning = leaning_on_levels(bench.fit) if by_levels else None
        for group in bench.answered():
            made = self._of(bench, bench.fit, group, leaning)
            if made is not None:
                bench.budgets[group.id] = made
                self._write(bench, group, made)
        return self._report(bench)

    def _of(
        self, bench: StandardBench, curve: Fit, group: Group, leaning: Leaning | None
    ) -> Budget | None:  # fmt: skip
        read, value = bench.read_backs.get(group.id), bench.in_sample.get(group.id)
        if read is None or value is None or value.value is None or not read.standard_error or not read.estimate:
            return None
        factor = value.value / read.estimate
        parts = [Part(READINGS, abs(factor) * read.standard_error, _df(bench, curve, group))]
        summary = bench.summaries.get(group.id)
        for source in self.sources:
            u = standard_uncertainty(source.percent / 100, source.given_as)
            if leaning is None or source.of == "answer":
                parts.append(Part(source.name, abs(value.value) * u))
            else:
                moved = leaning(summary.value if summary else math.nan, source.level)
                parts.append(Part(source.name, abs(factor) * u * moved))
        if not all(math.isfinite(part.uncertainty) for part in parts):
            return None
        return budget(parts, factor=2.0 if self.coverage == "2" else None)

    def _write(self, bench: StandardBench, group: Group, made: Budget) -> None:
        unit = bench.layout.level.unit
        if not bench.writes(group):
            return
        for part, share in zip(made.parts, made.shares, strict=True):
            bench.note(group, self.kind, part.name, text=f"u {significant(part.uncertainty, 2)} {unit}".rstrip(),
                       result=f"{100 * share:.0f} % of the variance", value=part.uncertainty)  # fmt: skip
        bench.note(group, self.kind, "Combined", text="√Σu²", value=made.combined,
                   result=f"{significant(made.combined, 2)} {unit}".rstrip())  # fmt: skip
        df = made.degrees_of_freedom
        free = "" if math.isinf(df) else f", {df:.3g} effective degrees of freedom"
        bench.note(group, self.kind, "Expanded", text=f"k = {significant(made.factor, 3)}{free}", value=made.expanded,
                   result=f"± {significant(made.expanded, 2)} {unit}".rstrip())  # fmt: skip

    def _report(self, bench: StandardBench) -> StepOutcome:
        if not bench.budgets:
            return self.told("No answer has an interval to add to.", State.LOOK)
        shares: dict[str, list[float]] = {}
        for made in bench.budgets.values():
            for part, share in zip(made.parts, made.shares, strict=True):
                shares.setdefault(part.name, []).append(share)
        median = {name: float(np.median(each)) for name, each in shares.items()}
        name, largest = max(median.items(), key=lambda each: each[1])
        how = "k = 2" if self.coverage == "2" else "95 %"
        return self.told(
            f"{len(self.sources)} {'source' if len(self.sources) == 1 else 'sources'} beside the readings, expanded "
            f"with {how}. Most comes from **{name}** ({100 * largest:.0f} % of the variance of the median answer).",
            State.PASS,
        )  # fmt: skip


def _df(bench: StandardBench, curve: Fit, group: Group) -> float:
    """Degrees of freedom of the scatter that a read-back is judged by."""
    own = bench.own_spreads.get(group.id)
    judged = curve if bench.judged is None else bench.judged.fit
    return own.degrees_of_freedom if own is not None else judged.degrees_of_freedom


def budget_columns(bench: StandardBench, step: BudgetStep, groups: list[Group], unit: str) -> tuple[AnswerColumn, ...]:
    """The expanded uncertainty of each answer, where the step is on."""
    if not step.on or not step.sources:
        return ()
    made = [bench.budgets.get(group.id) for group in groups]
    k = "k = 2" if step.coverage == "2" else "95 %"
    return (
        numbers("expanded", f"Expanded uncertainty, {k}", [each.expanded if each else None for each in made],
                [f"± {significant(each.expanded, 2)}" if each else "—" for each in made], unit=unit,
                short=f"U ({k})", note="Regression and all sources of the budget, in the sample"),
        numbers("combined", "Combined standard uncertainty", [each.combined if each else None for each in made],
                [significant(each.combined, 2) if each else "—" for each in made], unit=unit, short="u", where="more"),
    )  # fmt: skip


def budget_table(bench: StandardBench, step: BudgetStep) -> tuple[AnswerTable, ...]:
    """What each source contributes to each answer, in percent of its variance."""
    if not step.on or not step.sources:
        return ()
    answered = [group for group in bench.answered() if group.id in bench.budgets][:MOST]
    made = [bench.budgets[group.id] for group in answered]
    names = [READINGS, *(source.name for source in step.sources)]
    columns = [
        numbers(f"share_{i}", name, [100 * each.shares[i] for each in made],
                [f"{100 * each.shares[i]:.0f}" for each in made], unit="%", short=f"{name} %")
        for i, name in enumerate(names)
    ]  # fmt: skip
    rows = tuple(
        AnswerRow(key=f"budget {group.id}", name=group.name, group=group.id, role=group.role) for group in answered
    )
    return (AnswerTable(of="Answer", title="Uncertainty budget, share of the variance", rows=rows,
                        columns=tuple(columns)),)  # fmt: skip
