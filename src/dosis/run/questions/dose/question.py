"""Which dose has half the effect? A curve through the doses of each series."""

from typing import ClassVar

from dosis.core.inference.result import Fit
from dosis.core.plan import Wanted
from dosis.run.effects.asking import as_doses
from dosis.run.effects.no_effect import no_effect_tables
from dosis.run.effects.verdict import Words, conclude
from dosis.run.gathering import gathered
from dosis.run.layout import Layout
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.findings import Findings
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.dose.bench import DoseBench
from dosis.run.questions.dose.checks import DoseChecksStep
from dosis.run.questions.dose.compare import CompareStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.drawing import draw_doses, draw_series
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.dose.no_effect import NoEffectStep
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.questions.dose.part import DosePart
from dosis.run.questions.dose.table import dose_table
from dosis.run.questions.question import Question
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import Steps, one
from dosis.run.working import whole_working, work

WORDS = Words(
    none="No curve, so no half-effect dose.", half="a half-effect dose", wanted="vehicle, full effect and doses"
)


class Dose(Question):
    """Dose and response."""

    id = "dose"
    sentence = "Which dose has half the effect?"
    by = "Dose–response"
    note = "Known levels are taken as doses."
    steps = (
        SignalStep, BlankStep, NormalizeStep, ReplicatesStep, DoseCurveStep, EffectsStep, CompareStep, NoEffectStep,
        DoseChecksStep,
    )  # fmt: skip
    roles = (Role.DOSE, Role.VEHICLE, Role.FULL, Role.BLANK, Role.UNUSED)
    levels = "doses"
    one_level = "a dose"
    point = "dose"
    unknowns = False
    column_words: ClassVar[dict[str, str]] = {"level": "dose"}
    part = DosePart

    def asked(self, layout: Layout) -> Layout:
        """Known levels are doses."""
        return as_doses(layout, {Role.STANDARD: Role.DOSE})

    def bench(self, readings: Readings, layout: Layout) -> DoseBench:
        """A bench for the whole run."""
        return DoseBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All series on one bench, of which each has a curve."""
        bench = work(DoseBench(readings, layout, whole=whole), steps)
        curves, effects = draw_doses(bench, one(steps, DoseCurveStep)), bench.effects
        laid_out = bool(curves[0].points or curves[0].means)
        return gathered(
            bench, layout, curves=curves,
            answers=dose_table(bench, effects, layout.level.unit, one(steps, EffectsStep).interval),
            further=tuple(no_effect_tables(bench)),
            verdict=conclude(effects, bench.steps, bench.checks, layout.level.unit, WORDS, laid_out=laid_out),
            part=DosePart(references=tuple(bench.made_references), comparisons=tuple(bench.comparisons)),
        )  # fmt: skip

    def look_at_curve(
        self, readings: Readings, layout: Layout, steps: Steps, name: str
    ) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
        """One curve of a wall, by the same steps from the same revision as made the wall."""
        bench = work(DoseBench(readings, layout, whole=True), steps)
        curve = draw_series(bench, one(steps, DoseCurveStep), name)
        return None if curve is None else (curve, whole_working(bench.working.items()))

    def to_plan(self, readings: Readings, layout: Layout, steps: Steps, answer: str) -> tuple[str, Fit, Wanted] | None:
        """The half-effect dose of a series, on its own curve."""
        bench = work(DoseBench(readings, layout, whole=True), steps, before="compare")
        compound = bench.compounds.get(answer)
        if compound is None or compound.fit is None or compound.fit.joint or not compound.fit.model.positive_x:
            return None
        known = compound.fit.named.get("midpoint")
        if known is None or known <= 0 or "midpoint" in compound.fit.fixed:
            return None
        return compound.name, compound.fit, Wanted(parameter="midpoint")

    def look_at_working(
        self, readings: Readings, layout: Layout, steps: Steps, id: str
    ) -> tuple[WorkingLine, ...] | None:
        """The working behind a number of one of many curves."""
        bench = work(DoseBench(readings, layout, whole=True), steps)
        tag = f"{id.partition('.')[0]}."
        curve = one(steps, DoseCurveStep)
        for key in (compound.name for compound in bench.compounds.values() if compound.tag == tag):
            draw_series(bench, curve, key)
        return whole_working(bench.working.items()).get(id)
