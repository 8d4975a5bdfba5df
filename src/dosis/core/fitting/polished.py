"""The last digits of a minimum: full Gauss–Newton steps, kept while they do not lead away."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.model import Model

STEPS = 4
SLACK = 1e-9  # share by which rounding may raise the sum of squares at a minimum
SMALL = 1e-3  # largest step, as a share of a parameter, that is only one of the last digits


def polished(model: Model, x: Array, y: Array, w: Array, values: Array) -> Array:
    """Parameters (p,) nearer to the minimum they are at; the same where they cannot be moved."""
    root = np.sqrt(w)
    best, least = values, np.inf
    for _ in range(STEPS):
        value, jacobian = model.value_and_derivative(x, best)
        weighted, residual = root[:, None] * jacobian, root * (y - value)
        sse = float(residual @ residual)
        scale = np.sqrt(np.square(weighted).sum(axis=0))
        if not (np.isfinite(sse) and np.isfinite(scale).all() and (scale > 0).all()) or sse > least * (1 + SLACK):
            return values
        values, least = best, min(sse, least)
        step = np.linalg.lstsq(weighted / scale, residual, rcond=None)[0] / scale
        if not np.isfinite(step).all() or (np.abs(step) > SMALL * np.abs(best)).any():
            return values
        best = best + step
    return values
