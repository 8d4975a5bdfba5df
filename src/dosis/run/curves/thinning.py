"""Which points of a long course are drawn, so that it looks as it would with all of them."""

import numpy as np

from dosis.core.arrays import Array, Rows


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
