"""How strong is it beside a reference? Preparations of one shape, and the ratio of doses that do the same."""

from typing import ClassVar

from dosis.run.effects.asking import as_doses, by_dilution
from dosis.run.gathering import gathered
from dosis.run.layout import Layout
from dosis.run.outcome.findings import Findings
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.questions.potency.assays import AssaysStep
from dosis.run.questions.potency.bench import PotencyBench, Sample
from dosis.run.questions.potency.checks import PotencyChecksStep
from dosis.run.questions.potency.drawing import draw_assays
from dosis.run.questions.potency.part import PotencyPart
from dosis.run.questions.potency.potency import PotencyStep
from dosis.run.questions.potency.table import further_tables, potency_table
from dosis.run.questions.question import Question
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import Steps
from dosis.run.verdict import NAMED, found_by, of_steps, said_by, stuck_at, verdict
from dosis.run.working import work


class PotencyOf(Question):
    """Relative potency."""

    id = "potency"
    sentence = "How strong is it beside a reference?"
    by = "Potency"
    note = "Known levels are taken as doses, each series as a preparation."
    steps = (SignalStep, BlankStep, ReplicatesStep, AssaysStep, PotencyStep, PotencyChecksStep)
    roles = (Role.DOSE, Role.VEHICLE, Role.BLANK, Role.UNUSED)
    titles: ClassVar[dict[Role, str]] = {Role.VEHICLE: "No dose"}
    levels = "doses"
    one_level = "a dose"
    point = "dose"
    unknowns = False
    diluted = True
    column_words: ClassVar[dict[str, str]] = {"level": "dose", "series": "preparation"}
    part = PotencyPart

    def asked(self, layout: Layout) -> Layout:
        """Known levels are doses; where there are none, dilutions are, 1:100 being a dose of 0.01."""
        return as_doses(by_dilution(layout), {Role.STANDARD: Role.DOSE})

    def bench(self, readings: Readings, layout: Layout) -> PotencyBench:
        """A bench for the whole run."""
        return PotencyBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All assays on one bench."""
        bench = work(PotencyBench(readings, layout), steps)
        curves = draw_assays(bench)
        model = bench.assays[0].model if bench.assays else ""
        return gathered(
            bench, layout, curves=curves, answers=potency_table(bench), further=tuple(further_tables(bench)),
            verdict=_conclude(bench), level_unit=bench.unit if bench.in_units else "",
            part=PotencyPart(reference=bench.reference, model=model),
        )  # fmt: skip


def _conclude(bench: PotencyBench) -> Verdict:
    found = [sample for sample in bench.samples if sample.relative.value is not None]
    if not bench.preparations:
        headline = "No doses are laid out yet."
    elif not found:
        headline = "No potency."
    elif len(bench.samples) <= NAMED:
        headline = f"{', '.join(_said(bench, sample) for sample in bench.samples)}."
    else:
        headline = f"{len(found):,} of {len(bench.samples):,} samples have a potency."
    detail = of_steps(bench.steps) + ([] if found else stuck_at(bench.steps)) + said_by(bench.checks)
    detail = detail or found_by(bench.checks)
    if not bench.preparations:
        detail = [VerdictPart(text="Say which wells or rows are doses of which preparation.")]
    look = len(found) < len(bench.samples) or bool(of_steps(bench.steps))
    return verdict(headline, detail, bench.checks, failed=not found, look=look)


def _said(bench: PotencyBench, sample: Sample) -> str:
    """ "Lot 7 105 (98 – 112) IU/mL"; of a sample without potency never anything that reads like one."""
    value = sample.potency if sample.potency.value is not None else sample.relative
    if value.value is None:
        return f"{sample.name}: no potency"
    span = f" ({value.shown_lower} – {value.shown_upper})" if value.shown_lower else ""
    unit = f" {bench.unit}" if sample.potency.value is not None and bench.unit else ""
    times = "" if sample.potency.value is not None else " times the reference"
    return f"{sample.name} {value.shown}{span}{unit}{times}"
