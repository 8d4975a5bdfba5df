"""The kinds of array the core works with, and the one that is made most."""

import math

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
