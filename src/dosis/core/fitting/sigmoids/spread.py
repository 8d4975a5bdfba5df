"""How well sigmoids are known at their minimum: unit variances from the Gauss–Newton information, by blocks."""

import math

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.compiled import compiled
from dosis.core.fitting.sigmoids.look import ROWS, look
from dosis.core.fitting.sigmoids.shape import NOWHERE, POWERED
from dosis.core.fitting.sigmoids.step import solve_shifted

SINGULAR = 1e-13
STEP = 1e-18  # Σ w·h′² against Σ w·(h − h̄)² below which no reading lies where the curve bends
RISE, HEIGHT, LOWER, UPPER, AA, AB, BB, GG = range(8)
COLUMNS = 8


@compiled
def quadratic(matrix: Array, vector: Array) -> float:
    """vᵀ·M·v of three entries."""
    total = 0.0
    for i in range(3):
        for j in range(3):
            total += vector[i] * matrix[i, j] * vector[j]
    return total


@compiled
def spread_all(form: int, t: Array, y: Array, w: Array, theta: Array) -> Array:
    """(curves, 8): the rise, h̄, variances of both plateaus, covariances of a and b, and the variance of ln g.

    For a residual variance of one; NaN where the readings do not determine them. Arguments as for `descend_all`.
    """
    found = np.empty((len(y), COLUMNS))
    state = np.empty((1, ROWS, t.size))
    matrix, covariance = np.empty((3, 3)), np.empty((3, 3))
    mean, along, low, up = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    k = 3 if form == POWERED else 2
    for c in range(len(y)):
        own = w[c if len(w) > 1 else 0]
        weight = max(own.sum(), 1e-300)
        at = (theta[c, 0], theta[c, 1], theta[c, 2])
        _, rise, size, middle = look(form, t, y[c], own, weight, at, math.exp(at[2]), state, 0)
        height, rest = (middle + 1.0, -middle) if middle < 0 else (middle, 1.0 - middle)
        mean[:], along[:], matrix[:] = 0.0, 0.0, 0.0
        for i in range(t.size):
            x = t[i] if abs(t[i]) < -NOWHERE else 0.0
            columns = (state[0, 2, i], state[0, 2, i] * x, state[0, 4, i] if k == 3 else 0.0)
            for j in range(3):
                mean[j] += own[i] * columns[j]
                along[j] += own[i] * state[0, 0, i] * columns[j]
                for m in range(j + 1):
                    matrix[j, m] += own[i] * columns[j] * columns[m]
        step = matrix[0, 0] < STEP * size
        held = math.inf
        for j in range(k):
            whole = rise * rise * matrix[j, j]
            for m in range(j + 1):
                matrix[j, m] = rise * rise * (matrix[j, m] - mean[j] * mean[m] / weight - along[j] * along[m] / size)
            held = min(held, matrix[j, j] / max(whole, 1e-300))
        if k == 2:
            matrix[2, 2] = 1.0
        triangle = (matrix[0, 0], matrix[1, 0], matrix[1, 1], matrix[2, 0], matrix[2, 1], matrix[2, 2])
        least = math.inf
        for j in range(3):
            unit = (1.0 if j == 0 else 0.0, 1.0 if j == 1 else 0.0, 1.0 if j == 2 else 0.0)
            column, least = solve_shifted(triangle, unit, 0.0)
            covariance[0, j], covariance[1, j], covariance[2, j] = column
        if step or not (held > SINGULAR and least > SINGULAR):
            covariance[:] = np.nan
        for j in range(3):
            low[j] = rise * (mean[j] / weight - height * along[j] / size)
            up[j] = rise * (mean[j] / weight + rest * along[j] / size)
        found[c, RISE], found[c, HEIGHT] = rise, height
        found[c, LOWER] = 1.0 / weight + height * height / size + (0.0 if step else quadratic(covariance, low))
        found[c, UPPER] = 1.0 / weight + rest * rest / size + (0.0 if step else quadratic(covariance, up))
        found[c, AA], found[c, AB], found[c, BB] = covariance[0, 0], covariance[0, 1], covariance[1, 1]
        found[c, GG] = covariance[2, 2]
    return found
