"""Which readings share an x: found once and quickly, because every statistic on replicates begins with it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True)
class Places:
    """levels : (k,) distinct x, rising; group : (n,) place of each reading among them."""

    levels: NDArray[np.float64]
    group: NDArray[np.intp]


def places(x: NDArray[np.float64]) -> Places:
    """The distinct x of readings (n,)."""
    order = x.argsort(kind="stable")
    rising = x[order]
    new = np.empty(x.size, dtype=bool)
    new[:1] = True
    np.not_equal(rising[1:], rising[:-1], out=new[1:])
    group = np.empty(x.size, dtype=np.intp)
    group[order] = new.cumsum() - 1
    return Places(rising[new], group)
