"""Models that rise and level off, and the power curve."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.grids import positive_quantiles, spread
from dosis.core.models.model import Grid, Model, Parameter

MAXIMUM = Parameter("maximum", "signal approached at high x", "y")
HALF = Parameter("half", "x at half the maximum", "x", positive=True)
OFFSET = Parameter("offset", "signal at x = 0", "y")
STEEPNESS = Parameter("slope", "steepness (Hill exponent)", "", positive=True)


def _half(x: Array, y: Array) -> Grid:
    return {"half": spread(x, 14)}


POWER = Model(
    id="power",
    name="Power",
    shape="straight",
    equation="y = scale · x^exponent",
    parameters=(Parameter("scale", "signal at x = 1", "y"), Parameter("exponent", "power of x", "")),
    linear_in=("scale",),
    grid=lambda x, y: {"exponent": np.array([-4, -2, -1, -0.5, -0.25, 0.1, 0.25, 0.5, 0.75, 1, 1.5, 2, 3, 4, 6.0])},
    intercept=False,
    positive_x=True,
    example=((1.0, 0.6), (0.0, 1.0)),
)

HYPERBOLA = Model(
    id="hyperbola",
    name="Hyperbola",
    shape="saturating",
    equation="y = maximum · x/(half + x)",
    parameters=(MAXIMUM, HALF),
    linear_in=("maximum",),
    grid=_half,
    intercept=False,
    positive_x=True,
    source="Michaelis & Menten (1913)",
    example=((1.0, 0.2), (0.0, 1.0)),
)

HYPERBOLA_OFFSET = Model(
    id="hyperbola_offset",
    name="Hyperbola with offset",
    shape="saturating",
    equation="y = offset + maximum · x/(half + x)",
    parameters=(MAXIMUM, HALF, OFFSET),
    linear_in=("maximum", "offset"),
    grid=_half,
    positive_x=True,
    contains=("hyperbola",),
    example=((1.0, 0.2, 0.2), (0.0, 1.0)),
)

HILL = Model(
    id="hill",
    name="Hill",
    shape="saturating",
    equation="y = maximum · x^slope/(half^slope + x^slope)",
    form="maximum*sigmoid(slope*(ln(x) - ln(half)))",
    parameters=(MAXIMUM, HALF, STEEPNESS),
    linear_in=("maximum",),
    grid=lambda x, y: {"half": spread(x, 14), "slope": np.array([0.5, 1, 2, 4, 8.0])},
    intercept=False,
    positive_x=True,
    contains=("hyperbola",),
    source="Hill (1910)",
    example=((1.0, 0.35, 3.0), (0.0, 1.0)),
)

SUBSTRATE_INHIBITION = Model(
    id="substrate_inhibition",
    name="Substrate inhibition",
    shape="peaked",
    equation="y = maximum · x/(half + x + x^2/inhibition)",
    parameters=(MAXIMUM, HALF, Parameter("inhibition", "x at which excess halves the rate", "x", positive=True)),
    linear_in=("maximum",),
    grid=lambda x, y: {"half": spread(x, 10), "inhibition": positive_quantiles(x, 6) * 3},
    intercept=False,
    positive_x=True,
    source="Haldane (1930)",
    example=((1.0, 0.15, 0.35), (0.0, 1.5)),
)
