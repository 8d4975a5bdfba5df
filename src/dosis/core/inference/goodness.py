"""Does the curve describe the data? Lack of fit against pure error, and runs of residual signs."""

from dataclasses import dataclass
from functools import cache
from itertools import pairwise
from math import comb, sqrt

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.distributions import f_upper_p
from dosis.core.places import Places


@dataclass(frozen=True, slots=True)
class Test:
    """A test's statistic and p-value, or the reason why there is none.

    pure_error : of a test of lack of fit, Σ w·(y − mean of its x)².
    """

    statistic: float | None
    p_value: float | None
    degrees_of_freedom: tuple[int, ...] = ()
    reason: str = ""
    pure_error: float | None = None


def lack_of_fit(at: Places, y: Array, weights: Array, sse: float, parameters: int) -> Test:
    """F test of the fit's excess over pure error between readings at the same x.

    F = ((SSE − SSPE)/(k − p)) / (SSPE/(n − k)) with k different x and p parameters (Draper & Smith, Applied
    Regression Analysis, 2.1); SSPE is weighted as the fit was. Shapes: y, weights (n,).
    """
    group = at.group
    k, n = at.levels.size, y.size
    if n == k:
        return Test(None, None, reason="No concentration was read twice, so there is no pure error to test against.")
    if k <= parameters:
        return Test(None, None, reason=f"{k} different concentrations leave nothing to test a curve against.")
    total = np.bincount(group, weights)
    means = np.bincount(group, weights * y) / total
    apart = y - means[group]
    pure = float(weights @ (apart * apart))
    df = (k - parameters, n - k)
    if pure <= 1e-24 * float(weights @ (y * y)):
        return Test(None, None, df, "The replicates agree exactly, so there is no pure error to test against.")
    f = max(sse - pure, 0.0) / df[0] / (pure / df[1])
    return Test(f, f_upper_p(f, *df), df, pure_error=pure)


def runs_test(at: Places, residuals: Array, weights: Array) -> Test:
    """Wald–Wolfowitz test for too few runs of residual signs along x (one-sided).

    Readings at the same x count once, by the sign of their mean residual, so their order does not matter. Exact up
    to 60 signs (Siegel, Nonparametric Statistics, chapter 4), normal with continuity correction beyond.
    """
    total = np.bincount(at.group, weights * residuals)
    signs = [value > 0 for value in total.tolist() if value != 0]
    above, below = signs.count(True), signs.count(False)
    if above == 0 or below == 0:
        return Test(None, None, reason="All residuals have the same sign or are zero; there are no runs to count.")
    runs = 1 + sum(one is not other for one, other in pairwise(signs))
    p = _exact_runs_p(above, below, runs) if above + below <= 60 else _normal_runs_p(above, below, runs)
    return Test(float(runs), p)


@cache
def _exact_runs_p(a: int, b: int, runs: int) -> float:
    ways = 0
    for r in range(2, runs + 1):
        k = r // 2
        if r % 2 == 0:
            ways += 2 * comb(a - 1, k - 1) * comb(b - 1, k - 1)
        else:
            ways += comb(a - 1, k) * comb(b - 1, k - 1) + comb(a - 1, k - 1) * comb(b - 1, k)
    return ways / comb(a + b, a)


def _normal_runs_p(a: int, b: int, runs: int) -> float:
    n = a + b
    mean = 1 + 2 * a * b / n
    variance = (mean - 1) * (mean - 2) / (n - 1)
    return float(special.ndtr((runs + 0.5 - mean) / sqrt(variance)))
