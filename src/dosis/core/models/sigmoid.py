"""Sigmoid models in dose, with the dose on a logarithmic scale and zero dose exact, and the sigmoid on linear x."""

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.grids import spread, within
from dosis.core.models.model import Derived, Grid, Model, Parameter, Sigmoid, exchange

LOWER = Parameter("lower", "lower plateau", "y")
UPPER = Parameter("upper", "upper plateau", "y")
MIDPOINT = Parameter("midpoint", "dose halfway between the plateaus", "x", positive=True)
SLOPE = Parameter("slope", "steepness at the midpoint; below zero for a falling curve", "")
STEEP = np.array([0.35, 0.7, 1.2, 2.0, 3.5, 7.0, 15.0])

MINUS_LOG = Derived("minus_log10_midpoint", "−log10 of the midpoint", "", "-log10(midpoint)", positive=False)

sigmoid_in_dose = partial(Model, shape="sigmoid", positive_x=True)
_LOGISTIC = "sigmoid(slope*(ln(x) - ln(midpoint)))"


def _rising(x: Array, y: Array) -> Grid:
    # Rising only: with free plateaus a falling curve is the same one with the plateaus changed over.
    return {"midpoint": spread(x, 16), "slope": STEEP}


def _both_ways(x: Array, y: Array) -> Grid:
    return {"midpoint": spread(x, 16), "slope": np.concatenate((-STEEP, STEEP))}


def _lower_below_upper(turning: str) -> Callable[[Mapping[str, Any]], dict[str, Any]]:
    def canonical(p: Mapping[str, Any]) -> dict[str, Any]:
        other = {"lower": p["upper"], "upper": p["lower"], turning: -p[turning]}
        return exchange(np.greater(p["lower"], p["upper"]), p, other)

    return canonical


LOGISTIC4 = sigmoid_in_dose(
    id="logistic4",
    name="4-parameter logistic",
    equation="y = lower + (upper − lower)/(1 + (x/midpoint)^(−slope))",
    solved="midpoint × ((upper − lower) ÷ (y − lower) − 1)^(−1 ÷ slope)",
    form=f"lower + (upper - lower)*{_LOGISTIC}",
    parameters=(LOWER, UPPER, MIDPOINT, SLOPE),
    linear_in=("lower", "upper"),
    grid=_rising,
    canonical=_lower_below_upper("slope"),
    mirrored=("slope",),
    sigmoid=Sigmoid("logistic", "midpoint", "slope", symmetric=True),
    contains=("logistic3",),
    source="Finney (1976), Biometrics 32, 721",
    example=((0.1, 1.0, 1.0, 1.4), (0.02, 50.0)),
    derived=(MINUS_LOG,),
)

LOGISTIC5 = sigmoid_in_dose(
    id="logistic5",
    name="5-parameter logistic",
    equation="y = lower + (upper − lower)/(1 + (x/midpoint)^(−slope))^asymmetry",
    solved="midpoint × (((upper − lower) ÷ (y − lower))^(1 ÷ asymmetry) − 1)^(−1 ÷ slope)",
    form="lower + (upper - lower)*exp(asymmetry*ln(sigmoid(slope*(ln(x) - ln(midpoint)))))",
    parameters=(LOWER, UPPER, MIDPOINT, SLOPE, Parameter("asymmetry", "1 for a symmetric curve", "", positive=True)),
    linear_in=("lower", "upper"),
    grid=lambda x, y: {**_both_ways(x, y), "asymmetry": np.array([0.25, 0.6, 1.0, 2.0, 6.0])},
    sigmoid=Sigmoid("powered", "midpoint", "slope", power="asymmetry"),
    contains=("logistic4", "logistic3"),
    source="Gottschalk & Dunn (2005), Anal. Biochem. 343, 54",
    example=((0.1, 1.0, 0.3, 1.0, 3.0), (0.02, 50.0)),
    derived=(
        Derived(
            "half_dose",
            "dose halfway between the plateaus",
            "x",
            "midpoint*2^(-1/(asymmetry*slope))*(1 - 2^(-1/asymmetry))^(-1/slope)",
        ),
    ),
)

