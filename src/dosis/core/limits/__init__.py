"""Limits and ranges: what can be detected, quantified and told apart, and over which range a curve may be read."""

from dosis.core.limits.capability import Capability, capability, mandel
from dosis.core.limits.detection import (
    Currie,
    DetectionLimits,
    blank_through_curve,
    currie,
    detection_limits,
    signal_beyond_blanks,
)
from dosis.core.limits.quality import AssayQuality, assay_quality
from dosis.core.limits.range import BackCalculated, WorkingRange, back_calculated, working_range

__all__ = [
    "AssayQuality",
    "BackCalculated",
    "Capability",
    "Currie",
    "DetectionLimits",
    "WorkingRange",
    "assay_quality",
    "back_calculated",
    "blank_through_curve",
    "capability",
    "currie",
    "detection_limits",
    "mandel",
    "signal_beyond_blanks",
    "working_range",
]
