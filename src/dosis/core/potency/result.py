"""What a relative potency is: the estimate, its interval, and whether the preparations may be compared at all."""

from collections.abc import Hashable
from dataclasses import dataclass
from typing import Literal

from dosis.core.inference.goodness import Test

Measure = Literal["slope", "lower", "upper", "composite"]


@dataclass(frozen=True, slots=True)
class Equivalence:
    """Equivalence of shapes: the interval of a measure, at `level`, lies within the margins or it does not.

    of : the ratio of slopes; the difference of the lower or upper plateaus, as a share of the
        reference's span; or, composite, how far the curves lie from parallel ones, root mean square as a share of it.
    """

    estimate: float
    lower: float | None
    upper: float | None
    margins: tuple[float, float]
    level: float
    of: Measure = "slope"

    @property
    def passed(self) -> bool:
        """Whether the whole interval lies within the margins."""
        if self.lower is None or self.upper is None:
            return False
        return self.margins[0] <= self.lower and self.upper <= self.margins[1]


NO_TEST = Test(None, None)


@dataclass(frozen=True, slots=True)
class Potency:
    """Potency of a preparation relative to the reference; above 1, less of it does the same.

    log_standard_error is of ln potency, by the delta method (None for a slope ratio, whose `standard_error` is of the
    ratio itself). lower, upper: None where that side is open. g is Fieller's: below about 0.1 the delta method serves.
    parallel : F test of the difference in slope (in curve) among all preparations, `own_parallel` of this one from the
    reference alone; equivalent : the same question turned round, `alike` for each measure of the shape.
    linear : F test of the lines against pure error. degrees_of_freedom are of the variance used.
    """

    preparation: Hashable
    reference: Hashable
    estimate: float
    lower: float | None
    upper: float | None
    log_standard_error: float | None
    standard_error: float | None
    g: float | None
    variance: float
    degrees_of_freedom: int
    parallel: Test
    equivalent: Equivalence | None
    linear: Test
    reason: str = ""
    own_parallel: Test = NO_TEST
    alike: tuple[Equivalence, ...] = ()
