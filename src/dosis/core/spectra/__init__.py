"""Spectra: maxima, values at a wavelength, corrections, smoothing, areas, isosbestic points and first-order change."""

from dosis.core.spectra.change import FirstOrder, first_order, isosbestic_points, percent_change
from dosis.core.spectra.correct import Scatter, baseline, scatter, smooth
from dosis.core.spectra.peaks import Peak, area, highest, maxima, value_at

__all__ = [
    "FirstOrder",
    "Peak",
    "Scatter",
    "area",
    "baseline",
    "first_order",
    "highest",
    "isosbestic_points",
    "maxima",
    "percent_change",
    "scatter",
    "smooth",
    "value_at",
]
