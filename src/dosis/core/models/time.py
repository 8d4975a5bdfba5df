"""Models of time courses: growth, decay and rise."""

import math
from collections.abc import Mapping
from typing import Any

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.grids import rates, within
from dosis.core.models.model import Derived, Grid, Model, Parameter, Twin, exchange

START = Parameter("start", "value at the beginning", "y")
AMPLITUDE = Parameter("amplitude", "rise from the start to the plateau", "y")
RATE = Parameter("rate", "rate constant", "1/x", positive=True)
PLATEAU = Parameter("plateau", "value approached in the end", "y")
GROWTH = "growing"
HALF_LIFE = Derived("half_life", "time in which half of it is gone", "x", "ln(2)/rate")
END = Derived("plateau", "value approached in the end", "y", "start + amplitude", positive=False)
LOG_DOUBLING = Derived("doubling_time", "ln 2 over the steepest rate, where y is a ln of numbers", "x", "ln(2)/rate")
DOUBLING = Derived("doubling_time", "time in which it doubles", "x", "ln(2)/rate")


def _rate(x: Array, y: Array) -> Grid:
    return {"rate": rates(x, 18)}


def _growth(x: Array, y: Array) -> Grid:
    # The steepest rate of a curve of amplitude A is A times a rate constant.
    span = float(np.ptp(y)) or 1.0
    return {"amplitude": span * np.array([0.8, 1.0, 1.5, 3.0]), "rate": span * rates(x, 9), "lag": within(x, 8)}


def _from_tangent(lower: Array, upper: Array, middle: Array, steepness: Array, turn: float, rise: float) -> Array:
    """Start, amplitude, rate and lag of a sigmoid lower + (upper − lower)·h(steepness·(x − middle)).

    At its steepest h rises by 1/rise, and that tangent meets the start turn/steepness before the middle. Only what
    rises is growth.
    """
    grows = (upper > lower) & (steepness > 0)
    amplitude = np.where(grows, upper - lower, np.nan)
    return np.column_stack((lower, amplitude, amplitude * steepness / rise, middle - turn / steepness))


GROWTH_LOGISTIC = Model(
    id="growth_logistic",
    name="Logistic growth",
    shape=GROWTH,
    equation="y = start + amplitude/(1 + exp(4·rate/amplitude·(lag − x) + 2))",
    form="start + amplitude*sigmoid(4*rate/amplitude*(x - lag) - 2)",
    parameters=(START, AMPLITUDE, Parameter("rate", "steepest growth", "y/x", True), Parameter("lag", "lag time", "x")),
    linear_in=("start",),
    grid=_growth,
    source="Zwietering et al. (1990), Appl. Environ. Microbiol. 56, 1875",
    example=((0.0, 1.0, 2.0, 0.2), (0.0, 1.0)),
    derived=(LOG_DOUBLING, END),
    twin=Twin("boltzmann", lambda p: _from_tangent(p[:, 0], p[:, 1], p[:, 2], 1 / p[:, 3], turn=2, rise=4)),
)

GROWTH_GOMPERTZ = Model(
    id="growth_gompertz",
    name="Gompertz growth",
    shape=GROWTH,
    equation="y = start + amplitude·exp(−exp(2.718281828459045·rate/amplitude·(lag − x) + 1))",
    parameters=(START, AMPLITUDE, Parameter("rate", "steepest growth", "y/x", True), Parameter("lag", "lag time", "x")),
    linear_in=("start",),
    grid=_growth,
    source="Zwietering et al. (1990), Appl. Environ. Microbiol. 56, 1875",
    example=((0.0, 1.0, 2.2, 0.15), (0.0, 1.0)),
    derived=(LOG_DOUBLING, END),
    twin=Twin("gompertz_dose", lambda p: _from_tangent(p[:, 0], p[:, 1], p[:, 2], p[:, 3], turn=1, rise=math.e)),
)

