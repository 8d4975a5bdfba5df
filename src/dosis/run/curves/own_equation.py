"""An own equation tried on the points of a series: its parameters, where they start, and where each start ends."""

import math
from collections.abc import Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.core.expressions import ExpressionError
from dosis.core.fitting.fit import fit
from dosis.core.fitting.searched import Tried, search
from dosis.core.models import Model, custom
from dosis.core.rounding import significant
from dosis.run.outcome.equation import EquationAsked, EquationLook, EquationParameter, TriedStart

POINTS = 120  # of the curve that is shown
SAME = 1e-6  # share by which two sums of squares may differ that are of one minimum


def try_equation(xs: Sequence[float], ys: Sequence[float], asked: EquationAsked) -> EquationLook:
    """What the equation gives on these points."""
    try:
        model = custom(asked.equation)
    except ExpressionError as error:
        return EquationLook(problem=str(error), position=error.position)
    except ValueError as error:
        return EquationLook(problem=str(error))
    bare = tuple(EquationParameter(name=n, start=asked.start.get(n), linear=n in model.linear_in) for n in model.names)
    if len(set(xs)) < len(model.names):
        need = f"It has {len(model.names)} parameters; the points have {len(set(xs))} different x."
        return EquationLook(problem=need, parameters=bare)
    x, y = np.array(xs), np.array(ys)
    start = {name: value for name, value in asked.start.items() if name in model.names}
    with np.errstate(all="ignore"):
        tried = search(model, x, y, np.ones_like(y), start or None)
    try:
        found = fit(model, x, y, start=_named(model, tried[0].end) if tried and math.isfinite(tried[0].sse) else None)
    except ValueError as error:
        return EquationLook(problem=str(error), parameters=bare)
    return _told(model, x, y, found.values, tried, start)


def _told(model: Model, x: Array, y: Array, values: Array, tried: list[Tried], start: dict[str, float]) -> EquationLook:
    grid = np.linspace(x.min(), x.max(), POINTS)
    with np.errstate(all="ignore"):
        heights = model.value(grid, values)
    there = np.isfinite(heights)
    best = tried[0].sse if tried else math.inf
    came = sum(each.sse <= best * (1 + SAME) for each in tried)
    named = _named(model, values)
    return EquationLook(
        parameters=tuple(
            EquationParameter(name=n, start=start.get(n), linear=n in model.linear_in, value=named[n],
                              shown=significant(named[n], 4))
            for n in model.names
        ),
        x=tuple(grid[there].tolist()), y=tuple(heights[there].tolist()), points_x=tuple(x.tolist()),
        points_y=tuple(y.tolist()),
        tried=tuple(_start(each, best) for each in tried),
        said=f"{came} of {len(tried)} starts came to the least sum of squares, {significant(best, 4)}.",
    )  # fmt: skip


def _start(each: Tried, best: float) -> TriedStart:
    ends = [tuple(float(v) if math.isfinite(v) else None for v in values) for values in (each.start, each.end)]
    shown = [tuple("—" if v is None else significant(v, 3) for v in values) for values in ends]
    return TriedStart(
        start=ends[0], end=ends[1], shown_start=shown[0], shown_end=shown[1], converged=each.converged,
        shown_sse=significant(each.sse, 4) if math.isfinite(each.sse) else "no value there",
        best=each.sse <= best * (1 + SAME),
    )  # fmt: skip


def _named(model: Model, values: Array) -> dict[str, float]:
    return dict(zip(model.names, values.tolist(), strict=True))
