"""How much was in the sample before known amounts were added to it?"""

from typing import ClassVar, Literal

from dosis.run.layout import Layout, named_series
from dosis.run.outcome.findings import Part
from dosis.run.questions.additions.additions import AdditionsStep
from dosis.run.questions.additions.bench import AdditionsBench
from dosis.run.roles import Role
from dosis.run.standards.checks import ChecksStep
from dosis.run.standards.curve import CurveStep
from dosis.run.standards.dilution import DilutionStep
from dosis.run.standards.question import StandardQuestion
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import Steps, one


class AdditionsPart(Part):
    """Its outcome has nothing that others have not."""

    kind: Literal["additions"] = "additions"


class Additions(StandardQuestion):
    """Concentration by standard additions to the sample itself."""

    id = "additions"
    sentence = "How much is in my sample?"
    by = "Standard additions"
    steps = (SignalStep, BlankStep, ReplicatesStep, CurveStep, AdditionsStep, DilutionStep, ChecksStep)
    roles = (Role.STANDARD, Role.BLANK, Role.SAMPLE, Role.QC, Role.UNUSED)
    part = AdditionsPart
    own: ClassVar[Part] = AdditionsPart()
    workplace = AdditionsBench

    def level(self, steps: Steps) -> float:
        """That of the additions step."""
        return one(steps, AdditionsStep).level

    def asked(self, layout: Layout) -> Layout:
        """A series for each sample whose additions stand apart."""
        return layout.model_copy(update={"groups": tuple(named_series(list(layout.groups)))})
