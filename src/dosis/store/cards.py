"""What a list of runs shows of each: taken from the outcome when it is stored, so that a list opens no outcome."""

import math

from dosis.run.outcome.drawn import Line
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State
from dosis.run.record import Record

POINTS, LINE = 60, 16  # a thumbnail needs no more


class Dot(Record):
    """A standard's reading."""

    x: float
    y: float


class Card(Record):
    """A run at a glance: its verdict and a thumbnail of its curve."""

    headline: str
    state: State
    line: Line
    points: tuple[Dot, ...]


def card_of(outcome: Outcome) -> Card:
    """The card of an outcome."""
    curve, line = outcome.curve, outcome.curve.line
    if curve.logarithmic:
        # The thumbnail has one kind of axis: a concentration is put there as its logarithm, a zero is left out.
        at = [i for i, x in enumerate(line.x) if x > 0]
        line = Line(x=tuple(math.log10(line.x[i]) for i in at), y=tuple(line.y[i] for i in at), lower=(), upper=())
    every = max(1, len(line.x) // LINE)
    marks = [point for point in curve.points if point.state == "used"] or curve.means
    used = [
        Dot(x=math.log10(mark.x) if curve.logarithmic else mark.x, y=mark.y)
        for mark in marks
        if not (curve.logarithmic and mark.x <= 0)
    ]
    return Card(
        headline=outcome.verdict.headline,
        state=outcome.verdict.state,
        line=Line(x=line.x[::every] + line.x[-1:], y=line.y[::every] + line.y[-1:], lower=(), upper=()),
        points=tuple(used[:: max(1, len(used) // POINTS)]),
    )
