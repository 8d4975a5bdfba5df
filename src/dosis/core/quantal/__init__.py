"""Quantal response: counts of affected out of exposed; LD50, LC50 and any other dose, with and without a curve."""

from dosis.core.quantal.doses import LethalDose
from dosis.core.quantal.model import QuantalFit, abbott, fit
from dosis.core.quantal.spearman_karber import SpearmanKarber, spearman_karber

__all__ = ["LethalDose", "QuantalFit", "SpearmanKarber", "abbott", "fit", "spearman_karber"]
