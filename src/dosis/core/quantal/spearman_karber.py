"""Spearman–Kärber: the LD50 as a mean, without a model; trimmed where the response does not run from none to all."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array


@dataclass(frozen=True, slots=True)
class SpearmanKarber:
    """LD50 with its interval from the normal distribution on log10 dose; monotone has the smoothed shares."""

    estimate: float
    lower: float
    upper: float
    log_estimate: float
    log_standard_error: float
    trim: float
    monotone: tuple[float, ...]


def spearman_karber(
    dose: ArrayLike, affected: ArrayLike, exposed: ArrayLike, trim: float = 0.0, level: float = 0.95
) -> SpearmanKarber:
    """Trimmed Spearman–Kärber estimate of the LD50 (Hamilton, Russo & Thurston 1977, Environ. Sci. Technol. 11, 714).

    Shares are made monotone by pooling neighbors that fall, weighted by the number exposed; the distribution is cut at
    `trim` and 1 − `trim`, by straight lines in log10 dose, and its mean taken. The variance is first order in the
    binomial variances of the monotone shares.

    Parameters
    ----------
    dose : (k,), above zero; affected, exposed : (k,).
    trim : 0 to below 0.5.

    Raises
    ------
    ValueError : when the shares do not reach from `trim` to 1 − `trim`, naming the least trim that would do.
    """
    order = np.argsort(np.asarray(dose, dtype=float), kind="stable")
    doses, r, n = (np.asarray(values, dtype=float)[order] for values in (dose, affected, exposed))
    if not 0 <= trim < 0.5:
        raise ValueError(f"The trim must lie from 0 to below 0.5; here it is {trim:g}.")
    if doses.size < 2 or (doses <= 0).any():
        raise ValueError("Spearman–Kärber needs at least 2 doses, all above zero; leave the controls out.")
    x, p = np.log10(doses), _monotone(r / n, n)
    if p[0] > trim or p[-1] < 1 - trim:
        least = max(p[0], 1 - p[-1])
        advice = f"a trim of at least {least:.3g} is needed" if least < 0.5 else "no trim below 0.5 is enough"
        raise ValueError(f"The shares run from {p[0]:.3g} to {p[-1]:.3g}; {advice}.")
    mean = _mean(x, p, trim)
    # The derivative of the mean in each share, by central differences of a function that is smooth between its kinks.
    variance = 0.0
    for i in range(p.size):
        slope = _slope(x, p, trim, i)
        variance += slope * slope * p[i] * (1 - p[i]) / n[i]
    error = math.sqrt(variance)
    half = float(special.ndtri((1 + level) / 2)) * error
    return SpearmanKarber(10**mean, 10 ** (mean - half), 10 ** (mean + half), mean, error, trim, tuple(p.tolist()))


def _monotone(share: Array, weight: Array) -> Array:
    """Shares that never fall: neighbors that do are pooled (Ayer et al. 1955)."""
    blocks: list[list[float]] = []
    for p, w in zip(share.tolist(), weight.tolist(), strict=True):
        blocks.append([p, w, 1])
        while len(blocks) > 1 and blocks[-2][0] > blocks[-1][0]:
            p2, w2, k2 = blocks.pop()
            p1, w1, k1 = blocks.pop()
            blocks.append([(p1 * w1 + p2 * w2) / (w1 + w2), w1 + w2, k1 + k2])
    return np.concatenate([np.full(int(k), p) for p, _, k in blocks])


def _mean(x: Array, p: Array, trim: float) -> float:
    """Mean of x over the distribution between the cuts."""
    total = 0.0
    for i in range(p.size - 1):
        low, high = max(p[i], trim), min(p[i + 1], 1 - trim)
        if high <= low:
            continue
        step = (x[i + 1] - x[i]) / (p[i + 1] - p[i])
        middle = x[i] + step * ((low + high) / 2 - p[i])
        total += (high - low) * middle
    return float(total / (1 - 2 * trim))


def _slope(x: Array, p: Array, trim: float, i: int) -> float:
    h = 1e-6
    up, down = p.copy(), p.copy()
    up[i], down[i] = p[i] + h, p[i] - h
    return (_mean(x, up, trim) - _mean(x, down, trim)) / (2 * h)
