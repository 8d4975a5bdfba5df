"""Smoothing and derivatives of scans by a polynomial through each window of points (Savitzky & Golay 1964)."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows

MOST = 2_000_000  # numbers of the windows that are worked on at once


def smoothed(x: ArrayLike, y: ArrayLike, window: int = 7, degree: int = 2, derivative: int = 0) -> Array:
    """Every scan as the polynomials through its windows have it, or their derivative, in units of y over x to it.

    The points need not be evenly spaced; where they are, this is Savitzky–Golay smoothing (Savitzky & Golay 1964, Anal.
    Chem. 36, 1627; corrected by Steinier et al. 1972). At the ends the polynomial of the outermost window is used, so
    that nothing is lost or invented.

    Parameters
    ----------
    x : (n,) rising. y : (n,) or (scans, n). window : odd number of points. degree : of the polynomial.

    Raises
    ------
    ValueError : for an even window, one longer than the scan, or a degree the window cannot carry.

    Example
    -------
    ``smoothed([0, 1, 2, 3, 4], [0, 1, 4, 9, 16], 5, 2, derivative=1)`` is ``[0, 2, 4, 6, 8]``.
    """
    xs, ys = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
    many = np.atleast_2d(ys)
    weights, starts = _weights(xs, window, degree, derivative)
    found = np.empty_like(many)
    at = starts[:, None] + np.arange(window)
    some = max(1, MOST // at.size)
    for first in range(0, len(many), some):
        rows = slice(first, first + some)
        found[rows] = np.einsum("nw,rnw->rn", weights, many[rows][:, at])
    smooth: Array = found if ys.ndim > 1 else found[0]
    return smooth


def _weights(x: Array, window: int, degree: int, derivative: int) -> tuple[Array, Rows]:
    """What each point of the window about each place counts for, (n, window), and where the windows begin, (n,)."""
    if window % 2 == 0 or window < 3:
        raise ValueError(f"The window must be an odd number of points, at least 3; here it is {window}.")
    if window > x.size:
        raise ValueError(f"The window of {window} points is longer than the scan of {x.size}.")
    if not 0 <= derivative <= degree < window:
        raise ValueError(f"A window of {window} points carries a degree from {derivative} to {window - 1}.")
    starts = np.clip(np.arange(x.size) - window // 2, 0, x.size - window)
    inside = x[starts[:, None] + np.arange(window)]
    scale = (inside[:, -1] - inside[:, 0]) / 2
    # About the place itself, so that the coefficient of the derivative's power is all that is needed.
    powers = ((inside - x[:, None]) / scale[:, None])[:, :, None] ** np.arange(degree + 1)
    factor = math.factorial(derivative) / scale**derivative
    return factor[:, None] * np.linalg.pinv(powers)[:, derivative], starts
