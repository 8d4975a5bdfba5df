"""The questions there are. This is the only file that knows them all; a new one has its line in `QUESTIONS`."""

from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import Field

from dosis.run.outcome.findings import Part
from dosis.run.questions.additions.question import Additions
from dosis.run.questions.concentration.question import Concentration
from dosis.run.questions.dose.question import Dose
from dosis.run.questions.mortality.question import Mortality
from dosis.run.questions.potency.question import PotencyOf
from dosis.run.questions.question import Question
from dosis.run.questions.rate.question import Rate
from dosis.run.questions.recording.question import Recording
from dosis.run.questions.relation.question import Relation
from dosis.run.questions.spectrum.question import Spectrum
from dosis.run.steps.step import Step

QUESTIONS: dict[str, Question] = {
    question.id: question
    for question in (
        Concentration(), Additions(), Dose(), Mortality(), PotencyOf(), Relation(), Rate(), Spectrum(), Recording(),
    )
}  # fmt: skip


def question_of(id: str) -> Question:
    """The question of that id. Raises KeyError."""
    return QUESTIONS[id]


def _one_of(kinds: list[Any]) -> Any:
    """Any of these, told apart by `kind`."""
    return Annotated[Union[tuple(dict.fromkeys(kinds))], Field(discriminator="kind")]  # noqa: UP007


# The unions are made of what the rooms declare. A type checker sees what all of one kind have in common.
if TYPE_CHECKING:
    QuestionId = str
    AnyStep = Step
    AnyPart = Part
else:
    QuestionId = Literal[tuple(QUESTIONS)]
    AnyStep = _one_of([kind for question in QUESTIONS.values() for kind in question.steps])
    AnyPart = _one_of([question.part for question in QUESTIONS.values()])
