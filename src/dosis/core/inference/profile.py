"""Profile-likelihood and bootstrap intervals of a parameter: what a curved problem needs beyond ± t standard errors."""

from typing import TYPE_CHECKING

import numpy as np

from dosis.core.fitting.nonlinear import Problem
from dosis.core.inference.roots import bisect

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit

FURTHEST = 40.0  # standard errors beyond which a side of the interval counts as open
DRAWS = 999
SEED = 20260101


def profile_interval(fit: "Fit", name: str, level: float) -> tuple[float | None, float | None]:
    """All values of a parameter at which the best fit of the others is within F of the best fit of all.

    (SSE(value) − SSE)/s² ≤ t² (Bates & Watts 1988, 6.1). A side that does not close within 40 standard errors is
    None: the data set no limit there.
    """
    parameter = fit.parameters[name]
    if parameter.standard_error is None or fit.rmse is None or not parameter.standard_error:
        return None, None
    place = fit.model.names.index(name)
    logarithmic = fit.model.parameters[place].positive
    held = {other: fit.named[other] for other in fit.fixed}
    centre = float(np.log(parameter.estimate)) if logarithmic else parameter.estimate
    step = parameter.standard_error / (parameter.estimate if logarithmic else 1.0)
    limit = fit.rmse**2 * fit.t(level) ** 2
    last = fit.values

    def excess(at: float) -> float:
        nonlocal last
        value = float(np.exp(at)) if logarithmic else at
        problem = Problem(fit.model, fit.x, fit.y, fit.weights, {**held, name: value}, {})
        if not problem.free:
            sse = float((fit.weights * (fit.y - fit.model.value(fit.x, np.array([value]))) ** 2).sum())
            return sse - fit.sse - limit
        start = last.copy()
        start[place] = value
        found = problem.solve([start, fit.values], thorough=False)
        if found is None:
            return np.inf
        last = found[0]
        return found[1].sse - fit.sse - limit

    def end(direction: float) -> float | None:
        nonlocal last
        last, near = fit.values, 0.0
        far = fit.t(level)
        while far <= FURTHEST:
            if excess(centre + direction * far * step) > 0:
                inner, outer = centre + direction * near * step, centre + direction * far * step
                at = bisect(excess, *sorted((inner, outer)))
                return float(np.exp(at)) if logarithmic else at
            near, far = far, far * 1.6
        return None

    return end(-1.0), end(1.0)


def bootstrap_interval(fit: "Fit", name: str, level: float) -> tuple[float, float] | None:
    """Percentiles of the parameter over fits to readings drawn about the curve (parametric, fixed seed).

    None without degrees of freedom.
    """
    if fit.rmse is None:
        return None
    rng = np.random.default_rng(SEED)
    middle, error = fit.predict(fit.x), fit.rmse / np.sqrt(fit.weights)
    place = fit.model.names.index(name)
    held = {other: fit.named[other] for other in fit.fixed}
    drawn = []
    for _ in range(DRAWS):
        y = middle + error * rng.standard_normal(fit.n)
        found = Problem(fit.model, fit.x, y, fit.weights, held, {}).solve([fit.values], thorough=False)
        if found is not None:
            drawn.append(found[0][place])
    lower, upper = np.quantile(drawn, [(1 - level) / 2, (1 + level) / 2])
    return float(lower), float(upper)
