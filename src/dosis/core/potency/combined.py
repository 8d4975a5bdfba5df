"""One potency from several independent assays."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from dosis.core.distributions import chi2_upper_p, t_quantile

Way = Literal["weighted", "semi-weighted", "unweighted"]
ALIKE = 0.05
"""p of the test of homogeneity from which the assays count as estimates of one potency (from memory, Ph. Eur. 5.3)."""


@dataclass(frozen=True, slots=True)
class Combined:
    """The combined potency.

    log_standard_error is of ln potency. weights : of the assays, adding up to 1. heterogeneity : chi-square of the
    weighted squares about the weighted mean, its degrees of freedom and p. between : standard deviation of ln potency
    between assays, beyond what their own errors explain; zero where they explain it.
    """

    estimate: float
    lower: float
    upper: float
    log_standard_error: float
    way: Way
    weights: tuple[float, ...]
    heterogeneity: float
    degrees_of_freedom: int
    p_value: float
    between: float

    @property
    def homogeneous(self) -> bool:
        """Whether the assays agree as well as their own errors let expect."""
        return self.p_value >= ALIKE


def combine(
    log_potencies: Sequence[float], errors: Sequence[float], dfs: Sequence[int], *, way: Way | None = None,
    level: float = 0.95,
) -> Combined:  # fmt: skip
    """The mean of ln potencies of independent assays, with weights 1/s² where they agree.

    Weighted: M = ΣWM/ΣW, W = 1/s², s² = 1/ΣW, t of all their degrees of freedom. Semi-weighted, where they do not agree
    (or it is asked for): the variance between assays is added to each s² (Ph. Eur. 5.3, 6.2–6.3; USP <1034>); the
    degrees of freedom are then those of the assays, n − 1, where the pharmacopoeia takes a t of about 2: of few assays
    that is too short. Unweighted: the mean with its standard error, n − 1.

    Parameters
    ----------
    log_potencies, errors, dfs : ln potency, its standard error and degrees of freedom of each assay, (n,).
    way : None chooses weighted or semi-weighted by the test of homogeneity.

    Raises
    ------
    ValueError : for fewer than 2 assays, or an error that is not above zero.

    Example
    -------
    >>> round(combine([0.1, 0.1], [0.1, 0.1], [10, 10]).log_standard_error, 4)
    0.0707
    """
    n = len(log_potencies)
    if n < 2:
        raise ValueError("Combining needs at least 2 assays.")
    if not all(error > 0 and math.isfinite(error) for error in errors):
        raise ValueError("An assay whose potency has no standard error cannot be weighted.")
    weights = [1 / error**2 for error in errors]
    mean = math.fsum(w * m for w, m in zip(weights, log_potencies, strict=True)) / math.fsum(weights)
    chi = math.fsum(w * (m - mean) ** 2 for w, m in zip(weights, log_potencies, strict=True))
    p = chi2_upper_p(chi, n - 1)
    plain = math.fsum(log_potencies) / n
    spread = math.fsum((m - plain) ** 2 for m in log_potencies) / (n - 1)
    between = max(spread - math.fsum(error**2 for error in errors) / n, 0.0)
    way = way or ("weighted" if p >= ALIKE else "semi-weighted")
    if way == "unweighted":
        weights, mean, error, df = [1.0] * n, plain, math.sqrt(spread / n), n - 1
    elif way == "semi-weighted":
        weights = [1 / (error**2 + between) for error in errors]
        mean = math.fsum(w * m for w, m in zip(weights, log_potencies, strict=True)) / math.fsum(weights)
        error, df = 1 / math.sqrt(math.fsum(weights)), n - 1
    else:
        error, df = 1 / math.sqrt(math.fsum(weights)), sum(dfs)
    half = t_quantile((1 + level) / 2, df) * error
    total = math.fsum(weights)
    return Combined(
        math.exp(mean), math.exp(mean - half), math.exp(mean + half), error, way, tuple(w / total for w in weights),
        chi, n - 1, p, math.sqrt(between),
    )  # fmt: skip
