"""What is read off a scan: its highest point, its value at a wavelength, its area."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.spectra.noise import noise_of
from dosis.core.spectra.scan import scan

TOP = 0.05  # share of a peak whose points make its parabola


@dataclass(frozen=True, slots=True)
class Peak:
    """A maximum between the points; prominence is its height above the higher of the valleys at its sides."""

    wavelength: float
    value: float
    prominence: float


def highest(wavelength: ArrayLike, value: ArrayLike, noise: float | None = None) -> Peak:
    """The highest point of the scan: a maximum inside, or an end where the scan is highest there.

    noise : its standard deviation where it is known already.
    """
    x, y = scan(wavelength, value, 1)
    top = int(np.argmax(y))
    if 0 < top < x.size - 1 and y[top] > y[top - 1] and y[top] > y[top + 1]:
        prominence = float(y[top]) - _valley(y, top, top)
        at, height = vertex(x, y, top, drop_of(prominence, float(noise_of(y)[0]) if noise is None else noise))
        return Peak(at, height, prominence)
    return Peak(float(x[top]), float(y[top]), float(y[top] - y.min()))


def vertex(x: Array, y: Array, i: int, drop: float) -> tuple[float, float]:
    """Top of the parabola through all points about the highest, `i`, that lie at most `drop` below it; three at least.

    Through more than three it is that of least squares, so that noise does not decide where it lies. The points need
    not be evenly spaced; a flat top has its middle.

    Returns
    -------
    Where it is, and how high.
    """
    first, last = i, i
    while first > 0 and y[first - 1] >= y[i] - drop:
        first -= 1
    while last < y.size - 1 and y[last + 1] >= y[i] - drop:
        last += 1
    first, last = min(first, max(i - 1, 0)), max(last, min(i + 1, y.size - 1))
    flat = np.flatnonzero(y[first : last + 1] == y[i])
    scale = float(x[last] - x[first]) / 2
    u = (x[first : last + 1] - x[i]) / scale
    height, slope, bend = np.linalg.lstsq(np.vander(u, 3, increasing=True), y[first : last + 1] - y[i], rcond=None)[0]
    top = -slope / (2 * bend) if bend < 0 else np.inf
    if not u[0] <= top <= u[-1]:  # no parabola with its top among them
        return float((x[first + flat[0]] + x[first + flat[-1]]) / 2), float(y[i])
    return float(x[i] + scale * top), float(y[i] + height + slope * top / 2)


def drop_of(prominence: float, noise: float) -> float:
    """How far below the highest point the parabola of a peak reaches: a twentieth of it, and out of its noise."""
    return max(TOP * prominence, 4 * noise if math.isfinite(noise) else 0.0)


def _valley(y: Array, start: int, stop: int) -> float:
    """The higher of the lowest points between the peak and whatever is higher on either side, or the end."""
    left, right = y[:start][::-1], y[stop + 1 :]

    def lowest(side: Array) -> float:
        higher = np.flatnonzero(side > y[start])
        return float(side[: int(higher[0]) if higher.size else side.size].min())

    return max(lowest(left), lowest(right))


def value_at(wavelength: ArrayLike, values: ArrayLike, at: float) -> Array:
    """Values at one wavelength over scans, straight between points.

    wavelength : (n,); values : (n,) or (scans, n). Returns (scans,).

    Raises
    ------
    ValueError : outside the scan, which is never extrapolated.
    """
    many = np.atleast_2d(np.asarray(values, dtype=float))
    found = []
    for each in many:
        x, y = scan(wavelength, each)
        if not x[0] <= at <= x[-1]:
            raise ValueError(f"{at:g} lies outside the scan, which runs from {x[0]:g} to {x[-1]:g}.")
        found.append(float(np.interp(at, x, y)))
    return np.array(found)


def area(wavelength: ArrayLike, value: ArrayLike, low: float | None = None, high: float | None = None) -> float:
    """Area under the scan between two wavelengths by trapezoids, the ends set in between points where needed.

    Raises
    ------
    ValueError : for limits outside the scan or in the wrong order.
    """
    x, y = scan(wavelength, value)
    a, b = float(x[0] if low is None else low), float(x[-1] if high is None else high)
    if not x[0] <= a < b <= x[-1]:
        raise ValueError(f"The area must lie within {x[0]:g} to {x[-1]:g}, low before high; here is {a:g} to {b:g}.")
    inside = (x > a) & (x < b)
    grid = np.concatenate(([a], x[inside], [b]))
    heights = np.interp(grid, x, y)
    return float((np.diff(grid) * (heights[1:] + heights[:-1])).sum() / 2)
