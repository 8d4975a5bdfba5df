"""How well sigmoids are known at their minimum: unit variances from the Gauss–Newton information, by blocks."""

import math

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.look import ROWS, Theta, Triangle, look
from dosis.core.fitting.sigmoids.shape import NOWHERE, POWERED
from dosis.core.fitting.sigmoids.step import dot, solve_shifted

SINGULAR = 1e-13
STEP = 1e-18  # Σ w·h′² against Σ w·(h − h̄)² below which no reading lies where the curve bends
RISE, HEIGHT, LOWER, UPPER, AA, AB, BB, GG = range(8)
COLUMNS = 8


@compiled
def spread_all(form: int, t: Array, y: Array, w: Array, theta: Array) -> Array:
    """(curves, 8): the rise, h̄, variances of both plateaus, covariances of a and b, and the variance of ln g.

    For a residual variance of one; NaN where the readings do not determine them. Arguments as for `descend_all`.
    """
    found, state = np.empty((len(y), COLUMNS)), np.empty((1, ROWS, t.size))
    for c in range(len(y)):
        own = w[c if len(w) > 1 else 0]
        weight = max(own.sum(), 1e-300)
        at = (theta[c, 0], theta[c, 1], theta[c, 2])
        _, rise, size, middle = look(form, t, y[c], own, weight, at, math.exp(at[2]), state, 0)
        mean, along, whole = sums_of_slopes(form, t, own, state)
        height, rest = (middle + 1.0, -middle) if middle < 0 else (middle, 1.0 - middle)
        # The plateaus are eliminated, and what is left is of the same form as in a descent.
        square = rise * rise
        (m0, m1, m2), (l0, l1, l2), (w00, w10, w11, w20, w21, w22) = mean, along, whole
        s00 = square * (w00 - m0 * m0 / weight - l0 * l0 / size)
        s10 = square * (w10 - m0 * m1 / weight - l0 * l1 / size)
        s11 = square * (w11 - m1 * m1 / weight - l1 * l1 / size)
        s20 = square * (w20 - m0 * m2 / weight - l0 * l2 / size)
        s21 = square * (w21 - m1 * m2 / weight - l1 * l2 / size)
        s22 = square * (w22 - m2 * m2 / weight - l2 * l2 / size) if form == POWERED else 1.0
        held = min(s00 / max(square * w00, 1e-300), s11 / max(square * w11, 1e-300))
        if form == POWERED:
            held = min(held, s22 / max(square * w22, 1e-300))
        matrix = (s00, s10, s11, s20, s21, s22)
        first, least = solve_shifted(matrix, (1.0, 0.0, 0.0), 0.0)
        second, _ = solve_shifted(matrix, (0.0, 1.0, 0.0), 0.0)
        third, _ = solve_shifted(matrix, (0.0, 0.0, 1.0), 0.0)
        low = along_with(rise, height, mean, along, weight, size)
        up = along_with(rise, -rest, mean, along, weight, size)
        by_low, by_up = dot(low, solve_shifted(matrix, low, 0.0)[0]), dot(up, solve_shifted(matrix, up, 0.0)[0])
        step = w00 < STEP * size
        known = 1.0 if held > SINGULAR and least > SINGULAR and not step else math.nan
        found[c, RISE], found[c, HEIGHT] = rise, height
        found[c, LOWER] = 1.0 / weight + height * height / size + (0.0 if step else known * by_low)
        found[c, UPPER] = 1.0 / weight + rest * rest / size + (0.0 if step else known * by_up)
        found[c, AA], found[c, AB], found[c, BB] = known * first[0], known * first[1], known * second[1]
        found[c, GG] = known * third[2]
    return found


@inlined
def sums_of_slopes(form: int, t: Array, w: Array, state: Array) -> tuple[Theta, Theta, Triangle]:
    """Σ w·d, Σ w·(h − h̄)·d and Σ w·d·dᵀ of the derivatives d of h in a, b and, with a power, ln g."""
    m0 = m1 = m2 = l0 = l1 = l2 = 0.0
    s00 = s10 = s11 = s20 = s21 = s22 = 0.0
    for i in range(t.size):
        x = t[i] if abs(t[i]) < -NOWHERE else 0.0
        centered, by = state[0, 0, i], state[0, 2, i]
        pull = w[i] * by
        m0 += pull
        m1 += pull * x
        l0 += pull * centered
        l1 += pull * centered * x
        s00 += pull * by
        s10 += pull * by * x
        s11 += pull * by * x * x
        if form == POWERED:
            power = w[i] * state[0, 4, i]
            m2 += power
            l2 += power * centered
            s20 += power * by
            s21 += power * by * x
            s22 += power * state[0, 4, i]
    return (m0, m1, m2), (l0, l1, l2), (s00, s10, s11, s20, s21, s22)


@inlined
def along_with(rise: float, height: float, mean: Theta, along: Theta, weight: float, size: float) -> Theta:
    """How a plateau at that height above h̄ moves with a, b and ln g."""
    part, share = rise / weight, rise * height / size
    return part * mean[0] - share * along[0], part * mean[1] - share * along[1], part * mean[2] - share * along[2]
