"""Profile-likelihood intervals of the midpoint for many logistic curves, by Newton on both its conditions."""

import math

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.fitting.sigmoids.compiled import compiled
from dosis.core.fitting.sigmoids.look import ROWS, Theta, Triangle, look, slopes
from dosis.core.fitting.sigmoids.shape import LOGISTIC

MOST = 30
CLOSE = 1e-9  # of the rise asked for
OUT = 40.0  # standard errors beyond which a side counts as open


@compiled
def profile_midpoints(
    t: Array, y: Array, w: Array, theta: Array, rise: Array, error: Array, quantile: Array
) -> tuple[Array, Flags]:
    """Ends (curves, 2) of each curve's interval on the scale of t, and which curves came to an end on both sides.

    At an end the sum of squares, smallest over the steepness, is `rise` above the minimum: two equations in the
    midpoint and the steepness, solved together from the quadratic guess.

    t : (n,); y : (curves, n), w : (curves, n) or (1, n); theta : (curves, 3) at the minimum; rise : (curves,) of
    ½ Σ w·r²; error : (curves,) standard errors of the midpoint on that scale; quantile : (curves,) of the level.
    """
    ends, good = np.empty((len(y), 2)), np.ones(len(y), dtype=np.bool_)
    state = np.empty((1, ROWS, t.size))
    for c in range(len(y)):
        own = w[c if len(w) > 1 else 0]
        weight = max(own.sum(), 1e-300)
        b, middle = theta[c, 1], -theta[c, 0] / theta[c, 1]
        least, height, size, _ = look(LOGISTIC, t, y[c], own, weight, (theta[c, 0], b, 0.0), 1.0, state, 0)
        gradient, matrix, _ = slopes(LOGISTIC, t, own, weight, height, size, 1.0, state, 0)
        mixed, bent = at_midpoint(matrix, gradient, middle, b)
        for which, side in enumerate((-1.0, 1.0)):
            step = side * quantile[c] * error[c]
            m, steep, done = middle + step, max(b - mixed / bent * step, 0.3 * b), False
            for _turn in range(MOST):
                at = (-steep * m, steep, 0.0)
                half, height, size, _ = look(LOGISTIC, t, y[c], own, weight, at, 1.0, state, 0)
                gradient, matrix, _ = slopes(LOGISTIC, t, own, weight, height, size, 1.0, state, 0)
                f_m, f_b = -steep * gradient[0], gradient[1] - m * gradient[0]
                f_mb, f_bb = at_midpoint(matrix, gradient, m, steep)
                excess = half - least - rise[c]
                done = abs(excess) <= CLOSE * rise[c] and f_b * f_b <= CLOSE * rise[c] * abs(f_bb) and f_bb > 0
                if done:
                    break
                determinant = f_m * f_bb - f_b * f_mb
                reach = 0.5 * abs(m - middle)
                m += side * min(max(-side * (excess * f_bb - f_b * f_b) / determinant, -reach), 2 * reach)
                steep += min(max(-(f_m * f_b - f_mb * excess) / determinant, -0.5 * steep), steep)
                if not (math.isfinite(m) and math.isfinite(steep)):
                    break
            good[c] &= done and side * (m - middle) > 0 and abs(m - middle) < OUT * error[c]
            ends[c, which] = m
    return ends, good


@compiled
def at_midpoint(matrix: Triangle, gradient: Theta, middle: float, b: float) -> tuple[float, float]:
    """∂²F/∂m∂b and ∂²F/∂b² at fixed midpoint, from the derivatives in u = a + b·t with a = −b·m."""
    aa, ab, bb = matrix[0], matrix[1], matrix[2]
    return -b * (ab - middle * aa) - gradient[0], bb - 2 * middle * ab + middle * middle * aa
