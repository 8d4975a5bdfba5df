"""How well an assay tells its two ends apart."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from dosis.core.replicates import Replicates, summarize


@dataclass(frozen=True, slots=True)
class AssayQuality:
    """How far the two ends of an assay stand apart; None where a statistic divides by zero or there is one reading."""

    high: Replicates
    low: Replicates
    z_prime: float | None
    signal_to_background: float | None
    signal_to_noise: float | None
    signal_window: float | None
    ssmd: float | None


def assay_quality(high: Sequence[float], low: Sequence[float]) -> AssayQuality:
    """Z′ = 1 − 3·(SD high + SD low)/|mean high − mean low| (Zhang, Chung & Oldenburg 1999) and its relatives.

    Signal to background is the ratio of the means, signal to noise their difference over the low SD, the signal window
    (difference − 3·(SD high + SD low))/SD high, SSMD the difference over the root of the summed variances.

    Raises
    ------
    ValueError : when an end has no reading.
    """
    up, down = summarize(high), summarize(low)
    gap = up.mean - down.mean
    ratio = up.mean / down.mean if down.mean else None
    if up.sd is None or down.sd is None:
        return AssayQuality(up, down, None, ratio, None, None, None)
    both = 3 * (up.sd + down.sd)
    pooled = math.hypot(up.sd, down.sd)
    return AssayQuality(
        up, down,
        z_prime=1 - both / abs(gap) if gap else None,
        signal_to_background=ratio,
        signal_to_noise=gap / down.sd if down.sd else None,
        signal_window=(gap - both) / up.sd if up.sd else None,
        ssmd=gap / pooled if pooled else None,
    )  # fmt: skip
