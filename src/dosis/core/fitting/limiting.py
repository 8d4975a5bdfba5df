"""The result of a sigmoid at its minimum, with what a curve that is only an end or a step leaves open."""

from collections.abc import Set

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.limits import undetermined
from dosis.core.inference.covariance import unit_covariance
from dosis.core.inference.result import Fit
from dosis.core.models import Model


def sigmoid_result(
    model: Model, x: Array, y: Array, w: Array, values: Array, *, converged: bool, usual: bool = False
) -> Fit:
    """The fit at these parameters: x, y, w (n,), values (p,); `usual` where it is known to be at no limit."""
    from dosis.core.fitting.sigmoids.minimum import at_minimum
    from dosis.core.fitting.sigmoids.model import laid_out

    order = model.laid
    residuals, sse, covariance, root = at_minimum(*laid_out(model, values), len(order), x, y, w)
    if order != sorted(order):
        own = np.argsort(order)
        covariance, root = covariance[own][:, own], root[:, own]
    result = Fit(
        model=model, x=x, y=y, weights=w, weighting="none", values=values, fixed=frozenset(), residuals=residuals,
        sse=sse, unscaled_covariance=covariance, converged=converged,
        message="Converged." if converged else "Not converged from any start.", root=root,
    )  # fmt: skip
    if usual:
        return result
    lost, why = undetermined(model, result.places.levels, values)
    return _losing(result, lost, why) if lost else result


def _losing(result: Fit, names: Set[str], why: str) -> Fit:
    """The same fit with some parameters declared open: their variance is infinite, that of the others as if known.

    Of a curve at a limit, such as a step between two doses, the Jacobian alone does not tell.
    """
    jacobian = result.model.derivative(result.x, result.values)
    keep = [i for i, name in enumerate(result.model.names) if name not in names]
    covariance = np.full((len(result.values), len(result.values)), np.inf)
    if keep:
        covariance[np.ix_(keep, keep)] = unit_covariance(np.sqrt(result.weights)[:, None] * jacobian[:, keep])
    return result.but(unscaled_covariance=covariance, message=f"{result.message} {why}".strip())
