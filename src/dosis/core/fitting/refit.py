"""Fitting one curve again and again to new readings at the same x, from the parameters it has: for the bootstrap."""

from collections.abc import Set

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.batch_descent import Batch, descend_all
from dosis.core.fitting.nonlinear import Problem
from dosis.core.models import Model
from dosis.core.places import places


def refit_many(model: Model, x: Array, y: Array, w: Array, values: Array, fixed: Set[str]) -> Array:
    """Parameters (draws, p) of the best fit to each row of y, from `values`; NaN where there is none.

    x, w : (n,); y : (draws, n); fixed : names of parameters that stay as they are.
    """
    if fixed:
        held = {name: float(value) for name, value in zip(model.names, values, strict=True) if name in fixed}
        found = (Problem(model, x, row, w, held, {}).solve([values], thorough=False) for row in y)
        return np.array([np.full(values.size, np.nan) if each is None else each[0] for each in found])
    at = places(x)
    member = (at.group[:, None] == np.arange(at.levels.size)) * w[:, None]
    weight = member.sum(axis=0)
    mean = y @ member / weight
    if model.sigmoid is not None:
        from dosis.core.fitting.sigmoids.model import fit_sigmoids

        pure = (w * np.square(y - mean[:, at.group])).sum(axis=1)
        return fit_sigmoids(model, at.levels, mean, weight[None], pure, values, errors=False).values
    batch = Batch(model, at.levels, mean, np.broadcast_to(weight, mean.shape))
    return descend_all(batch, np.tile(values, (len(y), 1)))[0]
