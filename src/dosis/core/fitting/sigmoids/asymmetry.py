"""Better coordinates for a sigmoid with a power: the half point, the slope there, and the power itself.

In (a, b, ln g) the three trade off along a bent valley; the place where half is reached and the slope there stay the
same along it, so in their coordinates the valley is straight and Newton's method goes down it.
"""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.state import Slopes

LN2 = float(np.log(2.0))


def turned(found: Slopes, theta: Array) -> Slopes:
    """Gradient and matrix in (μ, σ, ln g): M where h is a half, as μ = b·M with b held, and σ = ln of the slope there.

    u = κ + b·(t − M) with κ = −ln(2^(1/g) − 1), and b = e^σ/ρ with ρ = g·(1 − 2^(−1/g))/2; the chain rule, twice.
    """
    a, b, _ = theta
    k0, k1, k2, r1, r2 = _half(theta[2])
    middle = (k0 - a) / b
    g_a, g_b, g_g = found.gradient
    (h_aa,), (h_ab, h_bb), (h_ag, h_bg, h_gg) = found.matrix
    mb, br = middle * b, b * r1
    a_s, a_g, b_g = -mb, k1 + mb * r1, -br
    gradient = [-g_a, a_s * g_a + b * g_b, a_g * g_a + b_g * g_b + g_g]
    ss = a_s * a_s * h_aa + 2 * a_s * b * h_ab + b * b * h_bb
    ms = -(a_s * h_aa + b * h_ab)
    mg = -(a_g * h_aa + b_g * h_ab + h_ag)
    sg = a_s * (a_g * h_aa + b_g * h_ab + h_ag) + b * (a_g * h_ab + b_g * h_bb + h_bg)
    gg = a_g * a_g * h_aa + b_g * b_g * h_bb + h_gg + 2 * (a_g * b_g * h_ab + a_g * h_ag + b_g * h_bg)
    # What the bend of the coordinates adds, which belongs to Newton's matrix only.
    bend_b = b * (r1 * r1 - r2)
    ms = ms - found.exact * g_a
    mg = mg + found.exact * r1 * g_a
    ss = ss + found.exact * (-mb * g_a + b * g_b)
    sg = sg + found.exact * (mb * r1 * g_a - br * g_b)
    gg = gg + found.exact * ((k2 - middle * bend_b) * g_a + bend_b * g_b)
    return Slopes(gradient, [[h_aa], [ms, ss], [mg, sg, gg]], found.scale, found.exact)


def moved(theta: Array, step: Array) -> Array:
    """θ = (a, b, ln g) after a step in (μ, σ, ln g)."""
    a, b, power = theta
    k0, _, _, _, _ = _half(power)
    middle = (k0 - a) / b + step[0] / b
    new_power = power + step[2]
    steep = np.exp(np.clip(np.log(b) + _log_rho(power) + step[1] - _log_rho(new_power), -50, 50))
    return np.stack((_half(new_power)[0] - steep * middle, steep, new_power))


def _half(power: Array) -> tuple[Array, Array, Array, Array, Array]:
    """κ with two derivatives in ln g, and those of ln ρ."""
    w = np.minimum(LN2 * np.exp(-power), 600.0)
    less = np.expm1(w)
    share = w / less  # w/(q − 1), q = 2^(1/g)
    k1 = w + share
    bent = share * share * (less + 1.0)
    return -np.log(less), k1, bent - k1, 1.0 - share, share - bent


def _log_rho(power: Array) -> Array:
    w = np.minimum(LN2 * np.exp(-power), 600.0)
    rho: Array = power + np.log(-np.expm1(-w))
    return rho
