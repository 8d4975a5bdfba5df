"""What a list of runs shows of each: taken from the outcome when it is stored, so that a list opens no outcome."""

from dosis.run.outcome import Line, Outcome, State
from dosis.run.record import Record

POINTS = 60  # a thumbnail needs no more


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
    used = [Dot(x=point.x, y=point.y) for point in outcome.curve.points if point.state == "used"]
    line = outcome.curve.line
    return Card(
        headline=outcome.verdict.headline,
        state=outcome.verdict.state,
        line=Line(x=line.x[::6] + line.x[-1:], y=line.y[::6] + line.y[-1:], lower=(), upper=()),
        points=tuple(used[:: max(1, len(used) // POINTS)]),
    )
