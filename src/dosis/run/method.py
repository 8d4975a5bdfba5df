"""Method: the ordered steps from readings to answers, as data."""

from typing import Annotated

from pydantic import Field

from dosis.run.record import Record
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.checks import ChecksStep
from dosis.run.steps.curve import CurveStep
from dosis.run.steps.dilution import DilutionStep
from dosis.run.steps.limits import LimitsStep
from dosis.run.steps.read_back import ReadBackStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import SignalStep

Step = Annotated[
    SignalStep | BlankStep | ReplicatesStep | CurveStep | LimitsStep | ReadBackStep | DilutionStep | ChecksStep,
    Field(discriminator="kind"),
]


class Method(Record):
    """A recipe; each kind of step stands in it once at most."""

    steps: tuple[Step, ...]

    def with_step(self, step: Step) -> "Method":
        """The same recipe with that step in the place of its kind. Raises ValueError when it has none."""
        if step.kind not in {old.kind for old in self.steps}:
            if isinstance(step, SignalStep):  # the working of an older run has none
                return Method(steps=(step, *self.steps))
            if isinstance(step, LimitsStep):
                after = 1 + next(i for i, old in enumerate(self.steps) if old.kind == "curve")
                return Method(steps=(*self.steps[:after], step, *self.steps[after:]))
            raise ValueError(f"This run's working has no step “{step.kind}”.")
        return Method(steps=tuple(step if old.kind == step.kind else old for old in self.steps))

    def step(self, kind: str) -> Step:
        """The step of that kind. Raises KeyError."""
        for step in self.steps:
            if step.kind == kind:
                return step
        raise KeyError(kind)


def concentration_method() -> Method:
    """The default working for “How much is in my samples?”."""
    return Method(
        steps=(
            SignalStep(),
            BlankStep(),
            ReplicatesStep(),
            CurveStep(),
            LimitsStep(),
            ReadBackStep(),
            DilutionStep(),
            ChecksStep(),
        ),
    )
