"""What can be detected and quantified, and how well an assay tells its two ends apart."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from dosis.core.inference.result import Fit
from dosis.core.replicates import Replicates, summarize


@dataclass(frozen=True, slots=True)
class DetectionLimits:
    """LOD and LOQ in the unit of x, with the spread and slope they were made from."""

    lod: float
    loq: float
    spread: float
    slope: float


def detection_limits(line: Fit, spread: float | None = None, *, lod_factor: float = 3.3) -> DetectionLimits:
    """LOD = 3.3 σ/S and LOQ = 10 σ/S (ICH Q2(R2), 2023).

    Parameters
    ----------
    line : a fitted line; S is its slope.
    spread : σ in the unit of y: the SD of blanks, or the standard error of the intercept; by default the line's RMSE.

    Raises
    ------
    ValueError : for a curve that is no line, a flat line, or one without a spread.
    """
    if not line.is_straight:
        raise ValueError(f"LOD and LOQ by slope need a straight line; this is {line.model.name}.")
    sigma, slope = line.rmse if spread is None else spread, abs(line.named["slope"])
    if sigma is None or slope == 0:
        raise ValueError("LOD and LOQ need a line with a slope and a spread of its readings.")
    return DetectionLimits(lod_factor * sigma / slope, 10 * sigma / slope, sigma, slope)


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
