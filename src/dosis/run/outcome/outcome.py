"""The whole outcome of a run."""

from pydantic import Field

from dosis.run.effects.effect import Effect
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.readings import GroupOutcome, ReadingOutcome, SignalColumn
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import Remark
from dosis.run.outcome.verdict import Verdict
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.dose.part import ReferenceOutcome
from dosis.run.questions.mortality.part import TimeCourse
from dosis.run.record import Record
from dosis.run.standards.answer import Answer


class Outcome(Record):
    """All of a run's answers and how they came about."""

    signal_label: str
    level_unit: str
    readings: tuple[ReadingOutcome, ...]
    groups: tuple[GroupOutcome, ...] = ()
    steps: tuple[StepOutcome, ...]
    curve: Curve
    curves: tuple[Curve, ...] = ()  # all of them, where there are several; `curve` is the first
    answers: tuple[Answer, ...]
    effects: tuple[Effect, ...] = ()
    comparisons: tuple[Comparison, ...] = ()
    over_time: tuple[TimeCourse, ...] = ()
    checks: tuple[Check, ...]
    verdict: Verdict
    references: tuple[ReferenceOutcome, ...] = ()
    columns: tuple[SignalColumn, ...] = ()
    peak_column: str = ""
    layout: tuple[Remark, ...] = ()
    working: dict[str, tuple[WorkingLine, ...]] = Field(default_factory=dict)
