"""Straight models: the line, and the line through zero."""

import numpy as np

from dosis.core.models.model import Array, Model, Parameter

SLOPE = Parameter("slope", "change of the signal for one unit of concentration", "y/x")
INTERCEPT = Parameter("intercept", "signal at zero concentration", "y")


def _inverse(y: Array, slope: float, intercept: float) -> Array:
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        x = (np.asarray(y, dtype=float) - intercept) / slope
    return np.where(np.isfinite(x), x, np.nan)


LINE = Model(
    id="line",
    name="Line",
    shape="straight",
    equation="y = intercept + slope · x",
    solved="x = (y − intercept) ÷ slope",
    parameters=(SLOPE, INTERCEPT),
    value=lambda x, p: p[1] + p[0] * x,
    derivative=lambda x, p: np.column_stack((x, np.ones_like(x))),
    gradient=lambda x, p: np.full_like(x, p[0]),
    inverse=lambda y, p: _inverse(y, p[0], p[1]),
    linear=True,
    intercept=True,
)

LINE_THROUGH_ZERO = Model(
    id="line_through_zero",
    name="Line through zero",
    shape="straight",
    equation="y = slope · x",
    solved="x = y ÷ slope",
    parameters=(SLOPE,),
    value=lambda x, p: p[0] * x,
    derivative=lambda x, p: x[:, None].copy(),
    gradient=lambda x, p: np.full_like(x, p[0]),
    inverse=lambda y, p: _inverse(y, p[0], 0.0),
    linear=True,
    intercept=False,
)
