"""The mirror image of a five-parameter curve, fitted as the curve itself of −y."""

from collections.abc import Mapping

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.result import Fit
from dosis.core.models import Model

ORDER = [1, 0, 2, 3, 4]  # lower and upper of −y are upper and lower of y, and the slope goes the other way
SIGN = np.array([-1.0, -1.0, 1.0, -1.0, 1.0])


def turned_values(values: Array) -> Array:
    """Parameters (…, 5) of y from those of −y, or the other way."""
    found: Array = values[..., ORDER] * SIGN
    return found


def turned_start(model: Model, start: Mapping[str, float] | None) -> dict[str, float] | None:
    """Start values of −y."""
    if start is None:
        return None
    values = turned_values(np.array([start[name] for name in model.names], dtype=float))
    return dict(zip(model.names, values.tolist(), strict=True))


def turned_over(model: Model, found: Fit) -> Fit:
    """The fit of the mirror image, from that of the curve through −y. What is open there is open here."""
    covariance = found.unscaled_covariance[np.ix_(ORDER, ORDER)] * np.outer(SIGN, SIGN)
    return Fit(
        model=model, x=found.x, y=-found.y, weights=found.weights, weighting=found.weighting,
        values=turned_values(found.values), fixed=frozenset(), residuals=-found.residuals, sse=found.sse,
        unscaled_covariance=np.where(np.isfinite(covariance), covariance, np.inf), converged=found.converged,
        message=found.message,
    )  # fmt: skip