LOGISTIC5_MIRRORED = sigmoid_in_dose(
    id="logistic5_mirrored",
    name="5-parameter logistic, mirrored",
    equation="y = upper − (upper − lower)/(1 + (x/midpoint)^slope)^asymmetry",
    solved="midpoint × (((upper − lower) ÷ (upper − y))^(1 ÷ asymmetry) − 1)^(1 ÷ slope)",
    form="upper - (upper - lower)*exp(asymmetry*ln(sigmoid(-slope*(ln(x) - ln(midpoint)))))",
    parameters=LOGISTIC5.parameters,
    linear_in=("lower", "upper"),
    grid=LOGISTIC5.grid,
    turned_over="logistic5",
    contains=("logistic4", "logistic3"),
    source="Gottschalk & Dunn (2005), Anal. Biochem. 343, 54, of −y: the long tail is at the other end",
    example=((0.1, 1.0, 0.3, 1.0, 3.0), (0.02, 50.0)),
    derived=(
        Derived(
            "half_dose",
            "dose halfway between the plateaus",
            "x",
            "midpoint*2^(1/(asymmetry*slope))*(1 - 2^(-1/asymmetry))^(1/slope)",
        ),
    ),
)

LOGISTIC3 = sigmoid_in_dose(
    id="logistic3",
    name="3-parameter logistic",
    equation="y = upper/(1 + (x/midpoint)^(−slope))",
    form=f"upper*{_LOGISTIC}",
    parameters=(UPPER, MIDPOINT, SLOPE),
    linear_in=("upper",),
    grid=_both_ways,
    intercept=False,
    example=((1.0, 1.0, 1.4), (0.02, 50.0)),
    derived=(MINUS_LOG,),
)

LOGISTIC2 = sigmoid_in_dose(
    id="logistic2",
    name="2-parameter logistic, 0 to 100",
    equation="y = 100/(1 + (x/midpoint)^(−slope))",
    form=f"100*{_LOGISTIC}",
    parameters=(MIDPOINT, SLOPE),
    grid=_both_ways,
    intercept=False,
    example=((1.0, 1.4), (0.02, 50.0)),
    derived=(MINUS_LOG,),
)

LOGISTIC2_FRACTION = sigmoid_in_dose(
    id="logistic2_fraction",
    name="2-parameter logistic, 0 to 1",
    equation="y = 1/(1 + (x/midpoint)^(−slope))",
    form=_LOGISTIC,
    parameters=(MIDPOINT, SLOPE),
    grid=_both_ways,
    intercept=False,
    example=((1.0, 1.4), (0.02, 50.0)),
    derived=(MINUS_LOG,),
)

WEIBULL = sigmoid_in_dose(
    id="weibull",
    name="Weibull",
    equation="y = lower + (upper − lower)·(1 − exp(−(x/scale)^slope))",
    solved="scale × ln((upper − lower) ÷ (upper − y))^(1 ÷ slope)",
    form="lower + (upper - lower)*(1 - exp(-exp(slope*(ln(x) - ln(scale)))))",
    parameters=(LOWER, UPPER, Parameter("scale", "dose at 63 % of the way", "x", positive=True), SLOPE),
    linear_in=("lower", "upper"),
    grid=lambda x, y: {"scale": spread(x, 16), "slope": np.concatenate((-STEEP, STEEP))},
    sigmoid=Sigmoid("weibull", "scale", "slope"),
    source="Seber & Wild, Nonlinear Regression, 7.3; a negative slope is its mirror image on the log axis",
    example=((0.1, 1.0, 2.0, 1.0), (0.02, 50.0)),
)

