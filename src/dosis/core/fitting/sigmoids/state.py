"""Where many sigmoids stand: plateaus solved for, sum of squares, gradient and exact Hessian in the rest."""

from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.curves import NOWHERE, Curves
from dosis.core.models.shapes import Shape, ShapeOf


@dataclass(slots=True)
class State:
    """At θ = (a, b) or (a, b, ln g), (k, curves), with the plateaus at their best.

    half_sse : ½ Σ w·r² between places; rise : upper less lower plateau; centred : h less its weighted mean h̄, (n,
    curves); size : Σ w·(h − h̄)²; residual : (n, curves).
    """

    theta: Array
    half_sse: Array
    rise: Array
    shape: Shape
    centred: Array
    size: Array
    residual: Array


def look(curves: Curves, theta: Array, shape_of: ShapeOf) -> State:
    """Solve for the plateaus at θ. Linear least squares on (1, h), centred."""
    u = np.multiply(curves.t[:, None], theta[1])
    u += theta[0]
    above = theta[0] > np.abs(theta[1]) if curves.t.min() > NOWHERE else np.zeros(theta.shape[1], dtype=bool)
    shape = shape_of(u, above, theta[2] if len(theta) == 3 else None)
    centred = shape.h - curves.moments(shape.h, 1)[0] / curves.weight
    size = curves.moments(centred * centred, 1)[0]
    product = curves.moments(centred * curves.y, 1)[0]
    rise = np.where(size > 1e-280, product / np.maximum(size, 1e-280), 0.0)
    residual = curves.y - rise * centred
    half_sse = 0.5 * curves.moments(residual * residual, 1)[0]
    return State(theta, half_sse, rise, shape, centred, size, residual)


@dataclass(slots=True)
class Slopes:
    """Of ½ SSE in θ with the plateaus at their best: gradient, matrix of the step, and its size.

    gradient : k arrays (curves,); matrix : lower triangle, rows of (curves,) arrays; scale : (curves,) of the first
    diagonal entry before the plateaus are taken out; exact : (curves,) 1 where the matrix is the exact Hessian.
    """

    gradient: list[Array]
    matrix: list[list[Array]]
    scale: Array
    exact: Array


def slopes(curves: Curves, state: State, exact: Array) -> Slopes:
    """Gradient, and the exact Hessian where `exact` (curves,) is 1, Gauss–Newton's where it is 0.

    With the plateaus eliminated the Hessian is H_θθ less a Schur complement, which centring makes two outer products.
    """
    shape, beta, size = state.shape, state.rise, np.maximum(state.size, 1e-280)
    first, square, bend = shape.first, beta * beta, beta * exact
    mean = list(curves.moments(first, 2))
    along = list(curves.moments(state.centred * first, 2))
    pull = list(curves.moments(state.residual * first, 2))
    steep = square * (first * first)
    bent = exact.any()
    curvature = list(curves.moments(steep - bend * (state.residual * shape.bend()) if bent else steep, 3))
    block = [[curvature[0]], [curvature[1], curvature[2]]]
    if shape.power is not None:
        by, by_by, by_u = shape.power
        mean.append(curves.moments(by, 1)[0])
        along.append(curves.moments(state.centred * by, 1)[0])
        pull.append(curves.moments(state.residual * by, 1)[0])
        mixed = curves.moments(square * (first * by) - bend * (state.residual * by_u), 2)
        own = curves.moments(square * (by * by) - bend * (state.residual * by_by), 1)[0]
        block.append([mixed[0], mixed[1], own])
    lift = [beta * c - exact * r for c, r in zip(along, pull, strict=True)]
    matrix = [
        [block[i][j] - square * (mean[i] * mean[j]) / curves.weight - lift[i] * lift[j] / size for j in range(i + 1)]
        for i in range(len(block))
    ]
    scale = curves.moments(steep, 1)[0] if bent else curvature[0]
    return Slopes([-beta * r for r in pull], matrix, scale, exact)


@dataclass(slots=True)
class Spread:
    """Gauss–Newton information at the minimum: unit variances of the plateaus and unit covariance of θ."""

    lower: Array
    upper: Array
    theta: list[list[Array]]


