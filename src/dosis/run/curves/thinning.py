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
    # The least and the greatest of every stretch: sorted by stretch, then by y, they stand first and last.
    part = np.repeat(np.arange(starts.size), ends - starts)
    order = np.lexsort((y, part))
    keep[order[starts]], keep[order[ends - 1]] = True, True
    return np.flatnonzero(keep)
