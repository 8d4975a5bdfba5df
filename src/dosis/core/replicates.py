"""Replicates: one value from several readings of the same thing, and how far they agree."""

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

Combine = Literal["mean", "median"]


@dataclass(frozen=True, slots=True)
class Replicates:
    """Summary of n readings, in their unit.

    sd, sem : sample standard deviation (n - 1) and sd/√n; None for a single reading.
    cv : sd/|mean|, a fraction; None for a single reading or a mean of zero.
    """

    n: int
    value: float
    mean: float
    sd: float | None
    sem: float | None
    cv: float | None


def summarize(readings: Sequence[float], combine: Combine = "mean") -> Replicates:
    """Combine readings; sums are exact (fsum) and the variance is taken about the mean in a second pass.

    Raises
    ------
    ValueError : when there is no reading, or one is not finite.
    """
    values = [float(value) for value in readings]
    if not values:
        raise ValueError("There is no reading to combine; at least 1 is needed.")
    if not all(map(math.isfinite, values)):
        raise ValueError("Readings to combine must be finite numbers.")
    n = len(values)
    mean = math.fsum(values) / n
    value = statistics.median(values) if combine == "median" else mean
    if n == 1:
        return Replicates(1, value, mean, None, None, None)
    sd = math.sqrt(math.fsum((v - mean) ** 2 for v in values) / (n - 1))
    return Replicates(n, value, mean, sd, sd / math.sqrt(n), sd / abs(mean) if mean else None)
