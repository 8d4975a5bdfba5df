"""What a sigmoid at its minimum leaves of the readings, and how well its parameters are known: one curve, compiled."""

import math

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.shape import LOGISTIC, POWERED, gumbel, logistic, powered

EDGE = 1e15  # |u| beyond which nothing changes, whatever the power
LOST = 1e-13  # of the largest on the diagonal of a triangle: a parameter that cannot be told from the others
Seven = tuple[float, float, float, float, float, float, float]


@inlined
def curve_at(form: int, logarithmic: bool, inverse: bool, p: Array, x: float) -> Seven:
    """The curve at x, its slope there, and its derivatives in lower, upper, place, steepness and power.

    p : (5,) these parameters.
    """
    lower, upper, place, steepness, g = p[0], p[1], p[2], p[3], p[4]
    rise, slope = upper - lower, 1.0 / steepness if inverse else steepness
    t = math.log(x) - math.log(place) if logarithmic else x - place
    u = min(max(slope * t, -EDGE), EDGE)
    by_power = 0.0
    if form == POWERED:
        (h, less, first, _), (by_power, _, _) = powered(0.0, u, g)
    elif form == LOGISTIC:
        h, less, first, _ = logistic(u)
    else:
        h, less, first, _ = gumbel(form, u)
    first *= rise
    tilt = first * t if math.isfinite(t) else 0.0  # at a zero dose t is endless, but nothing changes there
    by_place = -slope * first / (place if logarithmic else 1.0)
    by_steepness = -tilt * slope * slope if inverse else tilt
    along = slope * first / (x if logarithmic else 1.0)
    return lower + rise * h, along, -less, h, by_place, by_steepness, rise * by_power / g


@compiled
def heights_at(form: int, logarithmic: bool, inverse: bool, p: Array, x: Array) -> Array:
    """The curve at every x (n,). Arguments as for `curve_at`."""
    found = np.empty(x.size)
    for i in range(x.size):
        found[i] = curve_at(form, logarithmic, inverse, p, x[i])[0]
    return found


@compiled
def at_minimum(
    form: int, logarithmic: bool, inverse: bool, p: Array, count: int, x: Array, y: Array, w: Array
) -> tuple[Array, float, Array, Array]:
    """Residuals (n,) of readings x, y of weights w, Σ w·r², the covariance for a variance of one, and a root of it.

    p : as for `curve_at`; count : how many of them are the model's.
    covariance, root : (count, count), rootᵀ·root = (JᵀWJ)⁻¹; infinite where the readings do not tell a parameter from
        the others.
    """
    residuals, design, sse = np.empty(x.size), np.empty((count, x.size)), 0.0
    for i in range(x.size):
        value, _, by_lower, by_upper, by_place, by_steepness, by_power = curve_at(form, logarithmic, inverse, p, x[i])
        residuals[i] = y[i] - value
        sse += w[i] * residuals[i] * residuals[i]
        weight = math.sqrt(w[i])
        design[0, i], design[1, i] = weight * by_lower, weight * by_upper
        design[2, i], design[3, i] = weight * by_place, weight * by_steepness
        if count > 4:
            design[4, i] = weight * by_power
    root, covariance = np.full((count, count), math.inf), np.full((count, count), math.inf)
    if root_of(design, root):
        for j in range(count):
            for k in range(count):
                covariance[j, k] = (root[:, j] * root[:, k]).sum()
    return residuals, sse, covariance, root


@compiled
def root_of(design: Array, root: Array) -> bool:
    """Write R⁻ᵀ of a design's triangle R to `root` (p, p); False where a parameter is lost.

    design : (p, n), transposed, written over. By modified Gram–Schmidt on scaled columns, whose triangle is as good as
    Householder's (Björck 1967, BIT 7, 1).
    """
    count = len(design)
    scale, triangle = np.ones(count), np.zeros((count, count))
    for j in range(count):
        scale[j] = math.sqrt((design[j] * design[j]).sum())
        if not (scale[j] > 0 and math.isfinite(scale[j])):
            return False
        design[j] /= scale[j]
    least, most = math.inf, 0.0
    for j in range(count):
        size = math.sqrt((design[j] * design[j]).sum())
        triangle[j, j], least, most = size, min(least, size), max(most, size)
        if not size > 0:
            return False
        design[j] /= size
        for k in range(j + 1, count):
            triangle[j, k] = (design[j] * design[k]).sum()
            design[k] -= triangle[j, k] * design[j]
    if design.shape[1] < count or not least > LOST * most:
        return False
    for column in range(count):
        for j in range(count):
            found = 1.0 / scale[j] if j == column else 0.0
            for k in range(j):
                found -= triangle[k, j] * root[k, column]
            root[j, column] = found / triangle[j, j]
    return True
