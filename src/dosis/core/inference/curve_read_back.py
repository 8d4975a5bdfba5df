"""Reading back through a curve: the x that gives a signal, its interval by inverting the band of the curve."""

import math
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.roots import bisect, crossings

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit

POINTS = 240


@np.errstate(all="ignore")
def read_back_through(fit: "Fit", signal: float, count: float, level: float, weight: float | None) -> ReadBack:
    """The x in the range of the standards, or a little outside with a flag, at which the curve gives `signal`.

    Both variances count, the curve's and the sample's; the interval holds every x whose band, of the mean of `count`
    readings, holds the signal. A signal that belongs to two x inside the range, or to none at all, has no estimate.
    """
    inside, below, above = _grids(fit)

    def gap(x: Array) -> Array:
        return fit.predict(x) - signal

    found = crossings(gap, inside)
    if len(found) > 1 and found[-1] - found[0] > 1e-9 * (abs(found[0]) + abs(found[-1])):
        reason = "the curve rises and falls, so the signal belongs to more than one concentration"
        return ReadBack(None, None, None, None, Flag.AMBIGUOUS, reason, count)
    low, high = fit.range
    flag, reason = None, ""
    if not found:
        rising = float(fit.predict(high)[0]) > float(fit.predict(low)[0])
        beyond = signal > max(float(fit.predict(low)[0]), float(fit.predict(high)[0]))
        flag = Flag.ABOVE_RANGE if rising == beyond else Flag.BELOW_RANGE
        reason = "above the top standard" if flag is Flag.ABOVE_RANGE else "below the lowest standard"
        found = crossings(gap, above if flag is Flag.ABOVE_RANGE else below)
        if not found:
            return ReadBack(None, None, None, None, flag, f"{reason}, beyond what the curve can reach", count)
    x = found[0]
    covariance, rmse = fit.settled, fit.rmse
    if covariance is None or rmse is None:
        why = "no interval without a spread of the standards"
        why = "no interval, because the standards leave part of the curve open" if rmse is not None else why
        return ReadBack(x, None, None, None, flag, reason or why, count)
    variance = rmse * rmse * (1 / weight if weight else fit.variance_factor(signal, x)) / count
    t = fit.t(level)

    def outside(at: Array) -> Array:
        at = np.atleast_1d(at)
        _, jacobian = fit.model.value_and_derivative(at, fit.values)
        band = np.einsum("ij,jk,ik->i", jacobian, covariance, jacobian)
        gap_squared: Array = np.square(fit.predict(at) - signal)
        left: Array = gap_squared - t * t * (variance + band)
        return left

    def edge(path: Array) -> float | None:
        past = np.flatnonzero(outside(path) > 0)
        if not past.size:
            return None
        stop = int(past[0])
        near = float(path[stop - 1]) if stop else x
        ends = sorted((near, float(path[stop])))
        return bisect(lambda at: float(outside(np.array([at]))[0]), *ends)

    everywhere = np.unique(np.concatenate((below, inside, above)))
    lower, upper = edge(everywhere[everywhere < x][::-1]), edge(everywhere[everywhere > x])
    slope = abs(float(fit.model.gradient(np.array([x]), fit.values)[0]))
    _, jacobian = fit.model.value_and_derivative(np.array([x]), fit.values)
    total = variance + float((jacobian @ covariance @ jacobian.T)[0, 0])
    if lower is None or upper is None:
        side = "on both sides" if lower is None and upper is None else "below" if lower is None else "above"
        reason = reason or f"the curve is too flat there, so the interval has no end {side}"
    return ReadBack(x, lower, upper, math.sqrt(max(total, 0.0)) / slope if slope else None, flag, reason, count)


def _grids(fit: "Fit") -> tuple[Array, Array, Array]:
    """Points inside the range of the standards, below and above it: logarithmic for a dose, even otherwise."""
    low, high = fit.range
    if fit.model.positive_x:
        levels = fit.x[fit.x > 0]
        first = float(levels.min()) if levels.size else high
        inside = np.geomspace(first, high, POINTS)
        below = np.geomspace(first / 100, first, POINTS // 4)
        if low == 0:
            inside, below = np.concatenate(([0.0], below, inside)), np.zeros(1)
        return inside, below, np.geomspace(high, high * 100, POINTS // 4)
    span = high - low
    return (
        np.linspace(low, high, POINTS),
        np.linspace(low - span, low, POINTS // 2),
        np.linspace(high, high + span, POINTS // 2),
    )
