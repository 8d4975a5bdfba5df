"""`fit`: one curve model to one set of readings."""

from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.fitting.linear import solve
from dosis.core.fitting.weights import WeightRule, resolve_weights
from dosis.core.inference.result import Fit
from dosis.core.models import Model, model
from dosis.core.models.model import Array

Window = tuple[float | None, float | None]


def fit(
    curve: str | Model,
    x: ArrayLike,
    y: ArrayLike,
    *,
    weights: WeightRule | ArrayLike | None = None,
    sd: ArrayLike | None = None,
    window: Window | None = None,
) -> Fit:
    """Fit a curve model by (weighted) least squares.

    Parameters
    ----------
    curve : id of a model ("line", "line_through_zero") or a model itself.
    x, y : 1-d, equally long; in any units, which the results share.
    weights : a rule ("1/y^2", "1/x", "1/sd^2" …), an array of n positive weights, or None for equal weights.
        The signal in "1/y" and "1/y^2" is the measured one.
    sd : standard deviation of every reading, for weights "1/sd^2".
    window : (lowest x, highest x) taken into the fit, both ends included; None leaves an end open.

    Returns
    -------
    Fit : parameters with standard errors, goodness of fit, prediction and read-back.

    Raises
    ------
    ValueError : for unequal lengths, numbers that are not finite, too few readings or too few different x for the
        model, weights that are not positive; the message gives the count and the need.

    Notes
    -----
    Linear models are solved by QR (Golub & Van Loan, Matrix Computations, 5.3), never by the normal equations.
    """
    chosen = curve if isinstance(curve, Model) else model(curve)
    xs, ys = _readings(x, "x"), _readings(y, "y")
    sds = None if sd is None else _readings(sd, "sd")
    if xs.shape != ys.shape or (sds is not None and sds.shape != ys.shape):
        raise ValueError(f"x has {xs.size} numbers and y has {ys.size}; they must be equally long, and so must sd.")
    inside = _inside(xs, window)
    column: Any = weights
    if weights is not None and not isinstance(weights, str):
        column = np.asarray(weights, dtype=float)
        column = column[inside] if column.shape == xs.shape else column
    xs, ys, sds = xs[inside], ys[inside], None if sds is None else sds[inside]
    need, levels = len(chosen.parameters), np.unique(xs).size
    if xs.size < need:
        raise ValueError(f"{chosen.name} needs at least {need} readings; there {_are(xs.size)}.")
    if levels < need:
        raise ValueError(f"{chosen.name} needs at least {need} different x; there {_are(levels)} (x = {xs[0]:g}).")
    with np.errstate(over="ignore", under="ignore", invalid="ignore", divide="ignore"):
        w = resolve_weights(column, xs, ys, sds)
        solution = solve(chosen.derivative(xs, np.zeros(need)), ys, w)
        sse = float((w * solution.residuals**2).sum())
    if solution.rank < need:
        raise ValueError(f"{chosen.name} cannot be told from these x: {levels} different values carry too little.")
    variances = np.diag(solution.unscaled_covariance)
    if not (np.isfinite(sse) and np.isfinite(variances).all() and (variances > 0).all()):
        raise ValueError("These numbers are too large or too small for a fit; give x and y in other units.")
    rule = weights if isinstance(weights, str) else "none" if weights is None else "given"
    return Fit(
        model=chosen,
        x=xs,
        y=ys,
        weights=w,
        weighting=rule,
        values=solution.parameters,
        residuals=solution.residuals,
        sse=sse,
        unscaled_covariance=solution.unscaled_covariance,
        converged=True,
        message="Solved directly; a model that is linear in its parameters needs no iteration.",
    )


def _readings(values: ArrayLike, name: str) -> Array:
    array = np.atleast_1d(np.asarray(values, dtype=float))
    if array.ndim != 1:
        raise ValueError(f"{name} has {array.ndim} dimensions; it must be a plain list of numbers.")
    finite = np.isfinite(array)
    if not finite.all():
        first = int(np.flatnonzero(~finite)[0]) + 1
        raise ValueError(
            f"{int((~finite).sum())} of {array.size} numbers in {name} are missing or infinite (first at "
            f"position {first}); leave those readings out."
        )
    return array


def _inside(x: Array, window: Window | None) -> Any:
    low, high = window or (None, None)
    return (x >= (-np.inf if low is None else low)) & (x <= (np.inf if high is None else high))


def _are(count: int) -> str:
    return "is 1" if count == 1 else f"are {count}" if count else "are none"