GOMPERTZ_DOSE = Model(
    id="gompertz_dose",
    name="Gompertz in dose",
    equation="y = lower + (upper − lower)·exp(−exp(−slope·x + slope·inflection))",
    solved="inflection − ln(ln((upper − lower) ÷ (y − lower))) ÷ slope",
    form="lower + (upper - lower)*exp(-exp(-slope*(x - inflection)))",
    parameters=(
        LOWER, UPPER, Parameter("inflection", "x at the steepest point", "x"),
        Parameter("slope", "steepness; below zero for a falling curve", "1/x"),
    ),
    linear_in=("lower", "upper"),
    grid=lambda x, y: {"inflection": within(x, 12), "slope": _both_rates(x)},
    shape="sigmoid",
    sigmoid=Sigmoid("gompertz", "inflection", "slope", logarithmic=False),
    source="Seber & Wild, Nonlinear Regression, 7.3",
    example=((0.0, 1.0, 0.4, 7.0), (0.0, 1.5)),
)  # fmt: skip

HORMESIS = sigmoid_in_dose(
    id="hormesis",
    name="Hormesis",
    equation="y = lower + (upper − lower + stimulation·x)/(1 + (x/scale)^steepness)",
    form="lower + (upper - lower + stimulation*x)*sigmoid(-steepness*(ln(x) - ln(scale)))",
    parameters=(
        LOWER, Parameter("upper", "response at zero dose", "y"),
        Parameter("stimulation", "rise at low dose", "y/x"),
        Parameter("scale", "dose that sets the fall; not the half-effect dose", "x", positive=True),
        Parameter("steepness", "steepness of the fall", "", positive=True),
    ),
    linear_in=("lower", "upper", "stimulation"),
    grid=lambda x, y: {"scale": spread(x, 14), "steepness": np.array([1.3, 2.0, 3.0, 5.0, 9.0])},
    source="Brain & Cousens (1989), Weed Research 29, 93",
    example=((0.0, 1.0, 2.5, 1.0, 2.5), (0.02, 20.0)),
)  # fmt: skip

BELL = Model(
    id="bell",
    name="Bell",
    equation="y = lower + (upper − lower)/((1 + (x/rise)^(−rise_slope))·(1 + (x/fall)^fall_slope))",
    form="lower + (upper - lower)*sigmoid(rise_slope*(ln(x) - ln(rise)))*sigmoid(-fall_slope*(ln(x) - ln(fall)))",
    parameters=(
        LOWER, Parameter("upper", "height the rise would reach", "y"),
        Parameter("rise", "dose halfway up", "x", positive=True), Parameter("rise_slope", "steepness up", "", True),
        Parameter("fall", "dose halfway down", "x", positive=True), Parameter("fall_slope", "steepness down", "", True),
    ),
    linear_in=("lower", "upper"),
    grid=lambda x, y: {
        "rise": spread(x, 7), "fall": spread(x, 7), "rise_slope": np.array([1, 2.5]), "fall_slope": np.array([1, 2.5])
    },
    shape="peaked",
    positive_x=True,
    example=((0.0, 1.0, 0.3, 2.0, 6.0, 2.0), (0.02, 100.0)),
)  # fmt: skip

BOLTZMANN = Model(
    id="boltzmann",
    name="Boltzmann sigmoid",
    shape="sigmoid",
    equation="y = lower + (upper − lower)/(1 + exp((midpoint − x)/width))",
    solved="midpoint − width × ln((upper − lower) ÷ (y − lower) − 1)",
    form="lower + (upper - lower)*sigmoid((x - midpoint)/width)",
    parameters=(
        LOWER, UPPER, Parameter("midpoint", "x halfway between the plateaus", "x"),
        Parameter("width", "x over which it changes; below zero for a falling curve", "x"),
    ),
    linear_in=("lower", "upper"),
    grid=lambda x, y: {"midpoint": within(x, 14), "width": 1 / _rates(x)},
    mirrored=("width",),
    sigmoid=Sigmoid("logistic", "midpoint", "width", logarithmic=False, inverse_steepness=True, symmetric=True),
    canonical=_lower_below_upper("width"),
    example=((0.0, 1.0, 0.5, 0.09), (0.0, 1.0)),
)  # fmt: skip


def _rates(x: Array) -> Array:
    return np.geomspace(1.5, 60, 6) / (float(np.ptp(x)) or 1.0)


def _both_rates(x: Array) -> Array:
    return np.concatenate((-_rates(x), _rates(x)))
