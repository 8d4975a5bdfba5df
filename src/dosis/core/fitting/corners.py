"""Fitting a model whose sum of squares has a corner at every dose, so that a least one may lie in a corner."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.levenberg import Minimum
from dosis.core.fitting.nonlinear import Problem
from dosis.core.models.grids import positive
from dosis.core.models.model import Model

NEAR_ZERO = 1e-3  # share of the lowest dose that counts as no threshold
SHARES = np.array([0.0, 0.25, 0.5, 0.75])  # of the way, on the logarithm, between two x, where a threshold is tried
STEEPEST, FLATTEST = 30.0, 1e-3  # rates tried: by the shortest step of x, and by all of it
RATES, CLOSER = 32, 7  # how many of them at once, and how often they are drawn closer, to 1 in 10⁸


def between_corners(problem: Problem) -> tuple[Array, Minimum] | None:
    """The least of the minima between each two neighboring x, where the sum of squares is smooth; None without one.

    A minimum that lies in a corner is one at the end of a stretch: no step to either side makes it better, although
    the slope is not zero there (Lerman 1980, Applied Statistics 29, 77).
    """
    model, name = problem.model, problem.model.kinked
    tried = np.array([problem.fixed[name]]) if name in problem.fixed else np.exp(places_tried(problem.x))
    values, sse = least_with(model, problem.x, problem.y, problem.w, tried, problem.fixed)
    best = int(np.argmin(sse))
    if name in problem.fixed or name in problem.bounds:
        return problem.solve([values[best]])
    found, each = [], len(SHARES)
    stretch, last = best // each, tried.size // each - 1
    for i in range(max(stretch - 1, 0), min(stretch + 1, last) + 1):  # the best one tried, and those beside it
        inside = slice(each * i, each * (i + 1) + 1)
        start, ends = values[inside][np.argmin(sse[inside])], tried[inside]
        least = replace(problem, bounds={**problem.bounds, name: (ends[0], ends[-1])}).solve([start])
        if least is not None:
            found.append(least)
    return min(found, key=lambda each: each[1].sse, default=None)


def places_tried(x: Array) -> Array:
    """Logarithms of thresholds from next to none to the highest x, those at every x among them; ascending."""
    levels = np.log(positive(x))
    ends = np.concatenate(([levels[0] + np.log(NEAR_ZERO)], levels))
    return np.append((ends[:-1, None] + SHARES * np.diff(ends)[:, None]).ravel(), ends[-1])


def least_with(
    model: Model, x: Array, y: Array, w: Array, thresholds: Array, fixed: Mapping[str, float]
) -> tuple[Array, Array]:
    """The best curve with each of m thresholds, (m, p), and its Σ w·r², (m,).

    The parameter in which the model is linear is solved for; the third is looked for on a grid of logarithms, then on
    finer ones. x, y, w : (n,).
    """
    (linear,) = model.linear_in
    (rate,) = set(model.names) - {linear, model.kinked}
    levels = np.unique(x)
    span = float(np.ptp(levels)) or 1.0
    low, high = np.log(FLATTEST / span), np.log(STEEPEST / float(np.diff(levels).min(initial=span)))

    def at(logarithms: Array) -> tuple[Array, Array]:
        """Σ w·r² and the linear parameter for rates (m, k)."""
        named = {"x": x, model.kinked: thresholds[:, None, None], rate: np.exp(logarithms)[..., None], linear: 1.0}
        shape = np.broadcast_to(model.expression.value(named), (*logarithms.shape, x.size))
        across, square = shape @ (w * y), np.square(shape) @ w
        size = np.full(across.shape, fixed[linear]) if linear in fixed else across / np.maximum(square, 1e-300)
        return float(w @ np.square(y)) - size * (2 * across - size * square), size

    if rate in fixed:
        found = np.full((thresholds.size, 1), np.log(fixed[rate]))
    else:
        a, b = (np.full((thresholds.size, 1), end) for end in (low, high))
        for _ in range(CLOSER):
            grid = a + (b - a) * np.linspace(0, 1, RATES)
            index = np.argmin(at(grid)[0], axis=1)[:, None]
            a, b = (np.take_along_axis(grid, np.clip(index + side, 0, RATES - 1), 1) for side in (-1, 1))
        found = (a + b) / 2
    sse, size = at(found)
    named = {linear: size[:, 0], model.kinked: thresholds, rate: np.exp(found[:, 0])}
    return np.stack([named[name] for name in model.names], axis=1), sse[:, 0]
