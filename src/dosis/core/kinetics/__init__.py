"""Kinetics: rates of time courses over a window, the window itself, the steepest slope, kinds of inhibition."""

from dosis.core.kinetics.between import Between, between
from dosis.core.kinetics.inhibition import INHIBITIONS, InhibitionFit, inhibition
from dosis.core.kinetics.lines import Lines, start_slopes, straight_lines
from dosis.core.kinetics.steepest import Steepest, steepest
from dosis.core.kinetics.windows import (
    LEAST,
    LinearWindow,
    Rates,
    Window,
    early_half,
    rates,
    widest_linear_window,
    widest_straight,
)

__all__ = [
    "INHIBITIONS",
    "LEAST",
    "Between",
    "InhibitionFit",
    "LinearWindow",
    "Lines",
    "Rates",
    "Steepest",
    "Window",
    "between",
    "early_half",
    "inhibition",
    "rates",
    "start_slopes",
    "steepest",
    "straight_lines",
    "widest_linear_window",
    "widest_straight",
]
