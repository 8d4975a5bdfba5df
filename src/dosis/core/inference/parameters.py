"""Fitted parameters and what follows from them: estimate, standard error, interval and test of each."""

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, Protocol

import numpy as np

from dosis.core.distributions import t_quantile, t_two_sided_p
from dosis.core.expressions.parse import parse
from dosis.core.inference.fitted import Fitted

Ends = tuple[float | None, float | None]


class Source(Protocol):
    """The fit a parameter is of, of one curve or of several together: what makes its intervals."""

    def t(self, level: float) -> float:
        """Two-sided t for an interval of that level."""

    def profile(self, name: str, level: float) -> Ends:
        """Profile-likelihood interval of a parameter."""

    def bootstrap(self, name: str, level: float) -> tuple[float, float] | None:
        """Percentile interval of the bootstrap."""


class Estimated(Protocol):
    """A fit of which the parameters are known."""

    @property
    def rmse(self) -> float | None:
        """The residual standard deviation."""

    @property
    def fixed(self) -> frozenset[str]:
        """Parameters that were held at a value."""

    @property
    def parameters(self) -> "dict[str, ParameterEstimate]":
        """Parameters by name."""


@dataclass(frozen=True)
class ParameterEstimate:
    """One fitted parameter. standard_error and p_value (against zero) are None where there are none to have:
    without degrees of freedom, for a fixed parameter, or for one the data do not determine.
    """

    name: str
    estimate: float
    standard_error: float | None
    degrees_of_freedom: float
    positive: bool
    fit: Source = field(repr=False, compare=False)

    def interval(
        self, level: float = 0.95, method: Literal["wald", "profile", "bootstrap"] = "wald"
    ) -> tuple[float | None, float | None] | None:
        """The interval at that level; None when there is none, an end that is open is None.

        "wald" is estimate ± t · standard error, on the logarithmic scale for a parameter above zero by its meaning;
        "profile" follows the sum of squares (see `profile_interval`), "bootstrap" draws new readings.

        Raises
        ------
        ValueError : for another method.
        """
        if method not in ("wald", "profile", "bootstrap"):
            raise ValueError(f"There is no interval method “{method}”; there are wald, profile and bootstrap.")
        if self.standard_error is None:
            return None
        if method == "profile":
            return self.fit.profile(self.name, level)
        if method == "bootstrap":
            return self.fit.bootstrap(self.name, level)
        half = t_quantile((1 + level) / 2, self.degrees_of_freedom) * self.standard_error
        if self.positive:
            factor = math.exp(min(half / self.estimate, 700.0))
            return self.estimate / factor, self.estimate * factor
        return self.estimate - half, self.estimate + half

    @cached_property
    def p_value(self) -> float | None:
        """Two-sided p of the t test that the parameter is zero."""
        if not self.standard_error:
            return None
        return t_two_sided_p(self.estimate / self.standard_error, self.degrees_of_freedom)


SHAPE = {"midpoint", "slope", "asymmetry"}  # what is measured between two plateaus


def estimates_of(fit: Fitted, source: Source) -> dict[str, ParameterEstimate]:
    """The parameters of a fit by name."""
    variances = [math.inf] * len(fit.values) if fit.covariance is None else fit.covariance.diagonal().tolist()
    df: float = fit.degrees_of_freedom
    found, parts = {}, fit.common_parts(np.eye(len(fit.values))) if fit.common else None
    for i, parameter in enumerate(fit.model.parameters):
        value, variance = float(fit.values[i]), variances[i]
        error = math.sqrt(variance) if parameter.name not in fit.fixed and math.isfinite(variance) else None
        if parts is not None and error is not None:
            df = fit.df_of(variance, parts[:, i])
        found[parameter.name] = ParameterEstimate(parameter.name, value, error, df, parameter.positive, source)
    return found


def not_determined(fit: Estimated) -> frozenset[str]:
    """Free parameters that the readings leave open; without a plateau neither midpoint nor slope of a sigmoid mean
    anything, since both are places between the two. Empty without a spread, where nothing has a standard error.
    """
    if fit.rmse is None:
        return frozenset()
    lost = {each.name for each in fit.parameters.values() if each.standard_error is None} - fit.fixed
    if lost & {"lower", "upper"}:
        lost |= (SHAPE & fit.parameters.keys()) - fit.fixed
    return frozenset(lost)


def derived_of(fit: Fitted, source: Source) -> dict[str, ParameterEstimate]:
    """What follows from the parameters of a fit, by name, with first-order standard errors.

    What the data do not determine counts only where it matters, that is, where the gradient is not zero.
    """
    found = {}
    for quantity in fit.model.derived:
        value, slopes = parse(quantity.expression).dual(fit.named, fit.model.names)
        if not math.isfinite(value):
            continue
        gradient = np.array([0.0 if slope is None else float(slope) for slope in slopes])
        used, variance = np.flatnonzero(gradient), math.inf
        if fit.covariance is not None:
            with np.errstate(invalid="ignore"):
                variance = float(gradient[used] @ fit.covariance[np.ix_(used, used)] @ gradient[used])
        error = math.sqrt(max(variance, 0.0)) if math.isfinite(variance) else None
        positive = quantity.positive and float(value) > 0
        df: float = fit.degrees_of_freedom
        if fit.common and error is not None:
            df = fit.df_of(variance, fit.common_parts(gradient[None, :])[:, 0])
        found[quantity.name] = ParameterEstimate(quantity.name, float(value), error, df, positive, source)
    return found
