"""One curve at one go, where its first descent settles it: the readings of one are so few that every array costs more.

Logistic curves with and without a power, which nearly all are; the rest, and the hard ones, go by `solve`.
"""

import math
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.sigmoids.compiled import compiled
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.limits import FLAT, LOPSIDED
from dosis.core.fitting.sigmoids.look import ROWS, look
from dosis.core.fitting.sigmoids.search import USUAL, descend_once, with_power_from
from dosis.core.fitting.sigmoids.shape import FORMS, LOGISTIC, POWERED
from dosis.core.fitting.sigmoids.solve import EXTREMES, FURTHEST, POOR, POOR_POWERED, STEEP, STEEP_POWERED
from dosis.core.fitting.sigmoids.starts import coarse

if TYPE_CHECKING:
    from dosis.core.models.model import Model


class Frame(NamedTuple):
    """What readings at the same places with the same weights share: see `Curves` and `Grid`."""

    t: Array
    weight: Array
    center: float
    half: float
    closest: float
    gap: float
    theta: Array
    unit: Array


@lru_cache(maxsize=64)  # the same doses are fitted again and again
def _frame(levels: bytes, weight: bytes, logarithmic: bool) -> Frame:
    w = np.frombuffer(weight)
    none = np.zeros((1, w.size))
    curves = Curves.of(np.frombuffer(levels), none, w[None], none[:, 0], logarithmic=logarithmic)
    grid = coarse(curves, LOGISTIC)
    assert grid.unit is not None
    return Frame(curves.t, curves.w[0], curves.center, curves.half, curves.closest, curves.gap, grid.theta, grid.unit)


def fit_alone(model: "Model", levels: Array, group: Rows, y: Array, w: Array) -> Array | None:
    """Parameters (p,) of a curve that its first descent settles, at no limit; None for every other.

    levels : (k,) distinct x, rising; group : (n,) the place of each reading among them; y, w : (n,).
    """
    form = model.sigmoid
    if form is None or FORMS[form.shape] not in (LOGISTIC, POWERED):
        return None
    weight = np.bincount(group, w)
    frame = _frame(levels.tobytes(), weight.tobytes(), form.logarithmic)
    p = np.empty(5)
    if not settled(FORMS[form.shape], *frame, form.logarithmic, form.inverse_steepness, form.symmetric, group, y, w, p):
        return None
    values = np.empty(len(model.laid))
    values[model.laid] = p[: len(model.laid)]
    return values


@compiled
def settled(
    form: int, t: Array, weight: Array, center: float, half: float, closest: float, gap: float, theta: Array,
    unit: Array, logarithmic: bool, inverse: bool, symmetric: bool, group: Rows, y: Array, w: Array, p: Array,
) -> bool:  # fmt: skip
    """Whether the first descent, from the best of the grid, leaves no doubt; then lower, upper, … are written to p.

    symmetric : lower is to be the lower one.
    """
    n, whole = t.size, weight.sum()
    mean = np.zeros(n)
    for i in range(y.size):
        mean[group[i]] += w[i] * y[i] / weight[group[i]]
    pure = 0.0
    for i in range(y.size):
        pure += w[i] * (y[i] - mean[group[i]]) ** 2
    level = (weight * mean).sum() / whole
    mean -= level
    size = np.abs(mean).max()
    if not size > 0:
        return False
    mean /= size
    pure, total = pure / size / size, (weight * mean * mean).sum()
    explained = np.zeros(len(theta), dtype=np.float32)
    for i in range(n):
        at_i = np.float32(mean[i])
        for c in range(len(theta)):
            explained[c] += at_i * unit[i, c]
    best = np.argmax(explained * explained)
    at, states = (theta[best, 0], theta[best, 1], theta[best, 2]), np.empty((2, ROWS, n))
    side, turned, poor, steep = 1.0, t, POOR, STEEP
    if form == POWERED:
        turned, poor, steep = -t, POOR_POWERED, STEEP_POWERED
        at, left, there, side = with_power_from(t, turned, mean, weight, whole, closest, pure, total, at, states)
    else:
        at, left, there = descend_once(form, t, mean, weight, whole, closest, pure, total, USUAL, np.inf, at, states)
    a, b, power = at
    place = center - side * a / b * half
    if not (there and 2 * left <= poor * total and b * gap <= steep and EXTREMES[0] <= power <= EXTREMES[1]):
        return False
    bending = 0
    for i in range(n):
        bending += abs(a + b * (side * t[i])) < FLAT
    if abs(a) > b or bending < 2 or math.exp(power) > LOPSIDED or (logarithmic and abs(place) > FURTHEST):
        return False
    _, rise, _, middle = look(form, t if side > 0 else turned, mean, weight, whole, at, math.exp(power), states, 0)
    p[0] = level - size * rise * (middle + 1.0 if middle < 0 else middle)
    p[1] = p[0] + size * rise
    p[2] = math.exp(place) if logarithmic else place
    p[3] = half / (side * b) if inverse else side * b / half
    p[4] = math.exp(power)
    if form == POWERED and rise < 0:
        return False  # the other way round, which is for a closer look
    if symmetric and p[0] > p[1]:
        p[0], p[1], p[3] = p[1], p[0], -p[3]
    return True
