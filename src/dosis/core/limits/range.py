"""Over which range a curve can be read back, and how well it reads its own standards."""

from dataclasses import dataclass

import numpy as np

from dosis.core.inference.result import Fit

POINTS = 200


@dataclass(frozen=True, slots=True)
class WorkingRange:
    """Where the standard error of a read-back concentration is at most a share of it; None ends where nowhere."""

    low: float | None
    high: float | None
    cv: float
    reason: str = ""


def working_range(curve: Fit, cv: float = 0.2, *, readings: int = 1) -> WorkingRange:
    """The widest range without a gap within the standards in which the read-back CV stays at or below `cv`.

    The CV at x is that of the mean of `readings` readings at the signal the curve has there, both sources of variance
    counted, over x. Ends are refined between the points of a grid.

    Raises
    ------
    ValueError : for a CV not above zero.
    """
    if not cv > 0:
        raise ValueError(f"The CV must be above zero; here it is {cv:g}.")
    low, high = curve.range
    above = curve.x[curve.x > 0]
    if not above.size:
        return WorkingRange(None, None, cv, "no standard is above zero")
    first = float(above.min())
    start = first / 10 if low == 0 else first
    grid = np.geomspace(start, high, POINTS)
    found = np.array([_cv(curve, float(x), readings) for x in grid])
    good = found <= cv
    if not good.any():
        return WorkingRange(None, None, cv, f"the read-back CV is above {100 * cv:g} % everywhere")
    edges = np.flatnonzero(np.diff(np.concatenate(([0], good.view(np.int8), [0]))))
    runs = edges.reshape(-1, 2)
    begin, end = runs[np.argmax(np.log(grid[runs[:, 1] - 1]) - np.log(grid[runs[:, 0]]))]
    return WorkingRange(
        float(grid[begin]) if begin == 0 else _edge(curve, grid[begin - 1], grid[begin], cv, readings),
        float(grid[end - 1]) if end == grid.size else _edge(curve, grid[end], grid[end - 1], cv, readings), cv,
    )  # fmt: skip


def _cv(curve: Fit, x: float, readings: int) -> float:
    back = curve.read_back(float(curve.predict(x)[0]), n=readings)
    if back.estimate is None or back.standard_error is None or not back.estimate > 0:
        return np.inf
    return back.standard_error / back.estimate


def _edge(curve: Fit, bad: float, good: float, cv: float, readings: int) -> float:
    for _ in range(40):
        middle = float(np.sqrt(bad * good))
        if _cv(curve, middle, readings) <= cv:
            good = middle
        else:
            bad = middle
    return float(good)


@dataclass(frozen=True, slots=True)
class BackCalculated:
    """A standard read back from the curve it helped to make; recovery is a fraction, None at zero or without it."""

    nominal: float
    found: float | None
    recovery: float | None


def back_calculated(curve: Fit) -> list[BackCalculated]:
    """Every level of the standards, read back from its mean reading, in rising order."""
    at = curve.places
    standards = []
    for i, nominal in enumerate(at.levels.tolist()):
        mine = at.group == i
        found = curve.read_back(float(np.average(curve.y[mine], weights=curve.weights[mine]))).estimate
        standards.append(BackCalculated(nominal, found, found / nominal if found is not None and nominal else None))
    return standards
