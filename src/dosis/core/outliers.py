"""Outlying replicates: pointed at by a test, with its value and critical value; never removed by the program."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.distributions import t_quantile, t_two_sided_p
from dosis.core.replicates import summarize

# Two-sided critical values of Dixon's r10 at 95 %, n = 3 … 10 (Rorabacher 1991, Anal. Chem. 63, 139).
DIXON_95 = {3: 0.970, 4: 0.829, 5: 0.710, 6: 0.625, 7: 0.568, 8: 0.526, 9: 0.493, 10: 0.466}
NORMAL_MAD = 1.4826  # makes the MAD the standard deviation of normal readings
MAD_LIMIT = 3.5  # Iglewicz & Hoaglin (1993), for the modified z-score


@dataclass(frozen=True, slots=True)
class OutlierTest:
    """The reading furthest out (its place and value), the statistic, its critical value, and the verdict.

    p_value is None where the test has only a table. Without a spread there is no statistic, and `reason` says so.
    """

    suspect: int
    value: float
    statistic: float | None
    critical: float | None
    p_value: float | None
    outlying: bool
    reason: str = ""


def grubbs(readings: Sequence[float], alpha: float = 0.05) -> OutlierTest:
    """Grubbs' test of the reading furthest from the mean, two-sided (Grubbs 1969; ISO 5725-2).

    G = max|x − mean|/SD; critical (n − 1)/√n · √(t²/(n − 2 + t²)), t the upper α/(2n) point, n − 2 degrees of freedom.

    Raises
    ------
    ValueError : for fewer than 3 readings, or one that is not finite.
    """
    x = _checked(readings, 3)  # of a few numbers, an array costs more than it saves
    n, summary = len(x), summarize(x)
    away = [abs(value - summary.mean) for value in x]
    at = away.index(max(away))
    if not summary.sd:
        return OutlierTest(at, x[at], None, None, None, False, "All readings are the same.")
    g = away[at] / summary.sd
    t = t_quantile(1 - alpha / (2 * n), n - 2)
    critical = (n - 1) / math.sqrt(n) * math.sqrt(t * t / (n - 2 + t * t))
    left = (n - 1) ** 2 - n * g * g
    t_of_g = math.sqrt(n * (n - 2) * g * g / left) if left > 0 else math.inf
    p = min(1.0, n * t_two_sided_p(t_of_g, n - 2))
    return OutlierTest(at, x[at], g, critical, p, g > critical)


def dixon(readings: Sequence[float]) -> OutlierTest:
    """Dixon's Q (r10), two-sided at 95 %, for 3 to 10 readings: the gap to the neighbor over the range.

    Raises
    ------
    ValueError : for fewer than 3 or more than 10 readings, or one that is not finite.
    """
    x = np.array(_checked(readings, 3))
    if x.size not in DIXON_95:
        raise ValueError(f"Dixon's Q is tabulated for 3 to 10 readings; there are {x.size}. Use Grubbs' test.")
    order = np.argsort(x, kind="stable")
    s = x[order]
    span = float(s[-1] - s[0])
    low, high = float(s[1] - s[0]), float(s[-1] - s[-2])
    at = int(order[0] if low > high else order[-1])
    if span == 0:
        return OutlierTest(at, float(x[at]), None, None, None, False, "All readings are the same.")
    q, critical = max(low, high) / span, DIXON_95[x.size]
    return OutlierTest(at, float(x[at]), q, critical, None, q > critical)


def mad_rule(readings: Sequence[float], limit: float = MAD_LIMIT) -> OutlierTest:
    """The reading furthest from the median in units of the scaled MAD (Iglewicz & Hoaglin 1993).

    Raises
    ------
    ValueError : for fewer than 3 readings, or one that is not finite.
    """
    x = np.array(_checked(readings, 3))
    away = np.abs(x - np.median(x))
    at = int(away.argmax())
    scale = NORMAL_MAD * float(np.median(away))
    if scale == 0:
        return OutlierTest(at, float(x[at]), None, None, None, False, "More than half of the readings are the same.")
    score = float(away[at]) / scale
    return OutlierTest(at, float(x[at]), score, limit, None, score > limit)


def _checked(readings: Sequence[float], least: int) -> list[float]:
    x = list(map(float, readings))
    if len(x) < least:
        raise ValueError(f"An outlier test needs at least {least} readings; there are {len(x)}.")
    if not all(map(math.isfinite, x)):
        raise ValueError("Readings to test must be finite numbers.")
    return x
