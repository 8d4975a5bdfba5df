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
    scale = _scale(residuals, parameters)
    if scale == 0:
        return np.ones_like(residuals)
    u = np.abs(residuals) / scale
    if function == "huber":
        return np.minimum(1.0, HUBER / np.maximum(u, 1e-300))
    # Never quite zero: a reading is down-weighted, not dropped.
    factor: Array = np.maximum(np.square(1 - np.square(np.minimum(u / BISQUARE, 1.0))), 1e-8)
    return factor


def robust_variance(residuals: Array, parameters: int, function: str) -> float | None:
    """Variance of a reading that makes (JᵀWJ)⁻¹, W with the robust weights, the covariance of a robust fit.

    Huber's asymptotic covariance with his factor for small samples, K²·Σψ²/(n − p) ÷ (mean of ψ′)² (Huber & Ronchetti,
    Robust Statistics, 2009, 7.6), times the mean weight, which JᵀWJ has already. The plain SSE over its degrees of
    freedom would leave out that the weights were chosen by the residuals themselves. None without a spread.
    """
    scale, n = _scale(residuals, parameters), residuals.size
    if scale == 0 or n <= parameters:
        return None
    u = residuals / scale
    if function == "huber":
        slope = (np.abs(u) <= HUBER).astype(float)
        pull = np.clip(u, -HUBER, HUBER)
    else:
        square = np.square(u / BISQUARE)
        inside = square < 1
        slope = np.where(inside, (1 - square) * (1 - 5 * square), 0.0)
        pull = np.where(inside, u * np.square(1 - square), 0.0)
    mean = float(slope.mean())
    if mean <= 0:
        return None
    factor = 1 + parameters / n * float(slope.var()) / mean**2
    weight = float(reweight(residuals, parameters, function).mean())
    return weight * (factor * scale / mean) ** 2 * float((pull * pull).sum()) / (n - parameters)


def _scale(residuals: Array, parameters: int) -> float:
    size = np.sort(np.abs(residuals))
    # The smallest residuals are zero by fitting; they say nothing about the spread.
    return float(np.median(size[parameters:] if size.size > 2 * parameters else size)) / NORMAL_MAD
