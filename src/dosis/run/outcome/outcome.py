"""The outcome of a run: findings whose own part is that of one of the questions."""

from dosis.run.outcome.findings import Findings
from dosis.run.questions.registry import AnyPart


class Outcome(Findings):
    """All of a run's answers and how they came about."""

    part: AnyPart
