"""Readings nested in preparations: the mean, and how far preparations and readings of one scatter, by REML."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile

GOLDEN = (math.sqrt(5) - 1) / 2


@dataclass(frozen=True, slots=True)
class Nested:
    """Mean of preparations with its standard error on preparations − 1 degrees of freedom.

    within : SD of readings of one preparation, None where none has two. between : SD of preparations beyond what their
    readings explain, zero where these explain it.
    """

    mean: float
    standard_error: float
    degrees_of_freedom: int
    within: float | None
    between: float
    preparations: int
    n: int

    def interval(self, level: float = 0.95, *, also: float = 0.0) -> tuple[float, float]:
        """mean ± t·se; also : a standard error that all preparations share, of a calibration."""
        half = t_quantile((1 + level) / 2, self.degrees_of_freedom) * math.hypot(self.standard_error, also)
        return self.mean - half, self.mean + half


def nested(groups: Sequence[Sequence[float]]) -> Nested:
    """One-way random effects by restricted maximum likelihood (Searle, Casella & McCulloch 1992, chapter 6).

    y_ij = μ + a_i + e_ij. The ratio λ = σ_a²/σ² is found on its profile; in balanced data this is the analysis of
    variance, with a negative component taken as zero. The mean weighs preparations by 1/(λ + 1/n_i). Its degrees of
    freedom are those of preparations: more readings of the same ones do not make the mean better known than they are.

    Parameters
    ----------
    groups : the readings of each preparation.

    Raises
    ------
    ValueError : for fewer than 2 preparations, or an empty one.

    Example
    -------
    >>> round(nested([[10.1, 10.3], [10.6, 10.6], [9.9, 10.1]]).between, 3)
    0.294
    """
    if len(groups) < 2 or min(map(len, groups)) < 1:
        raise ValueError("An interval of preparations needs at least 2, each with a reading.")
    sizes = np.array([len(group) for group in groups], dtype=float)
    means = np.array([math.fsum(group) / len(group) for group in groups])
    n, k = int(sizes.sum()), len(groups)
    inside = math.fsum((y - m) ** 2 for group, m in zip(groups, means.tolist(), strict=True) for y in group)
    if n == k or inside == 0:
        spread = float(means.std(ddof=1))
        return Nested(float(means.mean()), spread / math.sqrt(k), k - 1, None if n == k else 0.0, spread, k, n)
    ratio = _ratio(means, sizes, inside, n)
    mean, squares, weights = _at(ratio, means, sizes)
    variance = (inside + squares) / (n - 1)
    error = math.sqrt(variance / float(weights.sum()))
    return Nested(mean, error, k - 1, math.sqrt(variance), math.sqrt(ratio * variance), k, n)


def _at(ratio: float, means: Array, sizes: Array) -> tuple[float, float, Array]:
    """The mean, the weighted squares about it, and the weights, for a ratio of variances."""
    weights = 1 / (ratio + 1 / sizes)
    mean = float((weights * means).sum() / weights.sum())
    return mean, float((weights * (means - mean) ** 2).sum()), weights


def _ratio(means: Array, sizes: Array, inside: float, n: int) -> float:
    """The ratio of variances at the greatest restricted likelihood; zero where that lies at the edge."""

    def unlikely(ratio: float) -> float:
        _, squares, weights = _at(ratio, means, sizes)
        spread = (n - 1) * math.log(inside + squares)
        return spread + float(np.log1p(ratio * sizes).sum()) + math.log(float(weights.sum()))

    logs = np.linspace(-14.0, 24.0, 96)
    heights = [unlikely(math.exp(x)) for x in logs.tolist()]
    best = int(np.argmin(heights))
    low, high = float(logs[max(best - 1, 0)]), float(logs[min(best + 1, len(logs) - 1)])
    for _ in range(80):
        a, b = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
        low, high = (low, b) if unlikely(math.exp(a)) < unlikely(math.exp(b)) else (a, high)
    found = math.exp((low + high) / 2)
    return 0.0 if unlikely(0.0) <= unlikely(found) else found
