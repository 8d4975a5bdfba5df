"""What only the outcome of a mortality run has."""

from typing import Literal

from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.findings import Part
from dosis.run.outcome.value import Value
from dosis.run.record import light


@light
class TimePoint:
    """The leading effect dose of a treatment after some time; `series` is the one it was counted in."""

    series: str
    time: float
    dose: Value


@light
class TimeCourse:
    """How the lethal dose of a treatment falls with time, in rising order."""

    name: str
    unit: str
    points: tuple[TimePoint, ...]


class MortalityPart(Part):
    """Series held against each other, and lethal doses against time."""

    kind: Literal["mortality"] = "mortality"
    comparisons: tuple[Comparison, ...] = ()
    over_time: tuple[TimeCourse, ...] = ()
