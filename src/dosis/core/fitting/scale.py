"""The scale on which parameters are fitted: logarithmic for those above zero by their meaning."""

import numpy as np
from numpy.typing import NDArray

from dosis.core.arrays import Array

SMALL = 1e-280  # stands for zero where a logarithm is taken


def to_scale(values: Array, logarithmic: NDArray[np.bool_]) -> Array:
    """Parameters on the scale of the fit; the last axis is the parameters."""
    return np.where(logarithmic, np.log(np.maximum(values, SMALL)), values)


def from_scale(theta: Array, logarithmic: NDArray[np.bool_]) -> Array:
    """And back, short of overflow."""
    return np.where(logarithmic, np.exp(np.clip(theta, -650, 650)), theta)
