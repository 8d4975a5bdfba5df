"""Models with a maximum: a peak, and a rate with an optimum in temperature or pH."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.grids import within
from dosis.core.models.model import Grid, Model, Parameter

GAUSSIAN = Model(
    id="gaussian",
    name="Gaussian peak",
    shape="peaked",
    equation="y = offset + height·exp(−((x − center)/width)^2/2)",
    parameters=(
        Parameter("offset", "baseline", "y"), Parameter("height", "height above the baseline", "y"),
        Parameter("center", "x of the peak", "x"), Parameter("width", "standard deviation of the peak", "x", True),
    ),
    linear_in=("offset", "height"),
    grid=lambda x, y: {"center": within(x, 15), "width": np.geomspace(0.02, 0.7, 8) * (float(np.ptp(x)) or 1.0)},
    example=((0.0, 1.0, 0.5, 0.13), (0.0, 1.0)),
)  # fmt: skip


def _optimum(x: Array, y: Array) -> Grid:
    span = float(np.ptp(x)) or 1.0
    best = float(x[np.argmax(y)])
    return {
        "optimum": best + span * np.array([-0.1, 0.0, 0.1]),
        "below": span * np.array([0.4, 0.7, 1.2, 2.5]),
        "above": span * np.array([0.1, 0.25, 0.5, 1.0]),
    }


# The cardinal values are written as distances from the optimum, so that they cannot cross while fitting.
OPTIMUM = Model(
    id="optimum",
    name="Optimum",
    shape="peaked",
    equation="y = highest·(x − high)·(x − low)^2/((optimum − low)·((optimum − low)·(x − optimum) "
    "− (optimum − high)·(optimum + low − 2·x))), low = optimum − below, high = optimum + above, zero outside",
    form="highest*if(x > optimum - below, if(x < optimum + above, (x - optimum - above)*(x - optimum + below)^2"
    "/(below*(below*(x - optimum) + above*(2*optimum - below - 2*x))), 0), 0)",
    parameters=(
        Parameter("highest", "rate at the optimum", "y"), Parameter("optimum", "x of the highest rate", "x"),
        Parameter("below", "distance from the lowest x with a rate to the optimum", "x", positive=True),
        Parameter("above", "distance from the optimum to the highest x with a rate", "x", positive=True),
    ),
    linear_in=("highest",),
    grid=_optimum,
    intercept=False,
    source="Rosso, Lobry & Flandrois (1993), J. Theor. Biol. 162, 447",
    example=((1.0, 0.7, 0.6, 0.2), (0.0, 1.0)),
)  # fmt: skip
