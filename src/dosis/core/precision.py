"""Precision and trueness over runs: how far a value repeats within a run, between runs, and what of it is found."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, stdev

from dosis.core.anova import one_way
from dosis.core.distributions import t_quantile


@dataclass(frozen=True, slots=True)
class Precision:
    """Spread of one quantity over runs.

    runs, n : how many runs, and values in all. within, between, total : SDs in the unit of the values; within is the
    repeatability, total the intermediate precision (of one laboratory) or the reproducibility (of several). Within and
    between are None where no run has two values: they cannot be told apart, and total is the SD of the runs.
    lower, upper : the 95 % interval of the mean over runs, None of one run.
    """

    runs: int
    n: int
    mean: float
    lower: float | None
    upper: float | None
    within: float | None
    between: float | None
    total: float | None

    def share(self, sd: float | None) -> float | None:
        """An SD as a fraction of the mean."""
        return None if sd is None or self.mean == 0 else sd / abs(self.mean)


def precision(runs: Sequence[Sequence[float]]) -> Precision:
    """One-way analysis of variance over runs (ISO 5725-2:2019, 7.4): s_r² = MS within, s_L² = (MS between − s_r²) ÷ n̄,
    s_R² = s_r² + s_L²; a negative s_L² is taken as zero.

    The interval of the mean is of the means of the runs, by t: values of one run share its error, so that many
    replicates in few runs do not make the mean look better known than it is.

    Parameters
    ----------
    runs : the values of each run, of which none is empty.

    Raises
    ------
    ValueError : for no run, an empty one, or values that are not finite.

    Example
    -------
    >>> found = precision([[10.1, 10.3], [10.6, 10.6], [9.9, 10.1]])
    >>> round(found.within, 3), round(found.total, 3)
    (0.115, 0.316)
    """
    if not runs or not all(runs):
        raise ValueError("Precision needs runs, each with a value at least.")
    values = [value for run in runs for value in run]
    if not all(map(math.isfinite, values)):
        raise ValueError("Precision takes finite values only.")
    means = [fmean(run) for run in runs]
    mean, lower, upper = fmean(means), None, None
    if len(runs) > 1:
        half = t_quantile(0.975, len(runs) - 1) * stdev(means) / math.sqrt(len(runs))
        lower, upper = mean - half, mean + half
    if len(runs) == 1:
        within = stdev(values) if len(values) > 1 else None
        return Precision(1, len(values), mean, lower, upper, within, None, None)
    found = one_way(runs)
    if found.repeatability_sd is None or found.between_sd is None:
        return Precision(len(runs), len(values), mean, lower, upper, None, None, stdev(values))
    total = math.hypot(found.repeatability_sd, found.between_sd)
    return Precision(
        len(runs), len(values), mean, lower, upper, found.repeatability_sd, found.between_sd, total
    )  # fmt: skip