def unit_spread(curves: Curves, state: State) -> Spread:
    """Variances for a residual variance of one, from JᵀWJ by blocks; NaN where the readings do not determine them."""
    shape, beta, size = state.shape, state.rise, np.maximum(state.size, 1e-280)
    first = shape.first
    mean = list(curves.moments(first, 2) / curves.weight)
    along = list(curves.moments(state.centred * first, 2) / size)
    square = curves.moments(first * first, 3)
    block = [[square[0]], [square[1], square[2]]]
    if shape.power is not None:
        by = shape.power[0]
        mean.append(curves.moments(by, 1)[0] / curves.weight)
        along.append(curves.moments(state.centred * by, 1)[0] / size)
        mixed = curves.moments(first * by, 2)
        block.append([mixed[0], mixed[1], curves.moments(by * by, 1)[0]])
    information = [
        [
            beta * beta * (block[i][j] - mean[i] * mean[j] * curves.weight - along[i] * along[j] * size)
            for j in range(i + 1)
        ]
        for i in range(len(block))
    ]  # fmt: skip
    covariance = inverse(information, [beta * beta * block[i][i] for i in range(len(block))])
    height = curves.moments(shape.h, 1)[0] / curves.weight + shape.shift
    rest = (1.0 - shape.shift) - curves.moments(shape.h, 1)[0] / curves.weight
    tilt_lower = [beta * (m - height * c) for m, c in zip(mean, along, strict=True)]
    tilt_upper = [beta * (m + rest * c) for m, c in zip(mean, along, strict=True)]
    lower = 1 / curves.weight + height * height / size + quadratic(covariance, tilt_lower)
    upper = 1 / curves.weight + rest * rest / size + quadratic(covariance, tilt_upper)
    return Spread(lower, upper, covariance)


def solve_shifted(
    matrix: list[list[Array]], right: list[Array], shift: Array | float = 0.0
) -> tuple[list[Array], Array]:
    """Solve (matrix + shift·I)·x = right by LDLᵀ for every curve; and the least pivot against its diagonal.

    matrix : lower triangle, rows of (curves,) arrays. A least pivot at or below zero says: not positive definite.
    """
    k = len(right)
    low: list[list[Array]] = []
    pivots: list[Array] = []
    least: Array = np.full(1, np.inf)
    for i in range(k):
        row: list[Array] = []
        for j in range(i):
            value = matrix[i][j]
            for m in range(j):
                value = value - row[m] * low[j][m] * pivots[m]
            row.append(value / pivots[j])
        diagonal = matrix[i][i] + shift
        pivot = diagonal
        for m in range(i):
            pivot = pivot - row[m] * row[m] * pivots[m]
        least = np.minimum(least, pivot / np.maximum(np.abs(diagonal), 1e-300))
        pivots.append(np.where(pivot == 0, 1e-300, pivot))
        low.append(row)
    x: list[Array] = []
    for i in range(k):
        value = right[i]
        for m in range(i):
            value = value - low[i][m] * x[m]
        x.append(value)
    x = [value / pivot for value, pivot in zip(x, pivots, strict=True)]
    for i in reversed(range(k)):
        for m in range(i + 1, k):
            x[i] = x[i] - low[m][i] * x[m]
    return x, np.asarray(least)


def lowest_and_largest(matrix: list[list[Array]]) -> tuple[Array, Array]:
    """Lowest eigenvalue, and the largest in size, of symmetric 2×2 or 3×3 matrices in closed form."""
    if len(matrix) == 2:
        (p,), (r, q) = matrix
        reach, middle = np.hypot((q - p) / 2, r), (p + q) / 2
        return middle - reach, np.abs(middle) + reach
    (p,), (d, q), (e, f, r) = matrix
    middle = (p + q + r) / 3
    a, b, c = p - middle, q - middle, r - middle
    size = np.sqrt((a * a + b * b + c * c + 2 * (d * d + e * e + f * f)) / 6)
    determinant = a * (b * c - f * f) - d * (d * c - f * e) + e * (d * f - b * e)
    angle = np.arccos(np.clip(determinant / np.maximum(2 * size**3, 1e-300), -1.0, 1.0)) / 3
    return middle + 2 * size * np.cos(angle + 2 * np.pi / 3), np.abs(middle) + 2 * size


def inverse(matrix: list[list[Array]], diagonal: list[Array]) -> list[list[Array]]:
    """Full inverse of a symmetric matrix, NaN where it is singular against `diagonal`."""
    k = len(matrix)
    zero = np.zeros_like(matrix[0][0])
    columns = []
    least = zero
    for i in range(k):
        unit = [zero + (1.0 if i == j else 0.0) for j in range(k)]
        column, least = solve_shifted(matrix, unit)
        columns.append(column)
    held = np.minimum.reduce([matrix[i][i] / np.maximum(diagonal[i], 1e-300) for i in range(k)])
    good = (least > 1e-13) & (held > 1e-13)
    return [[np.where(good, columns[j][i], np.nan) for j in range(k)] for i in range(k)]


def dot(one: list[Array], other: list[Array]) -> Array:
    """Scalar product for every curve."""
    total = one[0] * other[0]
    for a, b in zip(one[1:], other[1:], strict=True):
        total = total + a * b
    return total


def quadratic(matrix: list[list[Array]], vector: list[Array]) -> Array:
    """vᵀ·M·v for every curve."""
    k = len(vector)
    total: Array = sum((matrix[i][j] * vector[i] * vector[j] for i in range(k) for j in range(k)), np.zeros(1))
    return total
