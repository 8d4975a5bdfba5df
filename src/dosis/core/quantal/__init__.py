"""Quantal response: counts of affected out of exposed; LD50, LC50 and any other dose, with and without a curve."""

from dosis.core.quantal.batch import QuantalBatch, fit_many
from dosis.core.quantal.doses import LethalDose
from dosis.core.quantal.model import QuantalFit, abbott, fit
from dosis.core.quantal.potency import QuantalPotency, relative_potency
from dosis.core.quantal.shares import binomial_interval
from dosis.core.quantal.spearman_karber import SpearmanKarber, spearman_karber

__all__ = [
    "LethalDose",
    "QuantalBatch",
    "QuantalFit",
    "QuantalPotency",
    "SpearmanKarber",
    "abbott",
    "binomial_interval",
    "fit",
    "fit_many",
    "relative_potency",
    "spearman_karber",
]
