"""Method: the ordered steps from readings to answers, as data."""

from dosis.run.look import FigureLook
from dosis.run.questions.registry import AnyStep, QuestionId, question_of
from dosis.run.record import Record
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import Step, with_step
from dosis.run.working import signal_after_blank


class Method(Record):
    """A recipe: what the run is asked, and the steps by which it is answered; each kind stands in it once at most.

    figure : how its figure looks; None while nobody has touched it.
    """

    steps: tuple[AnyStep, ...]
    question: QuestionId = "concentration"
    figure: FigureLook | None = None

    @property
    def signal_after_blank(self) -> bool:
        """Whether columns are derived from readings whose blank is off already."""
        return signal_after_blank(self.steps)

    def with_signal(self, *, after_blank: bool) -> "Method":
        """The same recipe with its signal step before or after the blank."""
        signal, rest = self.step("signal"), [step for step in self.steps if not isinstance(step, SignalStep)]
        at = next((i for i, step in enumerate(rest) if isinstance(step, BlankStep)), 0) + 1 if after_blank else 0
        return self._of((*rest[:at], signal, *rest[at:]))

    def with_step(self, step: Step) -> "Method":
        """The same recipe with that step in the place of its kind, or in its order where an older run has none.

        Raises
        ------
        ValueError : when the question has no such step.
        """
        if any(old.kind == step.kind for old in self.steps):
            return self._of(with_step(self.steps, step))
        order = list(question_of(self.question).steps)
        if type(step) not in order:
            raise ValueError(f"This run's working has no step “{step.kind}”.")
        later = order[order.index(type(step)) + 1 :]
        at = next((i for i, old in enumerate(self.steps) if type(old) in later), len(self.steps))
        return self._of((*self.steps[:at], step, *self.steps[at:]))

    def step(self, kind: str) -> Step:
        """The step of that kind. Raises KeyError."""
        for step in self.steps:
            if step.kind == kind:
                return step
        raise KeyError(kind)

    def _of(self, steps: tuple[Step, ...]) -> "Method":
        return Method(steps=steps, question=self.question, figure=self.figure)


def default_method(question: QuestionId) -> Method:
    """The working as it is when nobody has touched it."""
    asked = question_of(question)
    return Method(steps=tuple(kind() for kind in asked.steps), question=question, figure=asked.look)  # type: ignore[call-arg]
