"""Reading back: what comes of it, and Fieller's interval for a straight line."""

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple


class Flag(StrEnum):
    """Why a concentration or a dose is not a plain number."""

    ABOVE_RANGE = "above_range"
    BELOW_RANGE = "below_range"
    FLAT = "flat"
    AMBIGUOUS = "ambiguous"
    NOT_REACHED = "not_reached"


class ReadBack(NamedTuple):
    """A concentration read back from a signal, in the unit of x.

    estimate : None only where the curve gives no x, or more than one.
    lower, upper : the interval; None where that side is unbounded or there is no interval, and `reason` says which.
    standard_error : first order (delta method), for comparison with handbooks.
    flag : where the estimate stands outside the standards, or why there is none.
    """

    estimate: float | None
    lower: float | None
    upper: float | None
    standard_error: float | None
    flag: Flag | None
    reason: str
    n: float


@dataclass(frozen=True, slots=True)
class StraightLine:
    """What Fieller's theorem needs of a fitted line: y = height + slope·(x − center), height and slope independent.

    variance_height is zero for a line through zero, whose center and height are zero.
    """

    center: float
    height: float
    slope: float
    variance_height: float
    variance_slope: float


def fieller(
    line: StraightLine, signal: float, variance_signal: float, t: float, *, rising: tuple[float, float] = (0.0, 0.0)
) -> tuple[float | None, float | None]:
    """All x whose line, within t standard errors, goes through `signal`: the exact interval of Fieller's theorem.

    Solves (Y − b·u)² = t²·(V + u²·Var b), with u = x − center, Y = signal − height, V = Var(signal) + Var(height)
    (Fieller 1954, J. R. Stat. Soc. B 16, 175; Draper & Smith, 3.2). A side without a
    bound is None: when the slope is not significantly different from zero the set is not an interval.
    rising : (r, s) where the variance of the signal is that at the center plus r·u + s·u², as where it is the larger
        the higher the sample reads; it counts at the x in question, not at the one that was found.
    """
    b, reach = line.slope, signal - line.height
    spread = variance_signal + line.variance_height
    more, square = rising[0], line.variance_slope + rising[1]
    leading = b * b - t * t * square
    under = square * reach * reach + spread * leading + more * (b * reach + t * t * more / 4)
    if not (leading > 0 and under >= 0):
        return None, None
    middle, half = b * reach + t * t * more / 2, t * math.sqrt(under)
    ends = sorted(((middle - half) / leading, (middle + half) / leading))
    return line.center + ends[0], line.center + ends[1]


def delta_standard_error(line: StraightLine, x: float, variance_signal: float) -> float:
    """First-order standard error of a read-back x (Miller & Miller, Statistics and Chemometrics, chapter 5)."""
    u = x - line.center
    variance = variance_signal + line.variance_height + u * u * line.variance_slope
    return math.sqrt(variance) / abs(line.slope)
