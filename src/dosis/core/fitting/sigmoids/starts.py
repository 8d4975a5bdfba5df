"""Where the descents begin: a grid of sigmoids on the places of the readings, ranked for every curve by products."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.models.shapes import ShapeOf

OUTSIDE = np.array([1.0, 3.0, 8.0, 20.0])  # of the way 1/b beyond the readings, for curves of which only an end is seen
QUARTERS = np.array([0.0, 0.25, 0.5, 0.75, 1.0])
WORSE, SLACK = 1.3, 0.02  # how much more than the best a start may leave unexplained, and of the whole


@dataclass(frozen=True)
class Grid:
    """Candidates θ (k, powers·slopes·midpoints), midpoints running fastest, and their h (candidates, n), shifted."""

    theta: Array
    h: Array
    axes: tuple[int, int, int]


def coarse(curves: Curves, shape_of: ShapeOf) -> Grid:
    """Few candidates: enough for a curve of which both plateaus and the middle are seen."""
    return _coarse(tuple(curves.t.tolist()), curves.gap, shape_of)


@lru_cache(maxsize=64)  # the same doses are fitted again and again: at every change of a run, and well after well
def _coarse(t: tuple[float, ...], gap: float, shape_of: ShapeOf) -> Grid:
    slopes = 1.2 * (max(2.5 / gap, 8.0) / 1.2) ** QUARTERS
    middles = np.arange(-1.0 - gap / 2, 1.0 + gap, gap / 2)
    return _grid(np.array(t), shape_of, slopes, np.broadcast_to(middles, (slopes.size, middles.size)), None)


def fine(curves: Curves, shape_of: ShapeOf, powers: Sequence[float] | None) -> Grid:
    """Many candidates, out to the limits: steps between two readings, bare ends, almost straight lines."""
    gap = curves.gap
    slopes = np.concatenate(([0.05], np.geomspace(0.4, 20.0 / gap, 9), [60.0 / gap]))
    inside = curves.inside
    thirds = np.interp(np.arange(0, inside.size - 1 + 1e-9, 1 / 3), np.arange(inside.size), inside)
    middles = np.stack([np.concatenate((-1 - OUTSIDE[::-1] / b, thirds, 1 + OUTSIDE / b)) for b in slopes])
    return _grid(curves.t, shape_of, slopes, middles, powers)


def _grid(t: Array, shape_of: ShapeOf, slopes: Array, middles: Array, powers: Sequence[float] | None) -> Grid:
    b = np.repeat(slopes, middles.shape[1])
    theta = np.stack((-b * middles.ravel(), b))
    if powers is not None:
        blocks = [np.vstack((theta, np.full(b.size, power))) for power in powers]
        theta = np.concatenate(blocks, axis=1)
    u = theta[0] + theta[1] * t[:, None]
    shape = shape_of(u, u.min(axis=0) > 0, theta[2] if powers is not None else None)
    return Grid(theta, shape.h.T, (len(powers) if powers is not None else 1, slopes.size, middles.shape[1]))


def rank(curves: Curves, grid: Grid) -> Array:
    """How much of each curve's variation each candidate explains with its best plateaus: (curves, candidates)."""
    h = grid.h
    if curves.shared:
        w = curves.w[:, 0]
        centred = h - (h @ w / w.sum())[:, None]
        size = (centred * centred) @ w
        unit = centred * (w / np.sqrt(np.maximum(size, 1e-12 * size.max()))[:, None])
        explained: Array = curves.y.T @ unit.T
        np.multiply(explained, explained, out=explained)
        return explained
    w = curves.w.T
    mean = w @ h.T / curves.weight[:, None]
    size = w @ np.square(h).T - curves.weight[:, None] * mean * mean
    product = (w * curves.y.T) @ h.T
    ranked: Array = product * product / np.maximum(size, 1e-10 * curves.weight[:, None])
    return ranked


def best(curves: Curves, grid: Grid) -> Array:
    """The best candidate of every curve, θ (k, curves)."""
    return grid.theta[:, rank(curves, grid).argmax(axis=1)]


def peaks(curves: Curves, grid: Grid, most: int) -> tuple[Rows, Array]:
    """The best candidates that beat their neighbors on the grid: which curve (jobs,), and θ (k, jobs)."""
    explained = rank(curves, grid)
    field = explained.reshape(-1, *grid.axes)
    top = np.ones(field.shape, dtype=bool)
    for axis in range(1, field.ndim):
        if field.shape[axis] < 2:
            continue
        ahead = [slice(None)] * field.ndim
        behind = [slice(None)] * field.ndim
        ahead[axis], behind[axis] = slice(1, None), slice(None, -1)
        rising = field[tuple(ahead)] > field[tuple(behind)]
        top[tuple(behind)] &= ~rising
        top[tuple(ahead)] &= rising
    flat = np.where(top.reshape(explained.shape), explained, -1.0)
    flat[np.arange(len(flat)), explained.argmax(axis=1)] = explained.max(axis=1)
    most = min(most, flat.shape[1])
    chosen = np.argpartition(-flat, most - 1, axis=1)[:, :most]
    left = curves.total[:, None] - np.take_along_axis(flat, chosen, axis=1)
    worth = left <= np.minimum(WORSE * left.min(axis=1) + SLACK * curves.total, curves.total)[:, None]
    curve, slot = np.nonzero(worth)
    return curve, grid.theta[:, chosen[curve, slot]]
