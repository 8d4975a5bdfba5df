"""Treatments against a control: which is the highest dose without a shown effect, and the lowest with one?"""

from dosis.core.no_effect.against import NoEffect, Tested, no_effect, no_effect_of_counts
from dosis.core.no_effect.counts import cochran_armitage, fisher
from dosis.core.no_effect.dunnett import dunnett
from dosis.core.no_effect.trend import jonckheere, williams

__all__ = [
    "NoEffect",
    "Tested",
    "cochran_armitage",
    "dunnett",
    "fisher",
    "jonckheere",
    "no_effect",
    "no_effect_of_counts",
    "williams",
]