GROWTH_BARANYI = Model(
    id="growth_baranyi",
    name="Baranyi growth",
    shape=GROWTH,
    equation="y = start − ln(q + (1 − q)·exp(−amplitude)), q = u/(u + h − u·h), u = exp(−rate·x), h = exp(−rate·lag)",
    # As published, y = start + rate·A − ln(1 + (exp(rate·A) − 1)/exp(amplitude)), with q = exp(−rate·A): so written,
    # nothing overflows late in a course.
    form=(
        "start - ln(exp(-rate*x)/max(exp(-rate*x) + exp(-rate*lag) - exp(-rate*x - rate*lag), 1e-300)"
        " + (1 - exp(-rate*x)/max(exp(-rate*x) + exp(-rate*lag) - exp(-rate*x - rate*lag), 1e-300))*exp(-amplitude))"
    ),
    parameters=(
        START, Parameter("amplitude", "rise from the start to the plateau, of a ln of numbers", "y"),
        Parameter("rate", "specific rate but for lag and plateau", "y/x", True), Parameter("lag", "lag time", "x"),
    ),
    linear_in=("start",),
    grid=_growth,
    source="Baranyi & Roberts (1994), Int. J. Food Microbiol. 23, 277, with v = rate and m = 1",
    example=((0.0, 4.0, 9.0, 0.25), (0.0, 1.0)),
    derived=(LOG_DOUBLING, END),
)  # fmt: skip

EXPONENTIAL_GROWTH = Model(
    id="exponential_growth",
    name="Exponential growth",
    shape=GROWTH,
    equation="y = start·exp(rate·x)",
    parameters=(START, RATE),
    linear_in=("start",),
    grid=_rate,
    intercept=False,
    example=((0.05, 3.0), (0.0, 1.0)),
    derived=(DOUBLING,),
)

EXPONENTIAL_DECAY = Model(
    id="exponential_decay",
    name="Exponential decay",
    shape="decaying",
    equation="y = start·exp(−rate·x)",
    parameters=(START, RATE),
    linear_in=("start",),
    grid=_rate,
    intercept=False,
    example=((1.0, 3.5), (0.0, 1.0)),
    derived=(HALF_LIFE,),
)

EXPONENTIAL_DECAY_PLATEAU = Model(
    id="exponential_decay_plateau",
    name="Exponential decay to a plateau",
    shape="decaying",
    equation="y = plateau + amplitude·exp(−rate·x)",
    parameters=(Parameter("amplitude", "fall from the start to the plateau", "y"), RATE, PLATEAU),
    linear_in=("amplitude", "plateau"),
    grid=_rate,
    contains=("exponential_decay",),
    example=((1.0, 4.0, 0.3), (0.0, 1.0)),
    derived=(HALF_LIFE,),
)


def _faster_first(p: Mapping[str, Any]) -> dict[str, Any]:
    other = {"fast": p["slow"], "fast_rate": p["slow_rate"], "slow": p["fast"], "slow_rate": p["fast_rate"]}
    return exchange(np.less(p["fast_rate"], p["slow_rate"]), p, other)


EXPONENTIAL_DECAY_2 = Model(
    id="exponential_decay_2",
    name="Two-phase decay",
    shape="decaying",
    equation="y = fast·exp(−fast_rate·x) + slow·exp(−slow_rate·x)",
    parameters=(
        Parameter("fast", "amplitude of the fast phase", "y"), Parameter("fast_rate", "its rate", "1/x", True),
        Parameter("slow", "amplitude of the slow phase", "y"), Parameter("slow_rate", "its rate", "1/x", True),
    ),
    linear_in=("fast", "slow"),
    grid=lambda x, y: {"fast_rate": rates(x, 12), "slow_rate": rates(x, 12) * 0.83},
    canonical=_faster_first,
    intercept=False,
    contains=("exponential_decay",),
    example=((0.7, 15.0, 0.3, 1.5), (0.0, 1.0)),
    derived=(
        Derived("fast_half_life", "half-life of the fast phase", "x", "ln(2)/fast_rate"),
        Derived("slow_half_life", "half-life of the slow phase", "x", "ln(2)/slow_rate"),
    ),
)  # fmt: skip

EXPONENTIAL_RISE = Model(
    id="exponential_rise",
    name="Exponential rise",
    shape="saturating",
    equation="y = plateau·(1 − exp(−rate·x))",
    parameters=(PLATEAU, RATE),
    linear_in=("plateau",),
    grid=_rate,
    intercept=False,
    example=((1.0, 4.0), (0.0, 1.0)),
    derived=(HALF_LIFE,),
)

EXPONENTIAL_RISE_OFFSET = Model(
    id="exponential_rise_offset",
    name="Exponential rise from an offset",
    shape="saturating",
    equation="y = offset + amplitude·(1 − exp(−rate·x))",
    parameters=(Parameter("offset", "value at x = 0", "y"), AMPLITUDE, RATE),
    linear_in=("offset", "amplitude"),
    grid=_rate,
    contains=("exponential_rise",),
    example=((0.3, 1.0, 4.0), (0.0, 1.0)),
    derived=(HALF_LIFE,),
)
