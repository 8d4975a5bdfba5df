"""Where the band of a sigmoid lets a signal go: the ends of intervals read back, for many signals at once, compiled."""

import math

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.minimum import curve_at

MOST = 200
CLOSE = 1e-13  # of an x, two ends of a bracket that are one


@inlined
def on_band(form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, x: float) -> tuple[float, float, float]:
    """The curve at x, the variance of its mean there, and its slope.

    p : as for `curve_at`; root : (q, 5), of which the squares of root·gradient add up to the variance.
    """
    value, slope, by_lower, by_upper, by_place, by_steepness, by_power = curve_at(form, logarithmic, inverse, p, x)
    variance = 0.0
    for q in range(len(root)):
        part = (
            root[q, 0] * by_lower + root[q, 1] * by_upper + root[q, 2] * by_place + root[q, 3] * by_steepness
            + root[q, 4] * by_power
        )  # fmt: skip
        variance += part * part
    return value, variance, slope


@compiled
def read_by_band(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, signals: Array, spreads: Array, quantile: float,
    x: Array, grid: Array,
) -> Array:  # fmt: skip
    """Lower and upper end of the x around each estimate at which the band still holds the signal, NaN for none.

    And in the last of three columns (m, 3) the first-order standard error of the estimate.

    signals, spreads, x : (m,) what was read, its variance, and the x it belongs to; grid : rising x at which to look
    for the first that is outside. p, root : see `on_band`; spreads and root for the same residual variance.
    """
    values, variances = np.full(grid.size, np.nan), np.empty(grid.size)
    ends = np.full((signals.size, 3), np.nan)
    for k in range(signals.size):
        _, variance, slope = on_band(form, logarithmic, inverse, p, root, x[k])
        ends[k, 2] = math.sqrt(max(spreads[k] + variance, 0.0)) / abs(slope)
        for side in range(2):
            step = -1 if side == 0 else 1
            i = np.searchsorted(grid, x[k]) - 1 if side == 0 else np.searchsorted(grid, x[k], side="right")
            near = x[k]
            at_near = -quantile * math.sqrt(spreads[k] + variance)
            while 0 <= i < grid.size:
                if math.isnan(values[i]):
                    values[i], variances[i], _ = on_band(form, logarithmic, inverse, p, root, grid[i])
                at_far = abs(values[i] - signals[k]) - quantile * math.sqrt(spreads[k] + variances[i])
                if at_far > 0:
                    ends[k, side] = crossing(
                        form, logarithmic, inverse, p, root, signals[k], quantile, spreads[k], near, grid[i], at_near,
                        at_far,
                    )  # fmt: skip
                    break
                near, at_near = grid[i], at_far
                i += step
    return ends


@compiled
def bands_along(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, x: Array, quantile: float, spread: float,
    by_y: int, by_x: int,
) -> Array:  # fmt: skip
    """(5, n): the curve at every x (n,), the band of its mean (lower, upper), and that of one more reading.

    spread : variance of a reading of weight one, for which y^by_y · x^by_x stands. Others as for `on_band`.
    """
    found = np.empty((5, x.size))
    for i in range(x.size):
        value, variance, _ = on_band(form, logarithmic, inverse, p, root, x[i])
        half = quantile * math.sqrt(max(variance, 0.0))
        one = quantile * math.sqrt(max(variance + spread_at(spread, value, x[i], by_y, by_x), 0.0))
        found[0, i], found[1, i], found[2, i] = value, value - half, value + half
        found[3, i], found[4, i] = value - one, value + one
    return found


@inlined
def spread_at(spread: float, y: float, x: float, by_y: int, by_x: int) -> float:
    """The variance of a reading there."""
    for _ in range(by_y):
        spread *= abs(y)
    for _ in range(by_x):
        spread *= x
    return spread


@compiled
def along_band(form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, x: Array) -> Array:
    """(3, n): the curve at every x (n,), the variance of its mean there, and its slope. Arguments as for `on_band`."""
    found = np.empty((3, x.size))
    for i in range(x.size):
        found[0, i], found[1, i], found[2, i] = on_band(form, logarithmic, inverse, p, root, x[i])
    return found


@inlined
def crossing(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, signal: float, quantile: float, spread: float,
    near: float, far: float, at_near: float, at_far: float,
) -> float:  # fmt: skip
    """The x between one inside and one outside at which the signal leaves the band, to thirteen digits.

    at_near, at_far : by how much it is outside there, below and above zero.
    Inverse quadratic interpolation where it is safe, else bisection (Chandrupatla 1997, Adv. Eng. Softw. 28, 145).
    """
    if not at_near < 0:
        return near
    a, b, at_a, at_b = far, near, at_far, at_near
    share = at_far / (at_far - at_near)
    for _ in range(MOST):
        middle = a + share * (b - a)
        value, variance, _ = on_band(form, logarithmic, inverse, p, root, middle)
        found = abs(value - signal) - quantile * math.sqrt(spread + variance)
        if (found > 0) == (at_a > 0):
            c, at_c = a, at_a
        else:
            c, b, at_c, at_b = b, a, at_b, at_a
        a, at_a = middle, found
        best = a if abs(at_a) < abs(at_b) else b
        least = CLOSE * abs(best) / abs(b - c)
        if at_a == 0 or least > 0.5:
            return best
        along, apart = (a - b) / (c - b), (at_a - at_b) / (at_c - at_b)
        share = 0.5
        if apart * apart < along and (1 - apart) * (1 - apart) < 1 - along:
            share = at_a / (at_b - at_a) * at_c / (at_b - at_c) + (c - a) / (b - a) * at_a / (at_c - at_a) * at_b / (
                at_c - at_b
            )
        if not least < share < 1 - least:
            return best  # the next would be as near as the digits asked for
    return a
