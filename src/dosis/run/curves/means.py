"""Means of readings at the same place, as they are drawn."""

from collections.abc import Iterable, Sequence

from dosis.core.replicates import summarize
from dosis.run.outcome.drawn import MeanPoint


def mean_point(x: float, readings: Sequence[float]) -> MeanPoint:
    """The mean of readings at x, with its spread and interval where there are several."""
    if len(readings) == 1:
        return MeanPoint(x=x, y=readings[0])
    summary = summarize(readings)
    lower, upper = summary.interval() or (None, None)
    return MeanPoint(x=x, y=summary.mean, sd=summary.sd, sem=summary.sem, lower=lower, upper=upper)


def mean_points(x: Iterable[float], y: Iterable[float]) -> tuple[MeanPoint, ...]:
    """One for each different x, in rising order."""
    at: dict[float, list[float]] = {}
    for one, other in zip(x, y, strict=True):
        at.setdefault(one, []).append(other)
    return tuple(mean_point(level, readings) for level, readings in sorted(at.items()))
