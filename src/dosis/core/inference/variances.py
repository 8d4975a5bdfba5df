"""Variances along gradients, of many fits at once."""

from collections.abc import Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.fitted import Fitted

CANCELED = 1e-9  # share of its terms below which little of a sum is left but rounding


def variances_along(fits: Sequence[Fitted], gradients: Array) -> Array:
    """gᵀ·C·g of each fit with the gradient (fits, p) of its own: (fits,); NaN for a fit that is not settled."""
    none = np.full((gradients.shape[1],) * 2, np.nan)
    covariance = np.stack([none if (each := fit.settled) is None else each for fit in fits])
    variance: Array = np.einsum("ci,cij,cj->c", gradients, covariance, gradients)
    size = np.einsum("ci,cij,cj->c", np.abs(gradients), np.abs(covariance), np.abs(gradients))
    for i in np.flatnonzero(variance < CANCELED * size).tolist():
        variance[i] = fits[i].variance_along(gradients[i : i + 1])[0]
    return variance


def with_degrees(
    fits: Sequence[Fitted], gradients: Array, *, carried: Array | None = None
) -> tuple[Array, list[float]]:  # fmt: skip
    """The same variances, and the degrees of freedom of each, which common errors change.

    carried : (fits,) of the unit of what is asked for, by which a common error is multiplied that the response itself
        carries; None where it is no response.
    """
    variance = variances_along(fits, gradients)
    df: list[float] = []
    for i, fit in enumerate(fits):
        if not fit.common:
            df.append(fit.degrees_of_freedom)
            continue
        parts = fit.common_parts(gradients[i : i + 1])
        if carried is not None:
            carries = -carried[i] * np.array([[error.carries] for error in fit.common])
            both = fit.common_parts(gradients[i : i + 1], carries)
            variance[i] += float(both.sum()) - float(parts.sum())
            parts = both
        df.append(fit.df_of(float(variance[i]), parts[:, 0]))
    return variance, df
