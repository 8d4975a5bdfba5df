"""Replicates: one value from several readings of the same thing, and how far they agree."""

import math
import statistics
from collections.abc import Sequence
from typing import Literal, NamedTuple

from dosis.core.distributions import t_quantile

Combine = Literal["mean", "median", "geometric"]

# n times the variance of the median of n normal readings, over that of one (Kendall & Stuart, Advanced Theory of
# Statistics, 14.6, by quadrature of the order statistics' densities).
MEDIAN_VARIANCE = (
    1.0, 1.0, 1.346, 1.1928, 1.4342, 1.2885, 1.4731, 1.3455, 1.4949, 1.3833, 1.5088, 1.4103, 1.5184, 1.4304, 1.5254,
    1.4461, 1.5308, 1.4587, 1.535, 1.4689,
)  # fmt: skip


def median_worth(n: int) -> float:
    """How many readings a mean needs to be as good as the median of n, all normal with the same variance."""
    return n / (MEDIAN_VARIANCE[n - 1] if n <= len(MEDIAN_VARIANCE) else math.pi / 2)


class Replicates(NamedTuple):
    """Summary of n readings, in their unit.

    value : mean, median or geometric mean, as asked for.
    sd, sem : sample standard deviation (n - 1) and sd/√n; None for a single reading.
    cv : sd/|mean|, a fraction; None for a single reading or a mean of zero.
    worth : how many readings their mean would need for the variance that `value` has.
    """

    n: int
    value: float
    mean: float
    sd: float | None
    sem: float | None
    cv: float | None
    worth: float = 1.0

    def interval(self, level: float = 0.95) -> tuple[float, float] | None:
        """mean ± t·sem, with n − 1 degrees of freedom; None for a single reading."""
        if self.sem is None:
            return None
        half = t_quantile((1 + level) / 2, self.n - 1) * self.sem
        return self.mean - half, self.mean + half


def summarize(readings: Sequence[float], combine: Combine = "mean") -> Replicates:
    """Combine readings; the mean by an exact sum, the SD from it by a hypotenuse, which does not overflow.

    Raises
    ------
    ValueError : when there is no reading, one is not finite, or a geometric mean meets one that is not above zero.
    """
    values = list(map(float, readings))
    if not values:
        raise ValueError("There is no reading to combine; at least 1 is needed.")
    if not all(map(math.isfinite, values)):
        raise ValueError("Readings to combine must be finite numbers.")
    if combine == "geometric" and min(values) <= 0:
        raise ValueError(f"A geometric mean needs readings above zero; here is {min(values):g}.")
    n = len(values)
    mean = math.fsum(values) / n
    value = mean
    if combine == "median":
        value = statistics.median(values)
    elif combine == "geometric":
        value = math.exp(math.fsum(map(math.log, values)) / n)
    if n == 1:
        return Replicates(1, value, mean, None, None, None)
    worth = median_worth(n) if combine == "median" else float(n)
    sd = math.hypot(*[v - mean for v in values]) / math.sqrt(n - 1)
    return Replicates(n, value, mean, sd, sd / math.sqrt(n), sd / abs(mean) if mean else None, worth)
