"""Fieller's theorem for a ratio of two estimates: the exact interval, open where the denominator may be zero."""

import math


def fieller_ratio(
    above: float, below: float, variance_above: float, covariance: float, variance_below: float, t: float
) -> tuple[float | None, float | None]:
    """All ρ with (above − ρ·below)² ≤ t²·Var(above − ρ·below) (Fieller 1954, J. R. Stat. Soc. B 16, 175).

    Both None where the denominator is not different from zero at this level: the set is then no interval.
    """
    leading = below * below - t * t * variance_below
    if not leading > 0:
        return None, None
    middle = above * below - t * t * covariance
    inner = middle * middle - leading * (above * above - t * t * variance_above)
    half = math.sqrt(max(inner, 0.0))
    return (middle - half) / leading, (middle + half) / leading


def ratio_standard_error(
    above: float, below: float, variance_above: float, covariance: float, variance_below: float
) -> float:
    """First-order standard error of above/below (delta method)."""
    ratio = above / below
    return math.sqrt(variance_above - 2 * ratio * covariance + ratio**2 * variance_below) / abs(below)
