"""A variance with the degrees of freedom it is known by, variances added up, and when two may be taken together."""

from collections.abc import Iterable
from typing import NamedTuple

from dosis.core.distributions import f_upper_p

LARGER, FEW = 0.25, 4  # p below which a variance is the larger one, and the degrees of freedom that are few
LARGER_FEW, PART = 0.4, 0.1  # the same with few of these, and of a variance that is the smaller part of a sum
SMALLER = 0.05  # p below which it is plainly the smaller one


class Spread(NamedTuple):
    """Variance of one reading, and its degrees of freedom."""

    variance: float
    degrees_of_freedom: float

    @classmethod
    def of(cls, sd: float | None, n: int) -> "Spread":
        """Of n readings with that standard deviation; none is a variance of zero."""
        return cls(sd * sd if sd else 0.0, n - 1)

    def times(self, factor: float) -> "Spread":
        """The same known as well, of something whose variance is so many times as large."""
        return Spread(self.variance * factor, self.degrees_of_freedom)


def together(spreads: Iterable[Spread]) -> Spread:
    """The pooled variance of several that are alike."""
    each = [spread for spread in spreads if spread.degrees_of_freedom > 0]
    df = sum(spread.degrees_of_freedom for spread in each)
    return Spread(sum(spread.variance * spread.degrees_of_freedom for spread in each) / df if df else 0.0, df)


def apart(own: Spread, other: Spread, *, part: bool = False) -> float | None:
    """p of the F test by which a variance differs from another; None where the two may be taken together.

    part : whether it is the smaller part of what is judged by it, as that of a blank of several readings is.

    A test before an estimate has to be lenient: taken at 5 % it would pool what is two or three times as large, and the
    pooled interval cover far less than it says; 25 % serves (Bancroft 1964, Biometrics 20, 427), and with fewer than
    4 degrees of freedom 40 % (docs/coverage.md). A plainly smaller one also stands alone.
    """
    if own.degrees_of_freedom <= 0 or other.degrees_of_freedom <= 0 or own.variance == other.variance:
        return None
    if own.variance > other.variance:
        if other.variance == 0:
            return 0.0
        p = f_upper_p(own.variance / other.variance, own.degrees_of_freedom, other.degrees_of_freedom)
        usual = LARGER if own.degrees_of_freedom >= FEW else LARGER_FEW
        return p if p < (PART if part else usual) else None
    if own.variance == 0:
        return None  # readings that agree to the last digit shown say little of their scatter
    p = f_upper_p(other.variance / own.variance, other.degrees_of_freedom, own.degrees_of_freedom)
    return p if p < SMALLER else None


def pooled_or_own(own: Spread, other: Spread) -> Spread:
    """The pooled variance of a part where the two are alike, else its own one; see `apart`."""
    return together((own, other)) if apart(own, other, part=True) is None else own


def of_mean(own: Spread | None, curve: Spread | None, worth: float) -> Spread | None:
    """The variance of a mean that is subtracted or divided by, as of a blank or of control wells.

    own : of one of its readings, None for a single one; curve : of one reading about the curve, None where these vary
        otherwise; worth : how many readings it is as good as. None where nothing is known, or nothing varies.
    """
    known = own or curve
    if own is not None and curve is not None:
        known = pooled_or_own(own, curve)
    return known.times(1 / worth) if known is not None and known.variance > 0 else None


def effective(parts: Iterable[Spread]) -> float:
    """Degrees of freedom of a sum of variances that are known apart (Satterthwaite 1946, Biometrics Bull. 2, 110).

    parts : each variance as it enters the sum. A part without degrees of freedom counts as known exactly.
    """
    each = [part for part in parts if part.variance > 0]
    if len(each) == 1:
        return each[0].degrees_of_freedom
    total = sum(part.variance for part in each)
    shares = [(part.variance / total, part.degrees_of_freedom) for part in each]
    below = sum(share * share / df for share, df in shares if df > 0)
    return 1 / below if below > 0 else float("inf")
