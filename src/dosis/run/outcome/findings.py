"""All of a run's answers and how they came about, as a question's room leaves it."""

from pydantic import Field

from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.readings import GroupOutcome, ReadingOutcome, SignalColumn
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.table import AnswerTable
from dosis.run.outcome.value import Remark
from dosis.run.outcome.verdict import Verdict
from dosis.run.outcome.working import WorkingLine
from dosis.run.record import Record


class Part(Record):
    """What only the outcome of one question has; `kind` is the question's id."""

    kind: str


class Findings(Record):
    """What every outcome has, and its question's own part.

    further : answers of another kind that rest on the first, such as what rates depend on.
    curves : all that are fitted, one at least. working : the lines behind every value, by the id of a group or number.
    """

    signal_label: str
    level_unit: str
    readings: tuple[ReadingOutcome, ...]
    groups: tuple[GroupOutcome, ...] = ()
    steps: tuple[StepOutcome, ...]
    curves: tuple[Curve, ...]
    answers: AnswerTable
    further: tuple[AnswerTable, ...] = ()
    checks: tuple[Check, ...]
    verdict: Verdict
    columns: tuple[SignalColumn, ...] = ()
    peak_column: str = ""
    layout: tuple[Remark, ...] = ()
    part: Part
    working: dict[str, tuple[WorkingLine, ...]] = Field(default_factory=dict)

    @property
    def curve(self) -> Curve:
        """The first curve, which is the only one of most runs."""
        return self.curves[0]
