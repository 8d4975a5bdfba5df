"""Robust fitting: how much a reading far from the curve still counts."""

import numpy as np

from dosis.core.arrays import Array

HUBER = 1.345  # 95 % efficiency at normal errors (Huber 1981)
BISQUARE = 4.685  # the same (Beaton & Tukey 1974)
NORMAL_MAD = 0.6744897501960817  # the 75 % point of the normal distribution


def reweight(residuals: Array, parameters: int, function: str) -> Array:
    """Factor for each reading's weight, (n,), from its weighted residual and the MAD of all about zero.

    Raises
    ------
    ValueError : for an unknown function.
    """
    if function not in ("huber", "bisquare"):
        raise ValueError(f"There is no robust function “{function}”. Known: huber, bisquare.")
    size = np.sort(np.abs(residuals))
    # The smallest residuals are zero by fitting; they say nothing about the spread.
    scale = float(np.median(size[parameters:] if size.size > 2 * parameters else size)) / NORMAL_MAD
    if scale == 0:
        return np.ones_like(residuals)
    u = np.abs(residuals) / scale
    if function == "huber":
        return np.minimum(1.0, HUBER / np.maximum(u, 1e-300))
    # Never quite zero: a reading is down-weighted, not dropped.
    factor: Array = np.maximum(np.square(1 - np.square(np.minimum(u / BISQUARE, 1.0))), 1e-8)
    return factor
