"""Which dose kills half? A line through the counts of each series."""

from typing import ClassVar

from dosis.run.effects.asking import as_doses
from dosis.run.effects.no_effect import no_effect_tables
from dosis.run.effects.verdict import Words, conclude
from dosis.run.gathering import gathered
from dosis.run.layout import Layout
from dosis.run.outcome.findings import Findings
from dosis.run.questions.mortality.bench import CountBench
from dosis.run.questions.mortality.checks import MortalityChecksStep
from dosis.run.questions.mortality.compare import CompareLethalStep
from dosis.run.questions.mortality.counts import CountsStep
from dosis.run.questions.mortality.drawing import draw_mortality
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.questions.mortality.no_effect import NoEffectCountsStep
from dosis.run.questions.mortality.part import MortalityPart
from dosis.run.questions.mortality.table import lethal_table
from dosis.run.questions.mortality.time_course import time_courses
from dosis.run.questions.question import Question
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.step import Steps, one
from dosis.run.working import work

WORDS = Words(none="No line, so no lethal dose.", half="a half-lethal dose", wanted="controls and doses")


class Mortality(Question):
    """Exposed and affected, as counts."""

    id = "mortality"
    sentence = "Which dose kills half?"
    by = "Counts"
    note = "Known levels are taken as doses."
    steps = (CountsStep, QuantalStep, LethalStep, CompareLethalStep, NoEffectCountsStep, MortalityChecksStep)
    roles = (Role.DOSE, Role.VEHICLE, Role.UNUSED)
    titles: ClassVar[dict[Role, str]] = {Role.VEHICLE: "Control"}
    levels = "doses"
    one_level = "a dose"
    point = "dose"
    unknowns = False
    column_words: ClassVar[dict[str, str]] = {"level": "dose", "reading": "count"}
    part = MortalityPart

    def asked(self, layout: Layout) -> Layout:
        """Known levels, and what has none beside them, are doses; blanks are controls."""
        return as_doses(layout, {Role.STANDARD: Role.DOSE, Role.BLANK: Role.VEHICLE, Role.SAMPLE: Role.DOSE})

    def bench(self, readings: Readings, layout: Layout) -> CountBench:
        """A bench for the whole run."""
        return CountBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All series on one bench, of which each has a line."""
        bench = work(CountBench(readings, layout), steps)
        curves, effects = draw_mortality(bench, one(steps, QuantalStep)), bench.effects
        laid_out = bool(curves[0].points or curves[0].means)
        return gathered(
            bench, layout, curves=curves, outliers=False,
            further=tuple(no_effect_tables(bench)),
            answers=lethal_table(bench, effects, layout.level.unit, one(steps, LethalStep).interval),
            verdict=conclude(effects, bench.steps, bench.checks, layout.level.unit, WORDS, laid_out=laid_out),
            part=MortalityPart(comparisons=tuple(bench.comparisons), over_time=time_courses(effects)),
        )  # fmt: skip
