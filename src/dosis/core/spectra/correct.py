"""Corrections of a scan: a baseline, scattered light, noise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.spectra.scan import scan


def baseline(wavelength: ArrayLike, value: ArrayLike, first: float, second: float) -> tuple[Array, Array]:
    """Wavelengths and values less the straight line through the scan at two wavelengths.

    Raises
    ------
    ValueError : for wavelengths outside the scan, or the same twice.
    """
    x, y = scan(wavelength, value)
    if first == second or not (x[0] <= min(first, second) and max(first, second) <= x[-1]):
        raise ValueError(f"A baseline needs two different wavelengths within {x[0]:g} to {x[-1]:g}.")
    a, b = np.interp([first, second], x, y)
    return x, y - (a + (b - a) * (x - first) / (second - first))


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


def smooth(value: ArrayLike, window: int = 7, degree: int = 2, derivative: int = 0, spacing: float = 1.0) -> Array:
    """Savitzky–Golay smoothing of evenly spaced values (Savitzky & Golay 1964, Anal. Chem. 36, 1627).

    At the ends the polynomial of the outermost window is used, so that nothing is lost or invented.

    Parameters
    ----------
    value : (n,); window : odd number of points; degree : of the polynomial; derivative : its order, in units of
        1/spacing to that order.

    Raises
    ------
    ValueError : for an even window, one longer than the scan, or a degree the window cannot carry.
    """
    y = np.atleast_1d(np.asarray(value, dtype=float))
    if window % 2 == 0 or window < 3:
        raise ValueError(f"The window must be an odd number of points, at least 3; here it is {window}.")
    if window > y.size:
        raise ValueError(f"The window of {window} points is longer than the scan of {y.size}.")
    if not 0 <= derivative <= degree < window:
        raise ValueError(f"A window of {window} points carries a degree from {derivative} to {window - 1}.")
    reach = window // 2
    offsets = np.arange(-reach, reach + 1, dtype=float)
    powers = np.vander(offsets, degree + 1, increasing=True)
    fitted = np.linalg.pinv(powers)  # polynomial coefficients from the values of a window
    factor = float(np.prod(np.arange(1, derivative + 1))) / spacing**derivative
    result = np.empty_like(y)
    result[reach : y.size - reach] = factor * np.convolve(y, fitted[derivative][::-1], mode="valid")
    for first, places in ((0, range(reach)), (y.size - window, range(y.size - reach, y.size))):
        polynomial = np.polynomial.Polynomial(fitted @ y[first : first + window])
        for place in places:
            result[place] = polynomial.deriv(derivative)(place - first - reach) / spacing**derivative
    return result
