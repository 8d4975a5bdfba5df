"""Where a function of one variable changes sign."""

from collections.abc import Callable

import numpy as np

from dosis.core.arrays import Array


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


def crossings(function: Callable[[Array], Array], grid: Array) -> list[float]:
    """Every root that the grid shows, refined."""
    values = function(grid)
    sign = np.sign(values)
    found = [float(grid[i]) for i in np.flatnonzero(sign == 0)]

    def at(x: float) -> float:
        return float(function(np.array([x]))[0])

    for i in np.flatnonzero(sign[:-1] * sign[1:] < 0):
        found.append(bisect(at, float(grid[i]), float(grid[i + 1])))
    return sorted(found)


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
