"""Over which range a curve can be read back, and how well it reads its own standards."""

from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Flags, Rows, geometric
from dosis.core.inference.result import Fit
from dosis.core.inference.roots import bisect_all

POINTS = 120


@dataclass(frozen=True, slots=True)
class WorkingRange:
    """Where the standard error of a read-back concentration is at most a share of it; None ends where nowhere."""

    low: float | None
    high: float | None
    cv: float
    reason: str = ""


def working_range(curve: Fit, cv: float = 0.2, *, readings: int = 1) -> WorkingRange:
    """The widest range without a gap in which the read-back CV stays at or below `cv`.

    It lies between the lowest standard above zero and the highest.

    The CV at x is that of the mean of `readings` readings at the signal the curve has there, both sources of variance
    counted, over x. Ends are refined between the points of a grid.

    Raises
    ------
    ValueError : for a CV not above zero.
    """
    if not cv > 0:
        raise ValueError(f"The CV must be above zero; here it is {cv:g}.")
    above = curve.x[curve.x > 0]
    if not above.size:
        return WorkingRange(None, None, cv, "no standard is above zero")
    grid = geometric(float(above.min()), curve.range[1], POINTS)
    if curve.has_sigmoid_band and curve.variance_rule is not None:
        return _of_sigmoid(curve, grid, cv, readings)
    found = _cvs(curve, grid, readings)
    good = (found <= cv) & ~_twice(curve, grid)
    if not good.any():
        return WorkingRange(None, None, cv, _nowhere(cv))
    edges = np.flatnonzero(np.diff(np.concatenate(([0], good.view(np.int8), [0]))))
    runs = edges.reshape(-1, 2)
    begin, end = runs[np.argmax(np.log(grid[runs[:, 1] - 1]) - np.log(grid[runs[:, 0]]))]
    outside = grid[[max(begin - 1, 0), min(end, grid.size - 1)]]
    low, high = _edges(curve, outside, grid[[begin, end - 1]], cv, readings)
    return WorkingRange(low, high, cv)


def _of_sigmoid(curve: Fit, grid: Array, cv: float, readings: int) -> WorkingRange:
    """The same in compiled loops; a sigmoid never turns round."""
    from dosis.core.fitting.sigmoids.precise import range_within

    if curve.settled is not None and curve.rmse is not None and curve.variance_rule is not None:
        spread = curve.rmse * curve.rmse / readings
        low, high = range_within(*curve.as_sigmoid, grid, cv, spread, *curve.variance_rule)
        if low <= high:
            return WorkingRange(low, high, cv)
    return WorkingRange(None, None, cv, _nowhere(cv))


def _nowhere(cv: float) -> str:
    return f"the read-back CV is above {100 * cv:g} % everywhere"


@np.errstate(all="ignore")
def _cvs(curve: Fit, x: Array, readings: int) -> Array:
    """Standard error of the x read back at the signal the curve has there, over x (n,): first order, both variances."""
    rmse = curve.rmse
    if curve.settled is None or rmse is None:
        return np.full(x.size, np.inf)
    signal, band, slope = curve.along(x)
    factor = curve.variance_factor(signal, x)
    error = np.sqrt(np.maximum(rmse * rmse * factor / readings + band, 0.0)) / np.abs(slope)
    return np.where(np.isfinite(error), error / x, np.inf)


def _twice(curve: Fit, x: Array) -> Flags:
    """Where the curve turns round, so that its signal belongs to two x and none is read back."""
    inside = curve.predict(np.linspace(*curve.range, POINTS))
    if (np.diff(inside) >= 0).all() or (np.diff(inside) <= 0).all():
        return np.zeros(x.size, dtype=bool)
    sign = np.sign(inside[None, :] - curve.predict(x)[:, None])
    twice: Flags = np.count_nonzero(np.diff(sign, axis=1), axis=1) > 1
    return twice


def _edges(curve: Fit, outside: Array, inside: Array, cv: float, readings: int) -> tuple[float, float]:
    """The two x between those outside and inside at which the CV is just `cv`; those inside where it never is."""

    def excess(log_x: Array, _rows: Rows) -> Array:
        return np.minimum(_cvs(curve, np.exp(log_x), readings), 1e9) - cv

    found = np.exp(bisect_all(excess, np.log(outside), np.log(inside), relative=1e-10))
    low, high = np.where(np.isnan(found), inside, found).tolist()
    return low, high


@dataclass(frozen=True, slots=True)
class BackCalculated:
    """A standard read back from the curve it helped to make; recovery is a fraction, None at zero or without it."""

    nominal: float
    found: float | None
    recovery: float | None


def back_calculated(curve: Fit) -> list[BackCalculated]:
    """Every level of the standards, read back from its mean reading, in rising order."""
    at = curve.places
    means = [
        float(np.average(curve.y[at.group == i], weights=curve.weights[at.group == i])) for i in range(at.levels.size)
    ]
    return [
        BackCalculated(nominal, found, found / nominal if found is not None and nominal else None)
        for nominal, found in zip(at.levels.tolist(), curve.estimates(means), strict=True)
    ]
