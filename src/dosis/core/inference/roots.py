"""Where a function of one variable changes sign."""

from collections.abc import Callable

import numpy as np

from dosis.core.arrays import Array, Rows


def bisect(function: Callable[[float], float], low: float, high: float) -> float:
    """The root between `low` and `high`, where the signs differ, to the last bit that matters.

    Regula falsi in the Illinois form (Dowell & Jarratt 1971), with a bisection whenever it dawdles.
    """
    at_low, at_high = function(low), function(high)
    if at_low == 0:
        return low
    if at_high == 0:
        return high
    for turn in range(200):
        middle = high - at_high * (high - low) / (at_high - at_low) if turn % 3 else (low + high) / 2
        if not low < middle < high:
            middle = (low + high) / 2
        value = function(middle)
        if value == 0 or high - low <= 4e-16 * max(abs(low), abs(high)):
            return middle
        if (value > 0) == (at_low > 0):
            low, at_low, at_high = middle, value, at_high / 2
        else:
            high, at_high, at_low = middle, value, at_low / 2
    return (low + high) / 2


def bisect_all(function: Callable[[Array, Rows], Array], low: Array, high: Array) -> Array:
    """The roots between every `low` and `high`, (m,) each, as `bisect` finds one.

    function : (x, rows) → values, for the brackets of those rows.
    """
    low, high = low.astype(float), high.astype(float)
    everything = np.arange(low.size)
    at_low, at_high = function(low, everything), function(high, everything)
    root = np.where(at_low == 0, low, np.where(at_high == 0, high, np.nan))
    rows = np.flatnonzero(np.isnan(root))
    last = np.full(low.size, np.inf)
    for turn in range(1, 201):
        if not rows.size:
            break
        a, b, fa, fb = low[rows], high[rows], at_low[rows], at_high[rows]
        middle = b - fb * (b - a) / (fb - fa) if turn % 3 else (a + b) / 2
        middle = np.where((a < middle) & (middle < b), middle, (a + b) / 2)
        value = function(middle, rows)
        left = (value > 0) == (fa > 0)
        low[rows], high[rows] = np.where(left, middle, a), np.where(left, b, middle)
        at_low[rows], at_high[rows] = np.where(left, value, fa / 2), np.where(left, fb / 2, value)
        # A secant that no longer moves the root is as close as rounding lets it come.
        still = (np.abs(middle - last[rows]) <= 4e-16 * np.abs(middle)) & bool(turn % 3)
        last[rows] = middle
        done = (value == 0) | still | (b - a <= 4e-16 * np.maximum(np.abs(a), np.abs(b)))
        root[rows[done]] = middle[done]
        rows = rows[~done]
    root[rows] = (low[rows] + high[rows]) / 2
    return root


def outward(
    excess: Callable[[float], float], centre: float, step: float, first: float, furthest: float = 40.0
) -> tuple[float | None, float | None]:
    """Both sides at which `excess`, below zero at the centre, turns positive; None where none does within reach.

    step : the scale, such as a standard error; first and furthest : steps at which to look at first and at last.
    """

    def end(direction: float) -> float | None:
        near, far = 0.0, first
        while far <= furthest:
            if excess(centre + direction * far * step) > 0:
                return bisect(excess, *sorted((centre + direction * near * step, centre + direction * far * step)))
            near, far = far, far * 1.6
        return None

    return end(-1.0), end(1.0)
