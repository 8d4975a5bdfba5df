"""All peaks of a scan above a prominence, each with its width and its area."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.prominence import half_way, standing_out
from dosis.core.spectra.noise import noise_of
from dosis.core.spectra.peaks import drop_of, vertex
from dosis.core.spectra.scan import scan


@dataclass(frozen=True, slots=True)
class PeakShape:
    """A peak: where its parabola has its top and how high, how far it stands out, and how wide and large it is.

    prominence : height above the higher of the valleys at its sides. left, right : where it has half its prominence,
    `width` between them. area : between its feet, the lowest points toward the next peak that is listed, above the line
    that joins these.
    """

    wavelength: float
    value: float
    prominence: float
    left: float
    right: float
    width: float
    area: float
    foot_left: float
    foot_right: float


def peaks_of(
    wavelength: ArrayLike, value: ArrayLike, least_prominence: float, low: float | None = None,
    high: float | None = None, *, noise: float | None = None,
) -> list[PeakShape]:  # fmt: skip
    """Every peak with its top in the window whose prominence is at least that, in the order of the wavelengths.

    A flat top counts once, at its middle; the ends of the scan are no peaks. Prominence and width are taken over the
    whole scan, so that a window does not change them; nor does it the feet, unless every peak is listed whatever its
    prominence.

    noise : its standard deviation where it is known already.

    Raises
    ------
    ValueError : as `scan`.
    """
    x, y = scan(wavelength, value, 3)
    edges = np.searchsorted(x, [x[0] if low is None else low, x[-1] if high is None else high])
    # Noise has a peak at every third point: of all of them only those are looked at that can lie in the window, with
    # one place more on either side, since the top of a parabola may lie within though its point does not.
    near = (int(edges[0]) - 1, int(edges[1]) + 1) if least_prominence <= 0 else (0, None)
    tops, heights = standing_out(y, least_prominence, *near)
    at = np.arange(x.size, dtype=float)
    feet = _feet(y, tops)
    if noise is None:
        noise = float(noise_of(y)[0])
    found = []
    for k, i in enumerate(tops):
        top, height = vertex(x, y, int(i), drop_of(float(heights[k]), noise))
        if (low is not None and top < low) or (high is not None and top > high):
            continue
        left, right = (float(np.interp(place, at, x)) for place in half_way(y, int(i), float(heights[k])))
        a, b = feet[k], feet[k + 1]
        found.append(PeakShape(
            top, height, float(heights[k]), left, right, right - left, _above_its_feet(x, y, a, b), float(x[a]),
            float(x[b]),
        ))  # fmt: skip
    return found


def _feet(y: Array, tops: Rows) -> list[int]:
    """The lowest points before, between and after the peaks."""
    edges = [0, *(int(i) for i in tops), y.size - 1]
    return [a + int(np.argmin(y[a : b + 1])) for a, b in itertools.pairwise(edges)]


def _above_its_feet(x: Array, y: Array, a: int, b: int) -> float:
    if b <= a:
        return 0.0
    inside, along = x[a : b + 1], y[a : b + 1]
    line = y[a] + (y[b] - y[a]) * (inside - x[a]) / (x[b] - x[a])
    over = along - line
    return float((np.diff(inside) * (over[1:] + over[:-1])).sum() / 2)
