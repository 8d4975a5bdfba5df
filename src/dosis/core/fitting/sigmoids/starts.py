"""Where the descents begin: a grid of sigmoids on the places of the readings, ranked for every curve by products."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.asymmetry import half_point
from dosis.core.fitting.sigmoids.compiled import compiled
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.shape import LOGISTIC, POWERED, gumbel, high_up, logistic, powered

OUTSIDE = np.array([1.0, 3.0, 8.0, 20.0])  # of the way 1/b beyond the readings, for curves of which only an end is seen
MOST_PLACES = 60  # of the readings, between which midpoints are laid
QUARTERS = np.array([0.0, 0.25, 0.5, 0.75, 1.0])


@dataclass(frozen=True)
class Grid:
    """Candidates θ (candidates, 3), their h (candidates, n), shifted, and what ranks them.

    unit : (n, candidates) weighted h less its mean, each of length 1, where all curves have the same weights.
    """

    theta: Array
    h: Array
    unit: Array | None


def coarse(curves: Curves, form: int) -> Grid:
    """Few candidates: enough for a curve of which both plateaus and the middle are seen."""
    gap, w = max(curves.gap, 2.0 / MOST_PLACES), tuple(curves.w[0].tolist()) if curves.shared else None
    return _coarse(tuple(curves.t.tolist()), w, gap, form)


@lru_cache(maxsize=64)  # the same doses are fitted again and again: at every change of a run, and well after well
def _coarse(t: tuple[float, ...], w: tuple[float, ...] | None, gap: float, form: int) -> Grid:
    slopes = 1.2 * (max(2.5 / gap, 8.0) / 1.2) ** QUARTERS
    middles = np.arange(-1.0 - gap / 2, 1.0 + gap, gap / 2)
    middles = np.broadcast_to(middles, (slopes.size, middles.size))
    return _grid(np.array(t), None if w is None else np.array(w), form, slopes, middles, 0.0)


def fine(curves: Curves, form: int, power: float) -> Grid:
    """Many candidates, out to the limits: steps between two readings, bare ends, almost straight lines."""
    gap, inside = max(curves.gap, 2.0 / MOST_PLACES), curves.inside
    if inside.size > MOST_PLACES:
        inside = inside[np.linspace(0, inside.size - 1, MOST_PLACES).astype(int)]
    slopes = np.concatenate(([0.05], np.geomspace(0.4, 20.0 / gap, 9), [60.0 / gap]))
    thirds = np.interp(np.arange(0, inside.size - 1 + 1e-9, 1 / 3), np.arange(inside.size), inside)
    middles = np.stack([np.concatenate((-1 - OUTSIDE[::-1] / b, thirds, 1 + OUTSIDE / b)) for b in slopes])
    return _grid(curves.t, curves.w[0] if curves.shared else None, form, slopes, middles, power)


def _grid(t: Array, w: Array | None, form: int, slopes: Array, middles: Array, power: float) -> Grid:
    steep, middle = np.repeat(slopes, middles.shape[1]), middles.ravel()
    # The same half points, and the same slopes there, with every power.
    half = half_point(power, math.exp(power))
    b = steep * math.exp(half_point(0.0, 1.0)[3] - half[3])
    theta = np.column_stack((half[0] - b * middle, b, np.full(b.size, power)))
    h = heights(form, t, theta)
    if w is None:
        return Grid(theta, h, None)
    centered = h - (h @ w / w.sum())[:, None]
    size = (centered * centered) @ w
    unit = centered * (w / np.sqrt(np.maximum(size, 1e-12 * size.max()))[:, None])
    # Half the digits are enough to choose by, and take half the time.
    return Grid(theta, h, np.ascontiguousarray(unit.T, dtype=np.float32))


@compiled
def heights(form: int, t: Array, theta: Array) -> Array:
    """h of sigmoids (candidates, 3) at places t (n,): (candidates, n), less 1 where all of it is high up."""
    h, less = np.empty((len(theta), t.size)), np.empty(t.size)
    for c in range(len(theta)):
        a, b, g = theta[c, 0], theta[c, 1], math.exp(theta[c, 2])
        for i in range(t.size):
            u = a + b * t[i]
            if form == POWERED:
                h[c, i], less[i], _, _ = powered(t[i], u, g)[0]
            else:
                h[c, i], less[i], _, _ = logistic(u) if form == LOGISTIC else gumbel(form, u)
        if high_up(t, h[c]):
            h[c] = less
    return h


def rank(curves: Curves, grid: Grid) -> Array:
    """How much of each curve's variation each candidate explains with its best plateaus: (curves, candidates)."""
    if grid.unit is not None:
        explained: Array = curves.y.astype(np.float32) @ grid.unit
        np.multiply(explained, explained, out=explained)
        return explained
    h, w = grid.h, curves.w
    mean = w @ h.T / curves.weight[:, None]
    size = w @ np.square(h).T - curves.weight[:, None] * mean * mean
    product = (w * curves.y) @ h.T
    ranked: Array = product * product / np.maximum(size, 1e-10 * curves.weight[:, None])
    return ranked


def best(curves: Curves, grid: Grid) -> tuple[Array, Array]:
    """The best candidate of every curve, θ (curves, 3), and what it leaves unexplained."""
    ranked = rank(curves, grid)
    return grid.theta[ranked.argmax(axis=1)], curves.total - ranked.max(axis=1)
