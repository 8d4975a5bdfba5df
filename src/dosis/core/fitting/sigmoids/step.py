"""A Newton step of three unknowns within a radius; of two, where the third row is that of the identity."""

import math

from dosis.core.fitting.sigmoids.compiled import inlined
from dosis.core.fitting.sigmoids.look import Theta, Triangle

Step = Theta


@inlined
def solve_shifted(matrix: Triangle, right: Step, shift: float) -> tuple[Step, float]:
    """Solve (matrix + shift·I)·x = right by LDLᵀ; and the least pivot against its diagonal.

    A least pivot at or below zero says: not positive definite.
    """
    m00, m10, m11, m20, m21, m22 = matrix
    d0, d1, d2 = m00 + shift, m11 + shift, m22 + shift
    over0 = 1.0 / (d0 if d0 != 0 else 1e-300)
    l10, l20 = m10 * over0, m20 * over0
    p1 = d1 - l10 * m10
    over1 = 1.0 / (p1 if p1 != 0 else 1e-300)
    below = m21 - l20 * m10
    l21 = below * over1
    p2 = d2 - l20 * m20 - l21 * below
    over2 = 1.0 / (p2 if p2 != 0 else 1e-300)
    least = min(d0 / max(abs(d0), 1e-300), p1 / max(abs(d1), 1e-300), p2 / max(abs(d2), 1e-300))
    z1 = right[1] - l10 * right[0]
    x2 = (right[2] - l20 * right[0] - l21 * z1) * over2
    x1 = z1 * over1 - l21 * x2
    return (right[0] * over0 - l10 * x1 - l20 * x2, x1, x2), least


@inlined
def lowest(matrix: Triangle, two: bool) -> float:
    """The lowest eigenvalue of a symmetric 2×2 or 3×3 matrix in closed form."""
    m00, m10, m11, d, e, m22 = matrix
    if two:
        return 0.5 * (m00 + m11) - math.sqrt(0.25 * (m11 - m00) * (m11 - m00) + m10 * m10)
    middle = (m00 + m11 + m22) / 3
    a, b, c = m00 - middle, m11 - middle, m22 - middle
    size = math.sqrt((a * a + b * b + c * c + 2 * (m10 * m10 + d * d + e * e)) / 6)
    determinant = a * (b * c - e * e) - m10 * (m10 * c - e * d) + d * (m10 * e - b * d)
    angle = math.acos(min(max(determinant / max(2 * size * size * size, 1e-300), -1.0), 1.0)) / 3
    return middle + 2 * size * math.cos(angle + 2 * math.pi / 3)


@inlined
def dot(one: Step, other: Step) -> float:
    """Scalar product."""
    return one[0] * other[0] + one[1] * other[1] + one[2] * other[2]


@inlined
def shortened(matrix: Triangle, right: Step, step: Step, radius: float, two: bool, definite: bool) -> Step:
    """A step within a radius: (matrix + λ·I)·x = right with λ from one Newton step (Moré & Sorensen 1983), then cut.

    step : the one with λ = 0, which holds where the matrix is `definite`.
    """
    shift = 0.0
    if not definite:
        shift = max(-2.0 * lowest(matrix, two), 0.0) + 1e-12
        shift += 1e-9 * (abs(matrix[0]) + abs(matrix[2]) + (0.0 if two else abs(matrix[5])))
        step, _ = solve_shifted(matrix, right, shift)
    again, _ = solve_shifted(matrix, step, shift)
    square = dot(step, step)
    excess = max(math.sqrt(square) / radius - 1.0, 0.0)
    step, _ = solve_shifted(matrix, right, shift + excess * square / max(dot(step, again), 1e-300))
    factor = min(radius / max(math.sqrt(dot(step, step)), 1e-300), 1.0)
    return step[0] * factor, step[1] * factor, step[2] * factor


@inlined
def promised(matrix: Triangle, right: Step, x: Step) -> float:
    """How far the quadratic falls along x: rightᵀ·x − ½ xᵀ·matrix·x; 0 where that is not a number."""
    m00, m10, m11, m20, m21, m22 = matrix
    bent = m00 * x[0] * x[0] + m11 * x[1] * x[1] + m22 * x[2] * x[2]
    bent += 2.0 * (m10 * x[0] * x[1] + m20 * x[0] * x[2] + m21 * x[1] * x[2])
    fall = dot(right, x) - 0.5 * bent
    return fall if math.isfinite(fall) else 0.0
