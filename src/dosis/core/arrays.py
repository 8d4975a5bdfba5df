"""The kinds of array the core works with, and the one that is made most."""

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
Rows = NDArray[np.intp]


def geometric(low: float, high: float, count: int) -> Array:
    """`count` numbers from low to high, both above zero, in equal ratios; the ends are exact."""
    step = (math.log(high) - math.log(low)) / max(count - 1, 1)
    found: Array = np.exp(math.log(low) + step * np.arange(count))
    found[0], found[-1] = low, high
    return found


def alike(there: Flags) -> Iterator[tuple[Rows, Flags]]:
    """The rows of (courses, n) that have the same points, and these points (n,): they share their design."""
    of = np.zeros(len(there), dtype=np.intp)
    if (there != there[:1]).any():
        of = np.unique(np.packbits(there, axis=1), axis=0, return_inverse=True)[1].ravel()
    for pattern in range(int(of.max(initial=-1)) + 1):
        rows = np.flatnonzero(of == pattern)
        yield rows, there[rows[0]]
