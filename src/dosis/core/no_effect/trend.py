"""Tests of treatments whose effect rises with dose: Williams's for means, Jonckheere and Terpstra's for ranks."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array

DRAWS = 200_000  # of the null distribution; the standard error of a p of 0.05 is 0.0005
SEED = 1971


def williams(groups: Sequence[Sequence[float]]) -> list[tuple[float, float]]:
    """Williams's t̄ and p of each treatment, in rising order of dose, of an effect that rises with dose.

    t̄_i = (M_i − ȳ₀)/(s·√(1/n_i + 1/n₀)), M the treatments' means made to rise (Williams 1971, Biometrics 27, 103;
    1972, 28, 519). p_i is of the null distribution of i treatments, drawn 200,000 times with a fixed seed. The test
    goes down from the highest dose and ends where an effect is no longer shown; that is left to who asks.

    Raises
    ------
    ValueError : for fewer than 2 groups, or no degrees of freedom.
    """
    if len(groups) < 2 or min(map(len, groups)) < 1:
        raise ValueError("A control and at least one treatment with readings are needed.")
    sizes = np.array([len(group) for group in groups], dtype=float)
    df = int(sizes.sum()) - len(groups)
    if df < 1:
        raise ValueError("There are too few readings to tell a spread from: repeat doses and the control.")
    means = np.array([math.fsum(group) / len(group) for group in groups])
    within = math.fsum((y - m) ** 2 for group, m in zip(groups, means.tolist(), strict=True) for y in group)
    s = math.sqrt(within / df)
    if s == 0:
        raise ValueError("The readings of each dose agree exactly, so there is no spread to test against.")
    rising = [
        max(min(_mean(means, sizes, u, v) for v in range(i, len(groups))) for u in range(1, i + 1))
        for i in range(1, len(groups))
    ]
    rng = np.random.default_rng(SEED)
    drawn = rng.standard_normal((DRAWS, len(groups))) / np.sqrt(sizes)
    spread = np.sqrt(rng.chisquare(df, DRAWS) / df)
    found = []
    for i, m in enumerate(rising, start=1):
        scale = math.sqrt(1 / sizes[i] + 1 / sizes[0])
        t = (m - float(means[0])) / (s * scale)
        top = _highest(drawn[:, 1 : i + 1], sizes[1 : i + 1])
        null = (top - drawn[:, 0]) / (spread * scale)
        found.append((t, float((null >= t).mean())))
    return found


def _mean(means: Array, sizes: Array, first: int, last: int) -> float:
    part = slice(first, last + 1)
    return float((means[part] * sizes[part]).sum() / sizes[part].sum())


def _highest(means: Array, sizes: Array) -> Array:
    """The highest of means made to rise, row by row: the largest mean of the last 1, 2 … groups together."""
    total, weight = np.zeros(len(means)), 0.0
    best = np.full(len(means), -np.inf)
    for k in range(means.shape[1] - 1, -1, -1):
        total = total + means[:, k] * sizes[k]
        weight += float(sizes[k])
        best = np.maximum(best, total / weight)
    return best


def jonckheere(groups: Sequence[Sequence[float]]) -> tuple[float, float, float]:
    """J, its standardized value and the one-sided p of a rise over the groups, by the normal with ties in its variance.

    J counts the pairs of readings of two groups that stand in order, ties as a half (Jonckheere 1954, Biometrika 41,
    133; Terpstra 1952; variance with ties by Hollander & Wolfe, Nonparametric Statistical Methods, 6.2).

    Raises
    ------
    ValueError : for fewer than 2 groups or 3 readings, or readings that are all alike.
    """
    sizes = [len(group) for group in groups]
    n = sum(sizes)
    if len(groups) < 2 or min(sizes) < 1 or n < 3:
        raise ValueError("A trend needs at least 2 groups and 3 readings.")
    arrays = [np.asarray(group, dtype=float) for group in groups]
    j = 0.0
    for i, low in enumerate(arrays):
        for high in arrays[i + 1 :]:
            gap = high[None, :] - low[:, None]
            j += float((gap > 0).sum() + 0.5 * (gap == 0).sum())
    ties = list(Counter(np.concatenate(arrays).tolist()).values())
    mean = (n * n - sum(size * size for size in sizes)) / 4

    def five(k: int) -> int:
        return k * (k - 1) * (2 * k + 5)

    def three(k: int) -> int:
        return k * (k - 1) * (k - 2)

    def pairs(k: int) -> int:
        return k * (k - 1)

    variance = (five(n) - sum(map(five, sizes)) - sum(map(five, ties))) / 72
    variance += sum(map(three, sizes)) * sum(map(three, ties)) / (36 * three(n))
    variance += sum(map(pairs, sizes)) * sum(map(pairs, ties)) / (8 * pairs(n))
    if variance <= 0:
        raise ValueError("The readings are all alike, so there is no trend to test.")
    z = (j - mean) / math.sqrt(variance)
    return j, z, float(special.ndtr(-z))
