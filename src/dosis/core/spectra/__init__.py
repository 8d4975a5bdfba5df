"""Spectra: peaks, values and areas, corrections, smoothing, mixtures, isosbestic points and change with time."""

from dosis.core.spectra.change import (
    FirstOrder,
    first_order,
    half_life,
    half_life_of_line,
    isosbestic_points,
    percent_change,
)
from dosis.core.spectra.correct import Scatter, polynomial_baseline, scatter
from dosis.core.spectra.mixture import Mixture, components
from dosis.core.spectra.noise import noise_of
from dosis.core.spectra.peaks import Peak, area, highest, value_at
from dosis.core.spectra.shapes import PeakShape, peaks_of
from dosis.core.spectra.smoothing import smoothed

__all__ = [
    "FirstOrder",
    "Mixture",
    "Peak",
    "PeakShape",
    "Scatter",
    "area",
    "components",
    "first_order",
    "half_life",
    "half_life_of_line",
    "highest",
    "isosbestic_points",
    "noise_of",
    "peaks_of",
    "percent_change",
    "polynomial_baseline",
    "scatter",
    "smoothed",
    "value_at",
]
