"""Shares against the share of a control: Fisher's exact test, and Cochran and Armitage's trend."""

from __future__ import annotations

import math
from collections.abc import Sequence

from dosis.core import special


def fisher(affected: int, exposed: int, affected_control: int, exposed_control: int) -> float:
    """One-sided p that the share affected is no larger than the control's, of the table's margins.

    Example
    -------
    >>> round(fisher(3, 4, 1, 4), 4)  # a lady tasting tea (Fisher 1935)
    0.2429
    """
    total, hit = exposed + exposed_control, affected + affected_control
    ways = sum(
        math.comb(exposed, k) * math.comb(exposed_control, hit - k)
        for k in range(affected, min(exposed, hit) + 1) if hit - k <= exposed_control
    )  # fmt: skip
    return ways / math.comb(total, hit)


def cochran_armitage(
    affected: Sequence[float], exposed: Sequence[float], scores: Sequence[float] | None = None
) -> tuple[float, float]:
    """z and one-sided p of a rise of shares along the scores, by default 0, 1, 2 … (Armitage 1955, Biometrics 11, 375).

    Raises
    ------
    ValueError : for fewer than 2 groups, or where none or all are affected.
    """
    n, r = math.fsum(exposed), math.fsum(affected)
    if len(affected) < 2 or n <= 0:
        raise ValueError("A trend needs at least 2 groups that were exposed.")
    if r in (0, n):
        raise ValueError("None or all are affected, so there is no trend to test.")
    x = list(range(len(affected))) if scores is None else list(scores)
    share = r / n
    center = math.fsum(e * s for e, s in zip(exposed, x, strict=True)) / n
    along = math.fsum((a - e * share) * s for a, e, s in zip(affected, exposed, x, strict=True))
    variance = share * (1 - share) * math.fsum(e * (s - center) ** 2 for e, s in zip(exposed, x, strict=True))
    if variance <= 0:
        raise ValueError("The doses are all alike, so there is no trend to test.")
    z = along / math.sqrt(variance)
    return z, float(special.ndtr(-z))
