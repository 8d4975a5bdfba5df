"""The steepest part of a course without a model: the greatest slope of a line through a few neighboring points."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows


@dataclass(frozen=True)
class Steepest:
    """Of every course (courses,): the slope with its standard error, and the middle of the points it is taken over.

    at, level : x and y there. lag : where the line through that place meets the level of the beginning. All NaN where a
    course has too few points.
    """

    slope: Array
    slope_error: Array
    at: Array
    level: Array
    lag: Array


def steepest(x: ArrayLike, y: ArrayLike, points: int = 5, *, falling: bool = False) -> Steepest:
    """Slide a line of so many neighboring points along every course and keep the steepest.

    The lag is where that line reaches the level at the beginning, as the tangent at the inflection does (Zwietering et
    al. 1990, Appl. Environ. Microbiol. 56, 1875): at + (start − level)/slope, start the mean of the first three points.
    Being the greatest of many, the slope is on noisy courses a little too steep; more points make that less.

    Parameters
    ----------
    x : (n,) rising. y : (courses, n), NaN where a reading is missing; a window is of `points` places of x, of which
    at least three must be there. falling : look for the steepest fall.

    Raises
    ------
    ValueError : for fewer than 3 points.
    """
    if points < 3:
        raise ValueError(f"A slope is taken over at least 3 neighboring points; {points} were asked for.")
    xs, ys = np.asarray(x, dtype=float), np.atleast_2d(np.asarray(y, dtype=float))
    courses, n = ys.shape
    if n < points:
        none = np.full(courses, np.nan)
        return Steepest(none, none, none, none, none)
    there = np.isfinite(ys)
    filled = np.where(there, ys, 0.0)
    origin = filled.sum(axis=1) / np.maximum(there.sum(axis=1), 1)
    filled = np.where(there, ys - origin[:, None], 0.0)
    w = there.astype(float)
    middle = (xs[0] + xs[-1]) / 2
    xc = xs - middle
    count, sx, sy = (_sums(each, points) for each in (w, w * xc, filled))
    sxx, sxy, syy = (_sums(each, points) for each in (w * xc * xc, filled * xc, filled * filled))
    with np.errstate(all="ignore"):
        about = sxx - sx * sx / count
        slope = (sxy - sx * sy / count) / about
        sse = np.maximum(syy - sy * sy / count - slope * slope * about, 0.0)
        error = np.sqrt(sse / np.maximum(count - 2, 1) / about)
    slope = np.where((count >= 3) & (about > 0), slope, np.nan)
    best: Rows = np.argmax(np.where(np.isnan(slope), -np.inf, -slope if falling else slope), axis=1)
    row = np.arange(courses)
    first = np.array([np.nanmean(each[np.isfinite(each)][:3]) if np.isfinite(each).any() else np.nan for each in ys])
    with np.errstate(all="ignore"):
        at = sx[row, best] / count[row, best] + middle
        level = sy[row, best] / count[row, best] + origin
        found = slope[row, best]
        lag = at + (first - level) / found
    return Steepest(found, error[row, best], at, level, lag)


def _sums(values: Array, points: int) -> Array:
    """Sums of every `points` neighbors, (courses, n − points + 1)."""
    total = np.concatenate([np.zeros((len(values), 1)), np.cumsum(values, axis=1)], axis=1)
    summed: Array = total[:, points:] - total[:, :-points]
    return summed
