"""Relative potency: how much of a preparation does the work of the reference. By lines, by slopes or by curves."""

from dosis.core.potency.combined import Combined, combine
from dosis.core.potency.cross_over import CrossOver, cross_over
from dosis.core.potency.curves import CurvePotency, parallel_curves, slopes_equivalent
from dosis.core.potency.lines import parallel_lines
from dosis.core.potency.result import Equivalence, Potency
from dosis.core.potency.slopes import slope_ratio
from dosis.core.potency.variance import Analysis, analysis_of_variance

__all__ = [
    "Analysis",
    "Combined",
    "CrossOver",
    "CurvePotency",
    "Equivalence",
    "Potency",
    "analysis_of_variance",
    "combine",
    "cross_over",
    "parallel_curves",
    "parallel_lines",
    "slope_ratio",
    "slopes_equivalent",
]
