"""Which points of a long course are drawn, so that it looks as it would with all of them."""

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.run.outcome.courses import CourseLine, CoursesWanted


def thinned(x: Array, y: Array, most: int) -> Rows:
    """Indices of at most so many points, in order: of each stretch of x the first, least, greatest and last.

    x : rising; y : finite. All of them where there are no more than `most`.
    """
    if x.size <= most:
        return np.arange(x.size)
    parts = max(most // 4, 1)
    edges = np.searchsorted(x, np.linspace(x[0], x[-1], parts + 1))
    starts = np.unique(edges[:-1])
    ends = np.append(starts[1:], x.size)
    keep = np.zeros(x.size, dtype=bool)
    keep[starts], keep[ends - 1] = True, True
    part = np.repeat(np.arange(starts.size), ends - starts)
    for ends_of in (np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)):
        at = np.flatnonzero(y == ends_of[part])
        keep[at[np.diff(part[at], prepend=-1) > 0]] = True  # the first of each stretch, where several are alike
    return np.flatnonzero(keep)


def course_line(key: str, reading: int, x: Array, y: Array, most: int) -> CourseLine:
    """A course as a line of at most so many points; NaN in y is left out. x : (n,), rising. y : (n,)."""
    there = np.isfinite(y)
    x, y = x[there], y[there]
    at = thinned(x, y, most)
    return CourseLine(key, reading, tuple(x[at].tolist()), tuple(y[at].tolist()))


def seen(x: Array, wanted: CoursesWanted) -> slice:
    """Which places of a rising axis lie between the wanted ends; one more on either side, so that lines reach them."""
    first, last = np.searchsorted(x, [wanted.low, wanted.high])
    return slice(max(int(first) - 1, 0), int(last) + 1)
