"""Dunnett's test: every treatment against one control, with one risk for all."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array

Z, S = 80, 64  # points of the two quadratures


def dunnett(groups: Sequence[Sequence[float]], *, sides: int = 2) -> list[tuple[float, float]]:
    """t and the p-value adjusted for all comparisons, of each treatment against the first group.

    p = P(max T ≥ t) of the multivariate t with correlations √(n_i n_j/((n₀ + n_i)(n₀ + n_j))), by quadrature over the
    control's mean and over the common spread (Dunnett 1955, J. Am. Stat. Assoc. 50, 1096). One-sided p are of a
    treatment above its control; turn the readings round for one below.

    Raises
    ------
    ValueError : for fewer than 2 groups, an empty one, or no degrees of freedom.

    Example
    -------
    >>> round(dunnett([[1.0, 2, 3], [4.0, 5, 6]])[0][1], 4)  # of one treatment this is Student's t
    0.0214
    """
    if len(groups) < 2 or min(map(len, groups)) < 1:
        raise ValueError("A control and at least one treatment with readings are needed.")
    df = sum(map(len, groups)) - len(groups)
    if df < 1:
        raise ValueError("There are too few readings to tell a spread from: repeat doses and the control.")
    means = [math.fsum(group) / len(group) for group in groups]
    within = math.fsum((y - m) ** 2 for group, m in zip(groups, means, strict=True) for y in group)
    s, sizes = math.sqrt(within / df), [len(group) for group in groups]
    if s == 0:
        raise ValueError("The readings of each dose agree exactly, so there is no spread to test against.")
    ts = [(m - means[0]) / (s * math.sqrt(1 / n + 1 / sizes[0])) for m, n in zip(means[1:], sizes[1:], strict=True)]
    loads = np.array([math.sqrt(n / (n + sizes[0])) for n in sizes[1:]])
    return [(t, _upper(abs(t) if sides == 2 else t, loads, df, sides)) for t in ts]


def _upper(t: float, loads: Array, df: int, sides: int) -> float:
    """P(the largest of the correlated t is at least t)."""
    z, wz = _normal()
    s, ws = _chi(df)
    rest = np.sqrt(1 - loads**2)
    below = np.ones((S, Z))
    for load, other in zip(loads.tolist(), rest.tolist(), strict=True):
        at = (t * s[:, None] + load * z[None, :]) / other
        share = special.ndtr(at)
        if sides == 2:
            share = share - special.ndtr((-t * s[:, None] + load * z[None, :]) / other)
        below *= share
    return min(max(1.0 - float(ws @ below @ wz), 0.0), 1.0)


@lru_cache(maxsize=1)
def _normal() -> tuple[Array, Array]:
    """Points and weights for a mean over a standard normal."""
    x, w = np.polynomial.legendre.leggauss(Z)
    z = 8.5 * x
    weights = 8.5 * w * np.exp(-(z**2) / 2) / math.sqrt(2 * math.pi)
    return z, weights / weights.sum()


@lru_cache(maxsize=256)
def _chi(df: int) -> tuple[Array, Array]:
    """Points and weights for a mean over √(χ²/df)."""
    x, w = np.polynomial.legendre.leggauss(S)
    wide = 8 / math.sqrt(2 * df)
    low, high = max(1 - wide, 0.0), 1 + wide
    s = low + (high - low) * (x + 1) / 2
    log = (df - 1) * np.log(np.maximum(s, 1e-300)) - df * s**2 / 2
    weights = w * np.exp(log - log.max())
    return s, weights / weights.sum()
