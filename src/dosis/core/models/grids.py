"""Candidate values for the parameters a model is not linear in, from the spread of x."""

import numpy as np

from dosis.core.arrays import Array


def positive(x: Array) -> Array:
    """The distinct x above zero, or 1 when there is none."""
    found = np.unique(x[x > 0])
    return found if found.size else np.ones(1)


def spread(x: Array, count: int) -> Array:
    """Values evenly spaced in logarithm, from a little below the lowest x above zero to a little above the highest."""
    levels = positive(x)
    lowest, highest = np.finfo(float).tiny, np.finfo(float).max / 9
    return np.geomspace(max(levels[0] / 3, lowest), min(levels[-1], highest) * 3, count)


def positive_quantiles(x: Array, count: int) -> Array:
    """Values among the x above zero, evenly spaced in logarithm."""
    levels = positive(x)
    return np.geomspace(levels[0], levels[-1], count) if levels.size > 1 else levels


def within(x: Array, count: int) -> Array:
    """Values evenly spaced from the lowest x to the highest."""
    return np.linspace(x.min(), x.max(), count)


def rates(x: Array, count: int) -> Array:
    """Rates whose times run from a tenth of the shortest step to twice the whole range of x."""
    levels = np.unique(x)
    whole = float(np.ptp(levels)) or 1.0
    step = float(np.diff(levels).min()) if levels.size > 1 else whole
    return np.geomspace(0.3 / whole, 5 / max(step, whole / 200), count)
