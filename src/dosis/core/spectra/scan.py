"""A scan as every function of spectra takes it: wavelengths and values, checked and in rising order."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array


def scan(wavelength: ArrayLike, value: ArrayLike, least: int = 2) -> tuple[Array, Array]:
    """(n,) both, rising in wavelength.

    Raises
    ------
    ValueError : for unequal lengths, numbers that are not finite, a wavelength that stands twice, or too few points.
    """
    x, y = np.atleast_1d(np.asarray(wavelength, dtype=float)), np.atleast_1d(np.asarray(value, dtype=float))
    if x.ndim != 1 or x.shape != y.shape:
        raise ValueError(f"A scan has one value a wavelength; here are {x.size} wavelengths and {y.size} values.")
    if x.size < least:
        raise ValueError(f"At least {least} points of the scan are needed; there are {x.size}.")
    if not (np.isfinite(x).all() and np.isfinite(y).all()):
        raise ValueError("Every wavelength and value of a scan must be a finite number.")
    order = np.argsort(x, kind="stable")
    x, y = x[order], y[order]
    if (np.diff(x) == 0).any():
        raise ValueError(f"The wavelength {x[:-1][np.diff(x) == 0][0]:g} stands in the scan twice.")
    return x, y
