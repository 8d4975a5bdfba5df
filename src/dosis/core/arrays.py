"""The kinds of array the core works with."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
Rows = NDArray[np.intp]
