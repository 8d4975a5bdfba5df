"""How much is in my samples? Read back through a standard curve."""

from typing import ClassVar, Literal

from dosis.run.layout import Layout
from dosis.run.outcome.findings import Part
from dosis.run.questions.concentration.limits import LimitsStep
from dosis.run.questions.concentration.opening import first_curve
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.standards.budget import BudgetStep
from dosis.run.standards.checks import ChecksStep
from dosis.run.standards.curve import CurveStep
from dosis.run.standards.dilution import DilutionStep
from dosis.run.standards.question import StandardQuestion
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import Steps, one


class ConcentrationPart(Part):
    """Its outcome has nothing that others have not."""

    kind: Literal["concentration"] = "concentration"


class Concentration(StandardQuestion):
    """Concentration by a standard curve."""

    id = "concentration"
    sentence = "How much is in my samples?"
    by = "Standard curve"
    steps = (
        SignalStep, BlankStep, ReplicatesStep, CurveStep, LimitsStep, ReadBackStep, DilutionStep, BudgetStep,
        ChecksStep,
    )  # fmt: skip
    roles = (Role.STANDARD, Role.BLANK, Role.SAMPLE, Role.QC, Role.UNUSED)
    part = ConcentrationPart
    own: ClassVar[Part] = ConcentrationPart()

    def level(self, steps: Steps) -> float:
        """That of the read-back step."""
        return one(steps, ReadBackStep).level

    def opened(self, readings: Readings, before: Layout | None, layout: Layout, steps: Steps) -> Steps:
        """With the curve that describes the standards it has."""
        return first_curve(readings, before, layout, steps)

    def opening_words(self, steps: Steps) -> str:
        """Why the curve is another now."""
        return f"the curve opens as {one(steps, CurveStep).declared.name}, since these standards level off"
