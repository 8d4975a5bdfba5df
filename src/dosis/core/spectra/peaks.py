"""What is read off a scan: its highest point, its value at a wavelength, its area."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.spectra.scan import scan


@dataclass(frozen=True, slots=True)
class Peak:
    """A maximum between the points; prominence is its height above the higher of the valleys at its sides."""

    wavelength: float
    value: float
    prominence: float


def highest(wavelength: ArrayLike, value: ArrayLike) -> Peak:
    """The highest point of the scan: a maximum inside, or an end where the scan is highest there."""
    x, y = scan(wavelength, value, 1)
    top = int(np.argmax(y))
    if 0 < top < x.size - 1 and y[top] > y[top - 1] and y[top] > y[top + 1]:
        at, height = vertex(x, y, top)
        return Peak(at, height, height - _valley(y, top, top))
    return Peak(float(x[top]), float(y[top]), float(y[top] - y.min()))


def vertex(x: Array, y: Array, i: int) -> tuple[float, float]:
    """Top of the parabola through a point and its neighbors, which need not be evenly spaced; of a flat top its middle.

    Returns
    -------
    Where it is, and how high.
    """
    if y[i + 1] == y[i] or y[i - 1] == y[i]:
        first, last = i, i
        while y[first - 1] == y[i] and first > 1:
            first -= 1
        while y[last + 1] == y[i] and last < y.size - 2:
            last += 1
        return float((x[first] + x[last]) / 2), float(y[i])
    left, right = x[i - 1] - x[i], x[i + 1] - x[i]
    down_left, down_right = y[i - 1] - y[i], y[i + 1] - y[i]
    bend = (down_left / left - down_right / right) / (left - right)
    slope = down_left / left - bend * left
    shift = -slope / (2 * bend)
    return float(x[i] + shift), float(y[i] + slope * shift / 2)


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
