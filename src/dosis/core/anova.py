"""One-way analysis of variance: do groups differ by more than readings scatter, and how far do readings repeat?"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from dosis.core.distributions import f_upper_p
from dosis.core.replicates import summarize


@dataclass(frozen=True, slots=True)
class OneWay:
    """Sums of squares and degrees of freedom between and within groups.

    f, p_value : None where the readings within groups agree exactly, or there is none to judge by.
    repeatability_sd : root of the mean square within; between_sd : of the groups beyond it, zero where it is none
    (ISO 5725-2, 7.4); both None without degrees of freedom.
    """

    ss_between: float
    ss_within: float
    df_between: int
    df_within: int
    f: float | None
    p_value: float | None
    repeatability_sd: float | None
    between_sd: float | None


def one_way(groups: Sequence[Sequence[float]]) -> OneWay:
    """Analysis of variance of groups of readings, about group means and exact sums.

    Raises
    ------
    ValueError : for fewer than 2 groups, an empty one, or readings that are not finite.
    """
    if len(groups) < 2:
        raise ValueError(f"An analysis of variance needs at least 2 groups; there {'is 1' if groups else 'are none'}.")
    summaries = [summarize(group) for group in groups]
    n = sum(summary.n for summary in summaries)
    # About the first mean, so that the digits the readings have in common cannot cancel.
    origin = summaries[0].mean
    center = math.fsum(s.n * (s.mean - origin) for s in summaries) / n
    between = math.fsum(s.n * (s.mean - origin - center) ** 2 for s in summaries)
    within = math.fsum((v - s.mean) ** 2 for group, s in zip(groups, summaries, strict=True) for v in group)
    df_between, df_within = len(groups) - 1, n - len(groups)
    if df_within <= 0:
        return OneWay(between, within, df_between, df_within, None, None, None, None)
    error = within / df_within
    f = between / df_between / error if error > 0 else None
    size = (n - math.fsum(s.n**2 for s in summaries) / n) / df_between
    beyond = max(between / df_between - error, 0.0) / size
    p = None if f is None else f_upper_p(f, df_between, df_within)
    return OneWay(between, within, df_between, df_within, f, p, math.sqrt(error), math.sqrt(beyond))
