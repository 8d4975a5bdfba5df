"""Method: the ordered steps from readings to answers, as data."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.run.questions.additions.additions import AdditionsStep
from dosis.run.questions.concentration.limits import LimitsStep
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.questions.dose.checks import DoseChecksStep
from dosis.run.questions.dose.compare import CompareStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.questions.mortality.checks import MortalityChecksStep
from dosis.run.questions.mortality.compare import CompareLethalStep
from dosis.run.questions.mortality.counts import CountsStep
from dosis.run.questions.mortality.lethal import LethalStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.record import Record
from dosis.run.standards.checks import ChecksStep
from dosis.run.standards.curve import CurveStep
from dosis.run.standards.dilution import DilutionStep
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from dosis.run.steps.signal import SignalStep

Step = Annotated[
    SignalStep | BlankStep | ReplicatesStep | CurveStep | LimitsStep | ReadBackStep | AdditionsStep | DilutionStep
    | ChecksStep | NormalizeStep | DoseCurveStep | EffectsStep | CompareStep | DoseChecksStep
    | CountsStep | QuantalStep | LethalStep | CompareLethalStep | MortalityChecksStep,
    Field(discriminator="kind"),
]  # fmt: skip


Question = Literal["concentration", "additions", "dose", "mortality"]


class Method(Record):
    """A recipe; each kind of step stands in it once at most.

    question : what the run is asked — "concentration" by a standard curve, or by standard "additions" to the sample;
        which "dose" has half the effect; which kills half ("mortality").
    """

    steps: tuple[Step, ...]
    question: Question = "concentration"

    @property
    def signal_after_blank(self) -> bool:
        """Whether columns are derived from readings whose blank is off already."""
        kinds = [step.kind for step in self.steps]
        return "signal" in kinds and "blank" in kinds[: kinds.index("signal")]

    def with_signal(self, *, after_blank: bool) -> "Method":
        """The same recipe with its signal step before or after the blank."""
        signal, rest = self.step("signal"), [step for step in self.steps if step.kind != "signal"]
        at = next((i for i, step in enumerate(rest) if step.kind == "blank"), 0) + 1 if after_blank else 0
        return self._of((*rest[:at], signal, *rest[at:]))

    def _of(self, steps: tuple[Step, ...]) -> "Method":
        return Method(steps=steps, question=self.question)

    def with_step(self, step: Step) -> "Method":
        """The same recipe with that step in the place of its kind. Raises ValueError when it has none."""
        if step.kind not in {old.kind for old in self.steps}:
            if isinstance(step, SignalStep):  # the working of an older run has none
                return self._of((step, *self.steps))
            if isinstance(step, LimitsStep) and (at := self._place("curve")) is not None:
                after = 1 + at
                return self._of((*self.steps[:after], step, *self.steps[after:]))
            raise ValueError(f"This run's working has no step “{step.kind}”.")
        return self._of(tuple(step if old.kind == step.kind else old for old in self.steps))

    def _place(self, kind: str) -> int | None:
        return next((i for i, step in enumerate(self.steps) if step.kind == kind), None)

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


def additions_method() -> Method:
    """The default working for known amounts added to the sample itself."""
    steps = (SignalStep(), BlankStep(), ReplicatesStep(), CurveStep(), AdditionsStep(), DilutionStep(), ChecksStep())
    return Method(steps=steps, question="additions")


def dose_method() -> Method:
    """The default working for “Which dose has half the effect?”."""
    steps = (
        SignalStep(), BlankStep(), NormalizeStep(), ReplicatesStep(), DoseCurveStep(), EffectsStep(), CompareStep(),
        DoseChecksStep(),
    )  # fmt: skip
    return Method(steps=steps, question="dose")


def mortality_method() -> Method:
    """The default working for “Which dose kills half?”."""
    steps = (CountsStep(), QuantalStep(), LethalStep(), CompareLethalStep(), MortalityChecksStep())
    return Method(steps=steps, question="mortality")


METHODS = {
    "concentration": concentration_method, "additions": additions_method, "dose": dose_method,
    "mortality": mortality_method,
}  # fmt: skip
