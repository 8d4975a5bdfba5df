"""Errors that many readings have in common, such as that of the blank subtracted from all of them."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.spread import Spread, effective


@dataclass(frozen=True, eq=False)
class CommonError:
    """An error of zero mean that readings share: where it is e, each of them is off by on·e.

    spread : its variance, in squared units of what it is an error of, and the degrees of freedom of that.
    on : (n,) how much of it each reading of the fit has. shift : (p,) by which it moves the parameters, where that is
    known without asking the readings. carries : how much of it a sample has that is read back, or a response that is
    looked for.
    """

    spread: Spread
    on: Array | None = None
    carries: float = 0.0
    shift: Array | None = None


def parts_of(errors: Sequence[CommonError], shifts: Array, gradients: Array, carries: Array | None = None) -> Array:
    """What each common error adds to the variance along gradients: (k, m).

    shifts : (k, p) by which each moves the parameters; gradients : (m, p); carries : (k, m), zero by default.
    """
    variances = np.array([error.spread.variance for error in errors])
    with np.errstate(all="ignore"):  # a spread too large for a number leaves no interval
        moved = shifts @ gradients.T
        parts: Array = variances[:, None] * np.square(moved if carries is None else carries - moved)
    return parts


def shifts_of(errors: Sequence[CommonError], jacobian: Array, weights: Array, covariance: Array) -> Array:
    """By how much each error, of size one, moves the parameters of a weighted fit: (k, p).

    jacobian : (n, p); covariance : (p, p), for a residual variance of one.
    """
    on = np.stack([np.zeros(weights.size) if error.on is None else error.on for error in errors], axis=1)
    with np.errstate(invalid="ignore"):
        moved: Array = (covariance @ (jacobian.T @ (weights[:, None] * on))).T
    return moved


def effective_df(errors: Sequence[CommonError], parts: Array, *own: Spread) -> float:
    """Degrees of freedom of a variance of which `parts` (k,) are those of the common errors and `own` all others."""
    shared = [Spread(part, error.spread.degrees_of_freedom) for part, error in zip(parts.tolist(), errors, strict=True)]
    return effective((*own, *shared))
