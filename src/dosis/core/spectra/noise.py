"""How much a scan trembles from point to point, whatever it shows."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array

LEAST = 8  # points from which noise is told


def noise_of(values: ArrayLike) -> Array:
    """Standard deviation of the noise of each scan, (scans,); NaN where there are fewer than eight points.

    By third differences, in which a smooth curve leaves next to nothing: each has 20 times the variance of a point. Of
    their sizes the median is taken, so that the flanks of sharp peaks do not count (the difference method, von Neumann
    1941, with the median for the mean).

    values : (n,) or (scans, n) of evenly spaced points.
    """
    y = np.atleast_2d(np.asarray(values, dtype=float))
    if y.shape[1] < LEAST:
        return np.full(len(y), np.nan)
    differences = np.diff(y, n=3, axis=1)
    sd: Array = np.median(np.abs(differences), axis=1) / 0.6745 / np.sqrt(20.0)
    return sd
