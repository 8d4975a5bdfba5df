"""Corrections of a scan: a baseline, and scattered light."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.spectra.scan import scan


@dataclass(frozen=True)
class Scatter:
    """The scan less its scatter, and the scatter itself, scale·wavelength^(−exponent)."""

    wavelength: Array
    corrected: Array
    scattered: Array
    scale: float
    exponent: float


def scatter(wavelength: ArrayLike, value: ArrayLike, low: float, high: float) -> Scatter:
    """Take off light lost by scattering, judged where nothing absorbs, between `low` and `high`.

    There log(value) falls on a straight line against log(wavelength) (Leach & Scheraga 1960, J. Am. Chem. Soc. 82,
    4790); its continuation is subtracted everywhere.

    Raises
    ------
    ValueError : when fewer than 3 points lie in that range, or one is not above zero.
    """
    x, y = scan(wavelength, value)
    quiet = (x >= low) & (x <= high)
    if quiet.sum() < 3 or (y[quiet] <= 0).any() or (x <= 0).any():
        raise ValueError(
            f"Scatter is judged from at least 3 points with values above zero between {low:g} and {high:g}; "
            f"there are {int((quiet & (y > 0)).sum())}."
        )
    slope, height = np.polyfit(np.log(x[quiet]), np.log(y[quiet]), 1)
    lost = np.exp(height + slope * np.log(x))
    return Scatter(x, y - lost, lost, float(np.exp(height)), float(-slope))


def polynomial_baseline(
    wavelength: ArrayLike, values: ArrayLike, windows: Sequence[tuple[float, float]], degree: int = 1
) -> tuple[Array, Array]:
    """A polynomial through the points of the windows, where nothing absorbs, by least squares; taken off everywhere.

    Parameters
    ----------
    wavelength : (n,) rising. values : (scans, n). windows : ends of each, both inside.

    Returns
    -------
    Values less their baseline, and the baselines, (scans, n) both.

    Raises
    ------
    ValueError : when fewer points lie in the windows than the polynomial has coefficients.
    """
    x, y = np.asarray(wavelength, dtype=float), np.atleast_2d(np.asarray(values, dtype=float))
    inside = np.zeros(x.size, dtype=bool)
    for low, high in windows:
        inside |= (x >= min(low, high)) & (x <= max(low, high))
    if inside.sum() <= degree:
        raise ValueError(
            f"A baseline of degree {degree} needs at least {degree + 1} points of the scan in its windows; there are "
            f"{int(inside.sum())}."
        )
    middle, half = (x[0] + x[-1]) / 2, max((x[-1] - x[0]) / 2, np.finfo(float).tiny)
    powers = np.vander((x - middle) / half, degree + 1, increasing=True)
    coefficients = np.linalg.lstsq(powers[inside], y[:, inside].T, rcond=None)[0]
    under: Array = (powers @ coefficients).T
    return y - under, under
