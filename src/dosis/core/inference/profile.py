"""Profile-likelihood and bootstrap intervals of a parameter: what a curved problem needs beyond ± t standard errors."""

import math
from collections.abc import Callable
from typing import Protocol

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.corners import least_with, places_tried
from dosis.core.fitting.nonlinear import Problem
from dosis.core.fitting.refit import refit_many
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.parameters import ParameterEstimate
from dosis.core.inference.roots import bisect, outward


class Spread(Protocol):
    """What a profile needs of a fit, of one curve or of several together."""

    @property
    def sse(self) -> float:
        """Σ w·r² at the minimum."""

    @property
    def rmse(self) -> float | None:
        """The residual standard deviation."""

    def t(self, level: float) -> float:
        """Two-sided t for an interval of that level."""


Refit = Callable[[float, Array], tuple[Array, float] | None]

FURTHEST = 40.0  # standard errors beyond which a side of the interval counts as open
FLAT = 1e-11  # share of the limit by which an end may miss it: five digits beyond what is ever shown
STEEP, WALK = 3.0, 8  # times a parabola's rise from which a fit may be of another valley; steps to come back from there
DRAWS = 999
SEED = 20260101


def profile_interval(fit: Fitted, parameter: ParameterEstimate, level: float) -> tuple[float | None, float | None]:
    """All values of a parameter at which the best fit of the others is within F of the best fit of all."""
    name = parameter.name
    if name == fit.model.kinked:
        return _across_corners(fit, name, level)
    place = fit.model.names.index(name)
    held = {other: fit.named[other] for other in fit.fixed}

    def refit(value: float, start: Array) -> tuple[Array, float] | None:
        problem = Problem(fit.model, fit.x, fit.y, fit.weights, {**held, name: value}, {})
        if not problem.free:
            residuals = fit.y - fit.model.value(fit.x, start)
            return start, float((fit.weights * residuals**2).sum())
        found = problem.solve([start, fit.values], thorough=False)
        return None if found is None else (found[0], found[1].sse)

    return profiled(fit, parameter, fit.values, refit, level, place)


def _across_corners(fit: Fitted, name: str, level: float) -> tuple[float | None, float | None]:
    """The outermost values within F of the best fit of all, looked for between every two neighboring x above zero.

    The sum of squares has corners at every x, so no parabola tells how far to look. An end beyond the x is None.
    """
    if fit.rmse is None:
        return None, None
    held = {other: fit.named[other] for other in fit.fixed}
    place = fit.model.names.index(name)
    limit = fit.sse + (fit.rmse * fit.t(level)) ** 2
    looked = np.union1d(places_tried(fit.x), np.log(fit.values[place]))

    def excess(logarithms: Array) -> Array:
        return least_with(fit.model, fit.x, fit.y, fit.weights, np.exp(logarithms), held)[1] - limit

    inside = np.flatnonzero(excess(looked) <= 0)
    if not inside.size:
        return None, None
    low, high = inside[0], inside[-1]

    def end(within: int, beyond: int) -> float:
        return math.exp(
            bisect(lambda at: float(excess(np.array([at]))[0]), looked[beyond], looked[within], FLAT * limit)
        )

    return end(low, low - 1) if low > 0 else None, end(high, high + 1) if high < looked.size - 1 else None


def profiled(
    fit: Spread, parameter: ParameterEstimate, values: Array, refit: Refit, level: float,
    place: int | None = None,
) -> tuple[float | None, float | None]:  # fmt: skip
    """Both ends of {value : (SSE(value) − SSE)/s² ≤ t²} (Bates & Watts 1988, 6.1).

    A side that does not close within 40 standard errors is None: the data set no limit there.

    Parameters
    ----------
    refit : (value, start) -> parameters and Σ w·r² of the best fit with the parameter held at the value.
    place : where the parameter is among `values`, to begin from the value itself.
    """
    if parameter.standard_error is None or fit.rmse is None or not parameter.standard_error:
        return None, None
    logarithmic = parameter.positive
    center = float(np.log(parameter.estimate)) if logarithmic else parameter.estimate
    step = parameter.standard_error / (parameter.estimate if logarithmic else 1.0)
    variance = fit.rmse**2
    limit = variance * fit.t(level) ** 2
    known = [(center, values)]

    def held(at: float, start: Array) -> tuple[Array, float] | None:
        value = _number(at) if logarithmic else at
        start = start.copy()
        if place is not None:
            start[place] = value
        return refit(value, start)

    def excess(at: float) -> float:
        near, start = min(known, key=lambda each: abs(each[0] - at))
        found = held(at, start)
        most = STEEP * variance * ((at - center) / step) ** 2
        if found is None or found[1] - fit.sse > most:
            found = _lower(found, _walked(held, near, at, start))
        if found is None:
            return np.inf
        if found[1] - fit.sse <= most:
            known.append((at, found[0]))
        return found[1] - fit.sse - limit

    low, high = outward(excess, center, step, fit.t(level), FURTHEST, FLAT * limit)
    if logarithmic:
        return None if low is None else _number(low), None if high is None else _number(high)
    return low, high


def _walked(
    held: Callable[[float, Array], tuple[Array, float] | None], near: float, at: float, start: Array
) -> tuple[Array, float] | None:
    """The best fit at a place that is reached in small steps, so that it stays in the valley it began in."""
    found = None
    for each in np.linspace(near, at, WALK + 1)[1:]:
        found = held(float(each), start)
        if found is None:
            return None
        start = found[0]
    return found


def _lower(one: tuple[Array, float] | None, other: tuple[Array, float] | None) -> tuple[Array, float] | None:
    """Of two fits that with the smaller sum of squares."""
    return min((each for each in (one, other) if each is not None), key=lambda each: each[1], default=None)


def _number(logarithm: float) -> float:
    """Of a logarithm, the nearest that a float can be."""
    return math.exp(min(max(logarithm, -700.0), 700.0))


def bootstrap_interval(fit: Fitted, name: str, level: float) -> tuple[float, float] | None:
    """Percentiles of the parameter over fits to readings drawn about the curve (parametric, fixed seed).

    None without degrees of freedom.
    """
    if fit.rmse is None:
        return None
    rng = np.random.default_rng(SEED)
    middle, error = fit.predict(fit.x), fit.rmse / np.sqrt(fit.weights)
    y = middle + error * rng.standard_normal((DRAWS, fit.n))
    drawn = refit_many(fit.model, fit.x, y, fit.weights, fit.values, fit.fixed)[:, fit.model.names.index(name)]
    lower, upper = np.quantile(drawn[np.isfinite(drawn)], [(1 - level) / 2, (1 + level) / 2])
    return float(lower), float(upper)
