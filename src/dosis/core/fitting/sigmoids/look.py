"""Where one sigmoid stands: plateaus solved for, sum of squares, gradient and Hessian in the rest."""

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.compiled import inlined
from dosis.core.fitting.sigmoids.shape import LOGISTIC, NOWHERE, POWERED, gumbel, high_up, logistic, powered

TINY = 1e-280
ROWS = 7  # of a state: h less its mean, residuals, h′, h″, and in ln g: dh, d²h, d²h′

Theta = tuple[float, float, float]  # a, b, ln g
Triangle = tuple[float, float, float, float, float, float]  # a symmetric matrix: 00, 10, 11, 20, 21, 22


@inlined
def look(
    form: int, t: Array, y: Array, w: Array, weight: float, theta: Theta, g: float, states: Array, at: int
) -> tuple[float, float, float, float]:
    """Solve for the plateaus at θ by linear least squares on (1, h), centered: ½ Σ w·r², the rise, Σ w·(h − h̄)², h̄.

    Where all of the curve is high up, h is held as h − 1, and h̄ is less than zero.

    t, y, w : (n,), t rising or falling, weight Σ w; g : e^θ₂; states : (2, 7, n), of which the one `at` is filled.
    """
    a, b, _ = theta
    n = t.size
    from_bottom = from_top = 0.0
    if form == POWERED:
        for i in range(n):
            in_u, in_power = powered(t[i], a + b * t[i], g)
            states[at, 0, i], states[at, 1, i], states[at, 2, i], states[at, 3, i] = in_u
            states[at, 4, i], states[at, 5, i], states[at, 6, i] = in_power
            from_bottom += w[i] * in_u[0]
            from_top += w[i] * in_u[1]
    elif form == LOGISTIC:
        for i in range(n):
            in_u = logistic(a + b * t[i])
            states[at, 0, i], states[at, 1, i], states[at, 2, i], states[at, 3, i] = in_u
            from_bottom += w[i] * in_u[0]
            from_top += w[i] * in_u[1]
    else:
        for i in range(n):
            in_u = gumbel(form, a + b * t[i])
            states[at, 0, i], states[at, 1, i], states[at, 2, i], states[at, 3, i] = in_u
            from_bottom += w[i] * in_u[0]
            from_top += w[i] * in_u[1]
    high = high_up(t, states[at, 0])
    held, mean = (1, from_top / weight) if high else (0, from_bottom / weight)
    size = product = 0.0
    for i in range(n):
        centered = states[at, held, i] - mean
        states[at, 0, i] = centered
        size += w[i] * centered * centered
        product += w[i] * centered * y[i]
    rise = product / size if size > TINY else 0.0
    half = 0.0
    for i in range(n):
        residual = y[i] - rise * states[at, 0, i]
        states[at, 1, i] = residual
        half += w[i] * residual * residual
    return 0.5 * half, rise, max(size, TINY), mean


@inlined
def slopes(
    form: int, t: Array, w: Array, weight: float, rise: float, size: float, exact: float, states: Array, at: int
) -> tuple[Theta, Triangle, float]:
    """Gradient and matrix of ½ Σ w·r² in θ, plateaus at their best; the exact Hessian where `exact` is 1.

    With 0 it is Gauss and Newton's. With the plateaus eliminated the Hessian is H_θθ less a Schur complement, which
    centering makes two outer products. Last comes the first diagonal entry before that, as a measure of scale. Without
    a power its row is zero.
    """
    m0 = m1 = m2 = c0 = c1 = c2 = r0 = r1 = r2 = 0.0
    s00 = s10 = s11 = s20 = s21 = s22 = scale = 0.0
    square, bend = rise * rise, rise * exact
    for i in range(t.size):
        x = t[i] if abs(t[i]) < -NOWHERE else 0.0
        centered, residual = states[at, 0, i], states[at, 1, i]
        pull = w[i] * states[at, 2, i]
        m0 += pull
        m1 += pull * x
        c0 += pull * centered
        c1 += pull * centered * x
        r0 += pull * residual
        r1 += pull * residual * x
        steep = square * pull * states[at, 2, i]
        scale += steep
        curved = steep - bend * w[i] * residual * states[at, 3, i]
        s00 += curved
        s10 += curved * x
        s11 += curved * x * x
        if form == POWERED:
            by = w[i] * states[at, 4, i]
            m2 += by
            c2 += by * centered
            r2 += by * residual
            mixed = square * pull * states[at, 4, i] - bend * w[i] * residual * states[at, 6, i]
            s20 += mixed
            s21 += mixed * x
            s22 += square * by * states[at, 4, i] - bend * w[i] * residual * states[at, 5, i]
    share = square / weight
    l0, l1, l2 = rise * c0 - exact * r0, rise * c1 - exact * r1, rise * c2 - exact * r2
    matrix = (
        s00 - share * m0 * m0 - l0 * l0 / size,
        s10 - share * m0 * m1 - l0 * l1 / size,
        s11 - share * m1 * m1 - l1 * l1 / size,
        s20 - share * m0 * m2 - l0 * l2 / size,
        s21 - share * m1 * m2 - l1 * l2 / size,
        s22 - share * m2 * m2 - l2 * l2 / size,
    )
    return (-rise * r0, -rise * r1, -rise * r2), matrix, scale
