"""Better coordinates for a sigmoid with a power: the half point, the slope there, and the power itself.

In (a, b, ln g) the three trade off along a bent valley; the place where half is reached and the slope there stay the
same along it, so in their coordinates the valley is straight and Newton's method goes down it.
"""

import math

from dosis.core.fitting.sigmoids.arithmetic import LN2, exponential
from dosis.core.fitting.sigmoids.compiled import inlined
from dosis.core.fitting.sigmoids.look import Theta, Triangle
from dosis.core.fitting.sigmoids.shape import minus_log

MOST = 600.0  # of ln 2/g

Half = tuple[float, float, float, float, float, float]


@inlined
def turned(theta: Theta, half: Half, exact: float, gradient: Theta, matrix: Triangle) -> tuple[Theta, Triangle]:
    """Gradient and matrix in (μ, σ, ln g): M where h is a half, as μ = b·M with b held, and σ = ln of the slope there.

    u = κ + b·(t − M) with κ = −ln(2^(1/g) − 1), and b = e^σ/ρ with ρ = g·(1 − 2^(−1/g))/2; the chain rule, twice.
    """
    a, b, _ = theta
    k0, k1, k2, _, r1, r2 = half
    middle = (k0 - a) / b
    g_a, g_b, g_g = gradient
    aa, ab, bb, ag, bg, gg = matrix
    mb, br = middle * b, b * r1
    a_s, a_g, b_g = -mb, k1 + mb * r1, -br
    # What the bend of the coordinates adds, with `exact`, belongs to Newton's matrix only.
    bend_b = b * (r1 * r1 - r2)
    ms = -(a_s * aa + b * ab) - exact * g_a
    ss = a_s * a_s * aa + 2 * a_s * b * ab + b * b * bb + exact * (-mb * g_a + b * g_b)
    mg = -(a_g * aa + b_g * ab + ag) + exact * r1 * g_a
    sg = a_s * (a_g * aa + b_g * ab + ag) + b * (a_g * ab + b_g * bb + bg) + exact * (mb * r1 * g_a - br * g_b)
    gg = a_g * a_g * aa + b_g * b_g * bb + gg + 2 * (a_g * b_g * ab + a_g * ag + b_g * bg)
    gg += exact * ((k2 - middle * bend_b) * g_a + bend_b * g_b)
    return (-g_a, a_s * g_a + b * g_b, a_g * g_a + b_g * g_b + g_g), (aa, ms, ss, mg, sg, gg)


@inlined
def moved(theta: Theta, step: Theta, before: Half, after: Half) -> Theta:
    """θ = (a, b, ln g) after a step in (μ, σ, ln g), with the half points of the two powers."""
    a, b, power = theta
    middle = (before[0] - a + step[0]) / b
    steep = b * exponential(min(max(before[3] + step[1] - after[3], -50.0), 50.0))[0]
    return after[0] - steep * middle, steep, power + step[2]


@inlined
def with_power(theta: Theta, power: float) -> Theta:
    """θ of the curve with another power, the same half point and the same slope there."""
    return moved(
        theta,
        (0.0, 0.0, power - theta[2]),
        half_point(theta[2], math.exp(theta[2])),
        half_point(power, math.exp(power)),
    )


@inlined
def turned_at(place: float, theta: Theta, exact: float, gradient: Theta, matrix: Triangle) -> tuple[Theta, Triangle]:
    """The same in (ln of −ln h at a place, ln of g·b, ln g), for a curve with a kink after that place.

    With g towards 0 and g·b held, h becomes e^(g·b·(t − m)) up to a kink and 1 beyond. What h is at the last place
    before the kink, or within 1/b of it, then says where the kink is.
    """
    a, b, _ = theta
    bt = b * place
    g_a, g_b, g_g = gradient
    aa, ab, bb, ag, bg, gg = matrix
    # First in u at the place: a = u − b·place and b = k/g, of which a derivative in ln k is that in ln g, turned round.
    slope = b * g_b - bt * g_a
    uk, kk = b * ab - bt * aa, bt * bt * aa - 2 * bt * b * ab + b * b * bb + exact * slope
    ug, kg = ag - uk, b * bg - bt * ag - kk
    gg += kk - 2 * (kg + kk)
    g_g -= slope
    # Then u by L = −ln h/g = ln(1 + e^−u), as du/d ln L = −f.
    logarithm = minus_log(a + bt)
    less = -exponential(-logarithm)[1]
    f = logarithm / less if less > 0 else 1.0
    bend = exact * g_a * f * (1.0 - (f - logarithm))
    vv = f * f * aa - bend
    vg = -f * (ug + f * aa) + bend
    return (-f * g_a, slope, g_g + f * g_a), (vv, -f * uk, kk, vg, kg + f * uk, gg + 2 * f * ug + f * f * aa - bend)


@inlined
def moved_at(place: float, theta: Theta, step: Theta) -> Theta:
    """θ = (a, b, ln g) after a step in those coordinates."""
    a, b, power = theta
    steep = b * exponential(min(max(step[1] - step[2], -50.0), 50.0))[0]
    u = a + b * place
    logarithm = minus_log(u) * exponential(min(max(step[0] - step[2], -50.0), 50.0))[0]
    u = -logarithm - math.log(max(-exponential(-logarithm)[1], 1e-300))
    return u - steep * place, steep, power + step[2]


@inlined
def half_point(power: float, g: float) -> Half:
    """κ with two derivatives in ln g, ln 2ρ with two."""
    w = min(LN2 / g, MOST)
    less = exponential(w)[1]
    share = w / less  # w/(q − 1), q = 2^(1/g)
    logarithm = math.log(less)
    k1 = w + share
    bent = share * share * (less + 1.0)
    return -logarithm, k1, bent - k1, power - w + logarithm, 1.0 - share, share - bent
