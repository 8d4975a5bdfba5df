"""A step of Fisher scoring."""

import numpy as np

from dosis.core.arrays import Array

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
