"""Many curves on the same x as full results: fitted at once, each then a `Fit` like any other."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.fitting.batch import fit_many
from dosis.core.fitting.limiting import sigmoid_result
from dosis.core.inference.covariance import unit_covariance
from dosis.core.inference.result import Fit
from dosis.core.models import Model


def fit_each(model: Model, x: ArrayLike, y: ArrayLike) -> list[Fit | None]:
    """Fit a sigmoid between free plateaus to every row of y, with equal weights, and give what `fit` gives for each.

    Parameters
    ----------
    x : (n,), the same for all curves; y : (curves, n), every reading there.

    Returns
    -------
    list : a curve that has not converged here is None; `fit` it alone, which says why.

    Raises
    ------
    ValueError : as `fit_many`.
    """
    found = fit_many(model, x, y)
    xs, ys, w = found.readings
    with np.errstate(all="ignore"):
        value, jacobian = model.value_and_derivative(xs, found.values)
        residuals = ys - value
        sse: Array = np.square(residuals).sum(axis=1)
        plain = found.converged & np.isfinite(found.standard_errors).all(axis=1)
        covariance = unit_covariance(np.where(plain[:, None, None], jacobian, 0.0))

        def result(i: int) -> Fit | None:
            if not found.converged[i] or not np.isfinite(sse[i]):
                return None
            if not plain[i]:
                return sigmoid_result(model, xs, ys[i], w[i], found.values[i], converged=True)
            return Fit(
                model=model, x=xs, y=ys[i], weights=w[i], weighting="none", values=found.values[i],
                fixed=frozenset(), residuals=residuals[i], sse=float(sse[i]), unscaled_covariance=covariance[i],
                converged=True, message="Converged.",
            )  # fmt: skip

        return [result(i) for i in range(len(ys))]
