"""Information criteria of a least-squares fit, with the weights' share so that weightings can be compared."""

import math

import numpy as np

from dosis.core.arrays import Array


def minus_two_log_likelihood(sse: float, weights: Array) -> float | None:
    """n·ln(SSE/n) − Σ ln w, without the constant n·(1 + ln 2π); None for a perfect fit."""
    n = weights.size
    if not sse > 0:
        return None
    equal = weights[0] == 1.0 and bool((weights == 1.0).all())
    return n * math.log(sse / n) - (0.0 if equal else float(np.log(weights).sum()))


def aicc(likelihood: float | None, n: int, parameters: int) -> float | None:
    """−2 ln L + 2k + 2k(k + 1)/(n − k − 1), k = parameters + 1 (Burnham & Anderson 2002, 2.4).

    likelihood : −2 ln L of n readings. None for a perfect fit, or when n ≤ k + 1.
    """
    k = parameters + 1
    if likelihood is None or n <= k + 1:
        return None
    return likelihood + 2 * k + 2 * k * (k + 1) / (n - k - 1)


def bic(likelihood: float | None, n: int, parameters: int) -> float | None:
    """−2 ln L + k·ln n, k = parameters + 1 (Schwarz 1978); None for a perfect fit."""
    return None if likelihood is None else likelihood + (parameters + 1) * math.log(n)
