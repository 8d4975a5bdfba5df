"""What every search for the greatest likelihood of counts needs: a step of Fisher scoring, and the deviance."""

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array

NONE = 1e-9  # a background below which there is none
LINE = 2  # parameters of a line; what comes after them is a background


def scoring_step(information: Array, gradient: Array, free: list[int]) -> Array:
    """I⁻¹·g over the free parameters, zero for the others, (p,); directions of which nothing is known get no step.

    A background near none is known so much better than the line that the two are scaled alike first.
    """
    part, step = information[np.ix_(free, free)], np.zeros(gradient.size)
    size = np.ones(len(free))
    if len(free) > LINE:
        size = np.sqrt(np.maximum(np.diag(part), 1e-300))
    step[free] = np.linalg.lstsq(part / np.outer(size, size), gradient[free] / size, rcond=None)[0] / size
    return step


def deviance_of(shares: Array, affected: Array, exposed: Array) -> float:
    """Twice the log likelihood short of the saturated model's; empty cells count as zero. All (k,)."""
    p, r, n = shares, affected, exposed
    return float(2 * (special.xlogy(r, r / (n * p)) + special.xlogy(n - r, (n - r) / (n * (1 - p)))).sum())
