"""A line fitted to counts: its parameters, and how well it describes them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.distributions import chi2_upper_p, t_quantile
from dosis.core.quantal.links import LINKS, LinkName
from dosis.core.quantal.scoring import deviance_of

Background = Literal["abbott", "estimated"]
Widened = Literal["never", "poor", "always", "beta-binomial"]
POOR_FIT = 0.05
CHANCE = 1.2  # scatter that is put down to chance
LEAST = 0.25  # of what Fletcher divides by, so that a few odd groups do not decide it alone


@dataclass(frozen=True)
class FittedLine:
    """A line through the link of the share affected: link(p) = intercept + slope·x, x = log10(dose) or dose.

    parameters, covariance : (intercept, slope) and, where it is estimated, the background; the covariance is from the
        expected information, without heterogeneity, and after Abbott's correction counts what the controls leave open.
    background : share affected without any dose, 0 when there is none.
    widened : when variances are multiplied by how much the counts scatter: "never", of a "poor" fit, or "always".
        With "beta-binomial" the covariance counts it already.
    correlation : between the animals of a vessel, of a beta-binomial fit whose vessels differ by more than chance.
    converged : False when no finite slope is best (no partial response); `message` says why.
    """

    dose: Array
    x: Array
    affected: Array
    exposed: Array
    link: LinkName
    log_dose: bool
    parameters: Array
    covariance: Array
    background: float
    background_of: Background | None
    converged: bool
    message: str
    warnings: tuple[str, ...]
    widened: Widened = "poor"
    correlation: float | None = None

    @property
    def intercept(self) -> float:
        """The line at x = 0."""
        return float(self.parameters[0])

    @property
    def slope(self) -> float:
        """The line's change for one unit of x."""
        return float(self.parameters[1])

    @property
    def standard_errors(self) -> Array:
        """Of the parameters, in their order."""
        return np.sqrt(np.diag(self.covariance))

    def predict(self, dose: ArrayLike) -> Array:
        """Share affected at a dose, the background included; zero dose gives the background."""
        doses = np.atleast_1d(np.asarray(dose, dtype=float))
        with np.errstate(divide="ignore"):
            x = np.log10(doses) if self.log_dose else doses
        line = self.intercept + self.slope * x
        background = self.background if self.background_of == "estimated" else 0.0
        share: Array = background + (1 - background) * LINKS[self.link].share(line)
        return share

    @cached_property
    def deviance(self) -> float:
        """See `scoring.deviance_of`."""
        return deviance_of(np.clip(self.predict(self.dose), 1e-300, 1 - 1e-16), self.affected, self.exposed)

    @cached_property
    def pearson(self) -> float:
        """Σ (r − n·p)²/(n·p·(1 − p))."""
        p, n = np.clip(self.predict(self.dose), 1e-300, 1 - 1e-16), self.exposed
        return float(((self.affected - n * p) ** 2 / (n * p * (1 - p))).sum())

    @property
    def degrees_of_freedom(self) -> int:
        """Dose groups minus parameters."""
        return int(self.dose.size) - int(self.parameters.size)

    @property
    def pearson_p(self) -> float | None:
        """Probability of so large a Pearson chi-square when the line is right; None without degrees of freedom."""
        df = self.degrees_of_freedom
        return chi2_upper_p(self.pearson, df) if df > 0 else None

    @property
    def heterogeneity(self) -> float | None:
        """Pearson chi-square over its degrees of freedom; None without any."""
        return self.pearson / self.degrees_of_freedom if self.degrees_of_freedom > 0 else None

    @cached_property
    def scatter(self) -> float | None:
        """The variance of the counts over that of chance alone; None without degrees of freedom. See `scatter_of`.

        After Abbott's correction it is that of the counts as they were, not as they were corrected.
        """
        if self.degrees_of_freedom <= 0:
            return None
        c = self.background if self.background_of == "abbott" else 0.0
        counted = self.exposed * c + (1 - c) * self.affected
        return scatter_of(c + (1 - c) * self.predict(self.dose), counted, self.exposed, self.degrees_of_freedom)

    @property
    def widening(self) -> float:
        """What variances are multiplied by: 1, or how much more the counts scatter than chance allows.

        Of a "poor" fit, at p < 0.05, by the heterogeneity (Finney 1971), as handbooks do; "always" by `scatter` where
        that is not just by chance above 1, since with few groups a test seldom sees what takes an interval's meaning
        away (docs/coverage.md).
        """
        if self.widened == "always":
            return self.scatter if self.scatter is not None and self.scatter > CHANCE else 1.0
        if self.widened in ("never", "beta-binomial"):
            return 1.0
        return self.heterogeneity or 1.0 if self.pearson_p is not None and self.pearson_p < POOR_FIT else 1.0

    def quantile(self, level: float) -> float:
        """Two-sided: of t where the scatter has been estimated, else of the normal."""
        if self.widening > 1 or self.correlation is not None:
            return t_quantile((1 + level) / 2, self.degrees_of_freedom)
        return float(special.ndtri((1 + level) / 2))


def scatter_of(shares: Array, affected: Array, exposed: Array, df: int) -> float:
    """The variance of counts, (k,) each, over that of chance alone, about the shares that were fitted.

    Pearson's chi-square over its degrees of freedom, and the same without what groups in which few are expected add
    to it or take away (Fletcher 2012, Biometrika 99, 230): the larger of the two.
    """
    p = np.clip(shares, 1e-12, 1 - 1e-12)
    away, variance = affected - exposed * p, exposed * p * (1 - p)
    pearson = float((away * away / variance).sum()) / df
    skew = float(((1 - 2 * p) * away / variance).mean())
    return max(pearson, pearson / max(1 + skew, LEAST))
