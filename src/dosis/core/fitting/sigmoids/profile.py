"""Profile-likelihood intervals of the midpoint for many logistic curves at once, by Newton on both its conditions."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.state import look, slopes
from dosis.core.models.shapes import logistic

MOST = 30
CLOSE = 1e-9  # of the rise asked for
OUT = 40.0  # standard errors beyond which a side counts as open


def profile_midpoints(curves: Curves, theta: Array, rise: Array, error: Array, t: Array) -> tuple[Array, Array, Array]:
    """Ends of each curve's interval on the scale of t, and which curves came to an end on both sides.

    At an end the sum of squares, smallest over the steepness, is `rise` above the minimum: two equations in the
    midpoint and the steepness, solved together from the quadratic guess.

    Parameters
    ----------
    theta : (2, curves) at the minimum; rise : (curves,) of ½ Σ w·r²; error : (curves,) standard errors of the
        midpoint on that scale; t : (curves,) quantiles of the level.
    """
    at_minimum = look(curves, theta, logistic)
    found = slopes(curves, at_minimum, np.ones(curves.count))
    b, middle = theta[1], -theta[0] / theta[1]
    h_ab, h_bb = _turned(found.matrix, found.gradient, middle, b)
    lean = -h_ab / h_bb
    ends, good = [], np.ones(curves.count, dtype=bool)
    for side in (-1.0, 1.0):
        step = side * t * error
        m, steep = middle + step, np.maximum(b + lean * step, 0.3 * b)
        done = np.zeros(curves.count, dtype=bool)
        for _ in range(MOST):
            state = look(curves, np.stack((-steep * m, steep)), logistic)
            found = slopes(curves, state, np.ones(curves.count))
            g_a, g_b = found.gradient
            f_m, f_b = -steep * g_a, g_b - m * g_a
            f_mb, f_bb = _turned(found.matrix, found.gradient, m, steep)
            excess = state.half_sse - at_minimum.half_sse - rise
            done = (np.abs(excess) <= CLOSE * rise) & (f_b * f_b <= CLOSE * rise * np.abs(f_bb)) & (f_bb > 0)
            if done.all():
                break
            determinant = f_m * f_bb - f_b * f_mb
            dm = -(excess * f_bb - f_b * f_b) / determinant
            db = -(f_m * f_b - f_mb * excess) / determinant
            reach = 0.5 * np.abs(m - middle)
            m = np.where(done, m, m + side * np.clip(side * dm, -reach, 2 * reach))
            steep = np.where(done, steep, steep + np.clip(db, -0.5 * steep, steep))
        good &= done & (side * (m - middle) > 0) & (np.abs(m - middle) < OUT * error)
        ends.append(m)
    return ends[0], ends[1], good


def _turned(matrix: list[list[Array]], gradient: list[Array], middle: Array, b: Array) -> tuple[Array, Array]:
    """∂²F/∂m∂b and ∂²F/∂b² at fixed midpoint, from the derivatives in u = a + b·t with a = −b·m."""
    (aa,), (ab, bb) = matrix
    return -b * (ab - middle * aa) - gradient[0], bb - 2 * middle * ab + middle * middle * aa
