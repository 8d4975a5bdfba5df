"""Where the band of a sigmoid lets a signal go: the ends of intervals read back, for many signals at once, compiled."""

import math

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.shape import LOGISTIC, POWERED, gumbel, logistic, powered

EDGE = 1e15  # |u| beyond which nothing changes, whatever the power
MOST = 200


@inlined
def on_band(form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, x: float) -> tuple[float, float, float]:
    """The curve at x, the variance of its mean there, and its slope.

    p : (5,) lower, upper, place, steepness and power; root : (q, 5), of which the squares of root·gradient add up to
    the variance.
    """
    lower, upper, place, steepness, g = p[0], p[1], p[2], p[3], p[4]
    rise, slope = upper - lower, 1.0 / steepness if inverse else steepness
    t = math.log(x) - math.log(place) if logarithmic else x - place
    u = min(max(slope * t, -EDGE), EDGE)
    by_power = 0.0
    if form == POWERED:
        (h, less, first, _), (by_power, _, _) = powered(0.0, u, g)
    elif form == LOGISTIC:
        h, less, first, _ = logistic(u)
    else:
        h, less, first, _ = gumbel(form, u)
    first *= rise
    tilt = first * t if math.isfinite(t) else 0.0
    by_place = -slope * first / (place if logarithmic else 1.0)
    by_steepness = -tilt * slope * slope if inverse else tilt
    variance = 0.0
    for q in range(len(root)):
        part = (
            -root[q, 0] * less + root[q, 1] * h + root[q, 2] * by_place + root[q, 3] * by_steepness
            + root[q, 4] * rise * by_power / g
        )  # fmt: skip
        variance += part * part
    return lower + rise * h, variance, slope * first / (x if logarithmic else 1.0)


@compiled
def ends_by_band(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, signals: Array, spreads: Array, quantile: float,
    x: Array, grid: Array,
) -> Array:  # fmt: skip
    """Lower and upper end (m, 2) of the x around each estimate at which the band still holds the signal; NaN: none.

    signals, spreads, x : (m,) what was read, its variance, and the x it belongs to; grid : rising x at which to look
    for the first that is outside. p, root : see `on_band`; spreads and root for the same residual variance.
    """
    square = quantile * quantile
    values, variances = np.empty(grid.size), np.empty(grid.size)
    for i in range(grid.size):
        values[i], variances[i], _ = on_band(form, logarithmic, inverse, p, root, grid[i])
    ends = np.full((signals.size, 2), np.nan)
    for k in range(signals.size):
        for side in range(2):
            step = -1 if side == 0 else 1
            i = np.searchsorted(grid, x[k]) - 1 if side == 0 else np.searchsorted(grid, x[k], side="right")
            near = x[k]
            while 0 <= i < grid.size:
                gap = values[i] - signals[k]
                if gap * gap - square * (spreads[k] + variances[i]) > 0:
                    ends[k, side] = crossing(
                        form, logarithmic, inverse, p, root, signals[k], square, spreads[k], near, grid[i]
                    )
                    break
                near = grid[i]
                i += step
    return ends


@compiled
def along_band(form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, x: Array) -> Array:
    """(3, n): the curve at every x (n,), the variance of its mean there, and its slope. Arguments as for `on_band`."""
    found = np.empty((3, x.size))
    for i in range(x.size):
        found[0, i], found[1, i], found[2, i] = on_band(form, logarithmic, inverse, p, root, x[i])
    return found


@inlined
def crossing(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, signal: float, square: float, spread: float,
    near: float, far: float,
) -> float:  # fmt: skip
    """The x between one inside and one outside at which the signal leaves the band, to the last bit that matters.

    Regula falsi in the Illinois form (Dowell & Jarratt 1971), with a bisection at every third turn.
    """
    value, variance, _ = on_band(form, logarithmic, inverse, p, root, near)
    at_near = (value - signal) * (value - signal) - square * (spread + variance)
    value, variance, _ = on_band(form, logarithmic, inverse, p, root, far)
    at_far = (value - signal) * (value - signal) - square * (spread + variance)
    for turn in range(MOST):
        if not at_near < 0 or abs(far - near) <= 4e-16 * max(abs(near), abs(far)):
            break
        middle = far - at_far * (far - near) / (at_far - at_near) if turn % 3 else 0.5 * (near + far)
        if not min(near, far) < middle < max(near, far):
            middle = 0.5 * (near + far)
        value, variance, _ = on_band(form, logarithmic, inverse, p, root, middle)
        found = (value - signal) * (value - signal) - square * (spread + variance)
        if found > 0:
            far, at_far, at_near = middle, found, 0.5 * at_near
        else:
            near, at_near, at_far = middle, found, 0.5 * at_far
    return near
