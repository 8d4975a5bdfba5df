"""`fit`: a curve model to one set of readings, or to several series at once."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from functools import lru_cache
from typing import Literal, overload

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.corners import between_corners
from dosis.core.fitting.limiting import sigmoid_result
from dosis.core.fitting.linear import solve
from dosis.core.fitting.nonlinear import Bounds, Problem
from dosis.core.fitting.polished import polished
from dosis.core.fitting.projected import projected_starts
from dosis.core.fitting.readings import ByFit, Readings, Window, enough, known, readings
from dosis.core.fitting.robust import reweight, robust_variance
from dosis.core.fitting.searched import search
from dosis.core.fitting.shared import fit_shared
from dosis.core.fitting.starts import starts
from dosis.core.fitting.turned_over import turned_over, turned_start
from dosis.core.fitting.weights import Rising, WeightRule
from dosis.core.inference.covariance import Pool
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.result import Fit
from dosis.core.models import Model, model
from dosis.core.places import places

OWN = "custom"  # id of an own equation
ENDS = 3  # minima of a search from which a fit goes on
MOST_PASSES = 60  # of re-weighting
LOST_PASSES = 4  # in a row without a minimum, after which there is no hope of one
Robust = Literal["huber", "bisquare"]


@overload
def fit(
    curve: str | Model, x: ArrayLike, y: ArrayLike, *, weights: WeightRule | Rising | ArrayLike | None = ...,
    sd: ArrayLike | None = ..., series: None = ..., share: Sequence[str] = ...,
    fixed: Mapping[str, float] | None = ..., bounds: Bounds | None = ..., start: Mapping[str, float] | None = ...,
    robust: Robust | None = ..., window: Window | None = ..., leave_out: tuple[int, int] = ..., means: bool = ...,
) -> Fit: ...  # fmt: skip


@overload
def fit(
    curve: str | Model, x: ArrayLike, y: ArrayLike, *, series: Sequence[Hashable], share: Sequence[str] = ...,
    weights: WeightRule | Rising | ArrayLike | None = ..., sd: ArrayLike | None = ...,
    fixed: Mapping[str, float] | None = ..., start: Mapping[str, float] | None = ..., window: Window | None = ...,
    leave_out: tuple[int, int] = ..., means: bool = ...,
) -> SharedFit: ...  # fmt: skip


def fit(
    curve: str | Model,
    x: ArrayLike,
    y: ArrayLike,
    *,
    weights: WeightRule | Rising | ArrayLike | None = None,
    sd: ArrayLike | None = None,
    series: Sequence[Hashable] | None = None,
    share: Sequence[str] = (),
    fixed: Mapping[str, float] | None = None,
    bounds: Bounds | None = None,
    start: Mapping[str, float] | None = None,
    robust: Robust | None = None,
    window: Window | None = None,
    leave_out: tuple[int, int] = (0, 0),
    means: bool = False,
) -> Fit | SharedFit:
    """Fit a curve model by (weighted) least squares.

    Parameters
    ----------
    curve : id of a model ("line", "logistic4" …) or a model itself, such as ``custom("a*exp(-b*x)")``.
    x, y : 1-d, equally long; in any units, which the results share.
    weights : a rule ("1/y^2", "1/x", "1/sd^2", "1/yhat^2" …), an array of n positive weights, or None for equal ones.
        The signal in "1/y" and "1/y^2" is the measured one, in `Rising` the mean of its level, and in "1/yhat^2" the
        fitted one, re-weighted until it stays.
    sd : standard deviation of every reading, for weights "1/sd^2".
    series : a label for each reading; all series are then fitted at once, with one spread.
    share : the parameters all series have in common; the others are each series' own.
    fixed : parameters held at a value.
    bounds : (lowest, highest) of a parameter, None for open.
    start : start values; otherwise found from the data, for an own equation by a search over orders of magnitude.
    robust : down-weight readings far from the curve, by Huber's or Tukey's bisquare function.
    window : (lowest x, highest x) taken into the fit, both ends included; None leaves an end open.
    leave_out : how many different x are left out at the low and at the high end.
    means : fit to the mean at each x, weighted by its readings, instead of to the readings.

    Returns
    -------
    Fit : parameters with standard errors, goodness of fit, prediction and read-back; SharedFit for several series. A
        fit that does not converge is a result whose `converged` is False and whose `message` says so.

    Raises
    ------
    ValueError : for unequal lengths, numbers that are not finite, too few readings or too few different x for the
        model, x below zero where the model takes a dose, weights that are not positive, unknown parameters, or an own
        equation without a value at any start; the message gives the count and the need.

    Notes
    -----
    Linear models are solved by QR (Golub & Van Loan, Matrix Computations, 5.3), never by the normal equations;
    sigmoids between free plateaus by Newton's method with the plateaus eliminated, others by Levenberg–Marquardt with
    exact derivatives, both from several starts.
    """
    chosen = curve if isinstance(curve, Model) else model(curve)
    held, limits = dict(fixed or {}), dict(bounds or {})
    known(chosen, held, limits, start or {}, dict.fromkeys(share))
    data = readings(x, y, weights, sd, series=series, window=window, leave_out=leave_out)
    if means:
        data = data.means()
    if series is not None:
        return _together(chosen, data, share, held, start, refused=bool(limits or robust))
    if share:
        raise ValueError("Parameters can be shared over series only; give series=, a label for each reading.")
    enough(chosen, data.x, len(chosen.names) - len(held))
    with np.errstate(all="ignore"):
        result = _once(chosen, data.x, data.y, data.w, held, limits, start)
        if data.by_fit or robust:
            result = _repeatedly(result, data.w, held, limits, by_fit=data.by_fit, robust=robust)
        if robust:
            result = _judged_robustly(result, data, robust)
    if isinstance(weights, Rising):
        return result.but(weighting=data.rule, turn=weights.turn)
    return result if data.rule == result.weighting else result.but(weighting=data.rule)


def _together(
    chosen: Model, data: Readings, share: Sequence[str], fixed: dict[str, float], start: Mapping[str, float] | None,
    *, refused: bool,
) -> SharedFit:  # fmt: skip
    if refused or data.by_fit:
        raise ValueError(
            "Bounds, robust fitting and weights by the fitted curve are not available for several series at once; fit "
            "each alone and give its weights."
        )

    def alone(rows: Rows) -> Fit:
        some = data.take(rows)
        enough(chosen, some.x, len(chosen.names) - len(fixed))
        given = None if start is None else tuple(start.items())
        return _alone(chosen, some.x.tobytes(), some.y.tobytes(), some.w.tobytes(), tuple(fixed.items()), given)

    return fit_shared(chosen, data.x, data.y, data.w, data.series or (), share, fixed, alone, data.rule)


@lru_cache(maxsize=64)  # series that are compared are fitted again with this and with that in common
def _alone(
    chosen: Model, x: bytes, y: bytes, w: bytes, fixed: tuple[tuple[str, float], ...],
    start: tuple[tuple[str, float], ...] | None,
) -> Fit:  # fmt: skip
    # Copies, because the compiled loops are made for arrays that can be written to.
    xs, ys, ws = (np.frombuffer(each).copy() for each in (x, y, w))
    with np.errstate(all="ignore"):
        return _once(chosen, xs, ys, ws, dict(fixed), {}, None if start is None else dict(start))


def _once(
    chosen: Model, x: Array, y: Array, w: Array, fixed: dict[str, float], bounds: Bounds,
    start: Mapping[str, float] | None,
) -> Fit:  # fmt: skip
    if chosen.linear and not bounds:
        return _linear(chosen, x, y, w, fixed)
    complete = start is None or set(start) == set(chosen.names)
    if chosen.sigmoid and not fixed and not bounds and complete:
        return _sigmoid(chosen, x, y, w, start)
    if chosen.turned_over and not fixed and not bounds and complete:
        return turned_over(chosen, _sigmoid(model(chosen.turned_over), x, -y, w, turned_start(chosen, start)))
    problem = Problem(chosen, x, y, w, fixed, bounds)
    own = chosen.id == OWN
    if chosen.kinked:
        found = between_corners(problem)
    else:
        candidates = _candidates(chosen, x, y, w, fixed, bounds, start)
        if own:
            candidates = [*_of_own(chosen, x, y, w, fixed, bounds, candidates), *candidates]
        if not candidates:
            missing = ", ".join(name for name in chosen.names if name not in {**fixed, **(start or {})})
            raise ValueError(f"{chosen.name} has no value at any start tried; give start values for {missing}.")
        found = problem.solve(candidates)
    if found is None:
        raise ValueError(f"{chosen.name} has no value at the start; give other start values or another model.")
    values, minimum = found
    if own and not fixed and not bounds:
        values = polished(chosen, x, y, w, values)
    named = dict(zip(chosen.names, values.tolist(), strict=True))
    if chosen.canonical and not fixed and not bounds:
        named = chosen.canonical(named)
    return Fit.of(chosen, x, y, w, np.array([float(named[name]) for name in chosen.names]), frozenset(fixed),
                  converged=minimum.converged, message=minimum.message)  # fmt: skip


def _candidates(
    chosen: Model, x: Array, y: Array, w: Array, fixed: dict[str, float], bounds: Bounds,
    start: Mapping[str, float] | None,
) -> list[Array]:  # fmt: skip
    """Starts: the one that is given, or those that the model finds in the data, with what is given put in."""
    if start is not None and set(start) | set(fixed) >= set(chosen.names):
        return [np.array([fixed.get(name, start.get(name, 0.0)) for name in chosen.names], dtype=float)]
    if chosen.linear:
        found = [_linear(chosen, x, y, w, fixed).values]
    else:
        found = list(starts(chosen, x, y, w, fixed, constrained=bool(fixed or bounds)))
    for candidate in found:
        for name, value in (start or {}).items():
            candidate[chosen.names.index(name)] = value
    return found


def _of_own(
    chosen: Model, x: Array, y: Array, w: Array, fixed: dict[str, float], bounds: Bounds, given: list[Array]
) -> list[Array]:  # fmt: skip
    """Minima of an own equation, from around the start that was given or from a search over orders of magnitude."""
    if given and chosen.linear_in and not fixed and not bounds:
        return projected_starts(chosen, x, y, w, given[0])[:1]
    named = dict(zip(chosen.names, given[0].tolist(), strict=True)) if given else None
    ends = [each.end for each in search(chosen, x, y, w, named, fixed) if np.isfinite(each.sse)]
    return [end for end in ends if _within(chosen, end, bounds)][:ENDS]


def _within(chosen: Model, values: Array, bounds: Bounds) -> bool:
    at = dict(zip(chosen.names, values.tolist(), strict=True))
    return all(
        (low is None or at[name] >= low) and (high is None or at[name] <= high) for name, (low, high) in bounds.items()
    )


def _sigmoid(chosen: Model, x: Array, y: Array, w: Array, start: Mapping[str, float] | None) -> Fit:
    from dosis.core.fitting.sigmoids.alone import fit_alone
    from dosis.core.fitting.sigmoids.model import fit_sigmoids

    at = places(x)
    levels, group = at.levels, at.group
    values = fit_alone(chosen, levels, group, y, w) if start is None else None
    if values is not None:
        return sigmoid_result(chosen, x, y, w, values, converged=True, usual=True)
    weight: Array = np.bincount(group, w).astype(float)
    mean = np.bincount(group, w * y) / weight
    pure = np.array([(w * np.square(y - mean[group])).sum()])
    begin = None if start is None else np.array([start[name] for name in chosen.names], dtype=float)
    found = fit_sigmoids(chosen, levels, mean[None], weight[None], pure, begin, errors=False)
    return sigmoid_result(chosen, x, y, w, found.values[0], converged=bool(found.converged[0]))


def _linear(chosen: Model, x: Array, y: Array, w: Array, fixed: dict[str, float]) -> Fit:
    values = np.array([fixed.get(name, 0.0) for name in chosen.names], dtype=float)
    offset, design = chosen.value_and_derivative(x, values)
    free = [i for i, name in enumerate(chosen.names) if name not in fixed]
    solution = solve(design[:, free], y - offset, w)
    if solution.rank < len(free):
        levels = places(x).levels.size
        raise ValueError(f"{chosen.name} cannot be told from these x: {levels} different values carry too little.")
    sse = float((w * solution.residuals**2).sum())
    variances = np.diag(solution.unscaled_covariance)
    if not (np.isfinite(sse) and np.isfinite(variances).all() and (variances > 0).all()):
        raise ValueError("These numbers are too large or too small for a fit; give x and y in other units.")
    values[free] = solution.parameters
    return Fit(
        model=chosen, x=x, y=y, weights=w, weighting="none", values=values, fixed=frozenset(fixed),
        residuals=solution.residuals, sse=sse, unscaled_covariance=solution.unscaled_covariance, converged=True,
        message="Solved directly; a model that is linear in its parameters needs no iteration.",
    )  # fmt: skip


def _judged_robustly(result: Fit, data: Readings, function: Robust) -> Fit:
    base = data.w * data.by_fit(result.predict(data.x)) if data.by_fit else data.w
    variance = robust_variance(np.sqrt(base) * result.residuals, result.free, function)
    df = result.degrees_of_freedom
    return result if variance is None else result.but(pool=Pool(variance * df, df))


def _repeatedly(
    result: Fit, base: Array, fixed: dict[str, float], bounds: Bounds, *, by_fit: ByFit | None, robust: str | None
) -> Fit:
    """Fit again with weights taken from the last fit until they stay the same."""
    lost = 0
    for _ in range(MOST_PASSES):
        w = base
        if by_fit:
            w = base * by_fit(result.predict(result.x))
        if robust:
            w = w * reweight(np.sqrt(w) * (result.y - result.predict(result.x)), len(result.values), robust)
        if not np.isfinite(w).all():
            zero = "The fitted curve has come to zero, where weights by it are none; choose other weights."
            return result.but(converged=False, message=zero)
        again = _once(result.model, result.x, result.y, w, fixed, bounds, dict(result.named))
        moved = np.abs(again.values - result.values) <= 1e-9 * (np.abs(result.values) + 1e-300)
        result = again
        lost = 0 if result.converged else lost + 1
        if moved.all() or lost == LOST_PASSES:
            return result
    return result.but(converged=False, message=f"The weights still move after {MOST_PASSES} passes.")
