"""The range in which a sigmoid reads back precisely, compiled."""

import math

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.band import on_band, spread_at
from dosis.core.fitting.sigmoids.compiled import compiled

MOST = 100
CLOSE = 1e-10  # of ln x: two ends that are one
ENDLESS = 1e9  # a CV that is as good as none


@compiled
def cv_at(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, x: float, spread: float, by_y: int, by_x: int
) -> float:
    """Standard error of the x read back at the signal the curve has there, over x.

    p, root : as for `on_band`; spread : variance of the signal read, of weight one, for which y^by_y · x^by_x stands.
    """
    value, variance, slope = on_band(form, logarithmic, inverse, p, root, x)
    cv = math.sqrt(max(spread_at(spread, value, x, by_y, by_x) + variance, 0.0)) / abs(slope) / x
    return cv if cv < ENDLESS else ENDLESS


@compiled
def range_within(
    form: int, logarithmic: bool, inverse: bool, p: Array, root: Array, grid: Array, most: float, spread: float,
    by_y: int, by_x: int,
) -> tuple[float, float]:  # fmt: skip
    """Lowest and highest x of the widest run of a rising grid (n,) in which the CV is at most `most`; NaN for none.

    Arguments as for `cv_at`. The ends are refined between points of the grid.
    """
    begin, first, last, widest = -1, -1, -1, -1.0
    for i in range(grid.size + 1):
        good = False
        if i < grid.size:
            good = cv_at(form, logarithmic, inverse, p, root, grid[i], spread, by_y, by_x) <= most
        if good and begin < 0:
            begin = i
        if not good and begin >= 0:
            width = math.log(grid[i - 1] / grid[begin])
            if width > widest:
                first, last, widest = begin, i - 1, width
            begin = -1
    if first < 0:
        return math.nan, math.nan
    ends = [grid[first], grid[last]]
    for side in range(2):
        beyond = grid[max(first - 1, 0)] if side == 0 else grid[min(last + 1, grid.size - 1)]
        near, far = math.log(ends[side]), math.log(beyond)
        if near == far:
            continue
        at_near = cv_at(form, logarithmic, inverse, p, root, ends[side], spread, by_y, by_x) - most
        at_far = cv_at(form, logarithmic, inverse, p, root, beyond, spread, by_y, by_x) - most
        # Regula falsi in the Illinois form (Dowell & Jarratt 1971), with a bisection at every third turn.
        for turn in range(MOST):
            if abs(far - near) <= CLOSE or at_near == 0:
                break
            middle = near - at_near * (far - near) / (at_far - at_near) if turn % 3 else 0.5 * (near + far)
            found = cv_at(form, logarithmic, inverse, p, root, math.exp(middle), spread, by_y, by_x) - most
            if found > 0:
                far, at_far, at_near = middle, found, 0.5 * at_near
            else:
                near, at_near, at_far = middle, found, 0.5 * at_far
        ends[side] = math.exp(near)
    return ends[0], ends[1]
