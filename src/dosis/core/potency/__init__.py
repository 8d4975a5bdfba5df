"""Relative potency: how much of a preparation does the work of the reference. By lines, by slopes or by curves."""

from dosis.core.potency.curves import CurvePotency, parallel_curves, slopes_equivalent
from dosis.core.potency.lines import parallel_lines
from dosis.core.potency.result import Equivalence, Potency
from dosis.core.potency.slopes import slope_ratio

__all__ = [
    "CurvePotency",
    "Equivalence",
    "Potency",
    "parallel_curves",
    "parallel_lines",
    "slope_ratio",
    "slopes_equivalent",
]
