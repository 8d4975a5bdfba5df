"""The result of a simultaneous fit: shared and own parameters, each series as a curve of its own, and ratios."""

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.fitting.joint import Joint
from dosis.core.inference.common import CommonError, effective_df, parts_of, shifts_of
from dosis.core.inference.covariance import Pool, unit_covariance
from dosis.core.inference.criteria import aicc, bic, minus_two_log_likelihood
from dosis.core.inference.parameters import ParameterEstimate
from dosis.core.inference.profile import profiled
from dosis.core.inference.result import Fit
from dosis.core.inference.spread import Spread


@dataclass(frozen=True, slots=True)
class Ratio:
    """A ratio of two parameters with its interval, made on the logarithmic scale; None ends are open."""

    estimate: float
    lower: float | None
    upper: float | None
    log_standard_error: float | None


@dataclass(frozen=True)
class SharedFit:
    """Several series fitted at once. Arrays have one entry for each reading, in the order given.

    values and unscaled_covariance are over the slots: each shared parameter once, the others once a series.
    common : errors that readings share, of one series or of several. scale : by what the variance is to be multiplied
        that the residuals show, as of a robust fit, whose weights were chosen by them.
    """

    joint: Joint
    share: tuple[str, ...]
    weighting: str
    values: Array
    unscaled_covariance: Array
    residuals: Array
    sse: float
    converged: bool
    message: str
    common: tuple[CommonError, ...] = ()
    scale: float = 1.0

    @classmethod
    def of(
        cls, joint: Joint, values: Array, share: Sequence[str], weighting: str, *, converged: bool, message: str
    ) -> "SharedFit":
        """The result at these values."""
        fitted, jacobian = joint.look(values)
        residuals = joint.y - fitted
        covariance = unit_covariance(np.sqrt(joint.w)[:, None] * jacobian)
        return cls(joint, tuple(share), weighting, values, covariance, residuals,
                   float((joint.w * residuals**2).sum()), converged, message)  # fmt: skip

    @property
    def labels(self) -> tuple[Hashable, ...]:
        """The series, in the order of their first readings."""
        return tuple(self.joint.rows)

    @property
    def n(self) -> int:
        """Number of readings."""
        return int(self.joint.y.size)

    @property
    def degrees_of_freedom(self) -> int:
        """Readings minus fitted parameters."""
        return self.n - len(self.joint.slots)

    @property
    def rmse(self) -> float | None:
        """√(SSE/df) over all series, by the spread they are judged by; None without degrees of freedom."""
        return math.sqrt(self.scale * self.sse / self.degrees_of_freedom) if self.degrees_of_freedom > 0 else None

    def but(self, **parts: Any) -> "SharedFit":
        """The same fit with some parts replaced."""
        return replace(self, **parts)

    @property
    def aicc(self) -> float | None:
        """As of a single fit, over all readings."""
        return aicc(self._likelihood, self.n, len(self.joint.slots))

    @property
    def bic(self) -> float | None:
        """As of a single fit, over all readings."""
        return bic(self._likelihood, self.n, len(self.joint.slots))

    @cached_property
    def _likelihood(self) -> float | None:
        return minus_two_log_likelihood(self.sse, self.joint.w)

    @cached_property
    def covariance(self) -> Array | None:
        """Covariance of the slots; None without degrees of freedom."""
        if self.rmse is None:
            return None
        with np.errstate(invalid="ignore"):  # nothing times what is not determined
            return self.rmse**2 * self.unscaled_covariance

    @cached_property
    def parameters(self) -> dict[str, ParameterEstimate]:
        """By name: "lower" where shared, "midpoint of A" where a series' own."""
        found = {}
        for i, slot in enumerate(self.joint.slots):
            variance = math.inf if self.covariance is None else float(self.covariance[i, i])
            error = math.sqrt(variance) if math.isfinite(variance) else None
            found[slot.name] = ParameterEstimate(
                slot.name, float(self.values[i]), error, self.degrees_of_freedom, slot.parameter.positive, self
            )
        return found

    @cached_property
    def series(self) -> dict[Hashable, Fit]:
        """Each series as a fitted curve, with the spread and the covariance of all of them together."""
        curves: dict[Hashable, Fit] = {}
        for label, rows in self.joint.rows.items():
            places = [place for place in self.joint.places[label] if place is not None]
            residuals, w = self.residuals[rows], self.joint.w[rows]
            curves[label] = Fit(
                model=self.joint.model, x=self.joint.x[rows], y=self.joint.y[rows], weights=w,
                weighting=self.weighting, values=self.joint.values(label, self.values),
                fixed=frozenset(self.joint.fixed), residuals=residuals, sse=float((w * residuals**2).sum()),
                unscaled_covariance=self.unscaled_covariance[np.ix_(places, places)], converged=self.converged,
                message=self.message, pool=Pool(self.sse, self.degrees_of_freedom), joint=True,
            )  # fmt: skip
        return curves

    @cached_property
    def _shifts(self) -> Array:
        """By how much each common error, of size one, moves the slots: (k, slots)."""
        jacobian = self.joint.look(self.values)[1]
        return shifts_of(self.common, jacobian, self.joint.w, self.unscaled_covariance)

    def t(self, level: float) -> float:
        """Two-sided t for an interval of that level."""
        return t_quantile((1 + level) / 2, self.degrees_of_freedom)

    def profile(self, name: str, level: float) -> tuple[float | None, float | None]:
        """Profile-likelihood interval of a parameter, by its name in `parameters`."""
        place = [slot.name for slot in self.joint.slots].index(name)

        def refit(value: float, start: Array) -> tuple[Array, float] | None:
            found = self.joint.descend(start, {place: value})
            return None if found is None else (found[0], found[1].sse)

        return profiled(self, self.parameters[name], self.values, refit, level)

    def bootstrap(self, name: str, level: float) -> tuple[float, float] | None:
        """Not made for a simultaneous fit.

        Raises
        ------
        ValueError : always; the profile does the same service.
        """
        raise ValueError(f"There is no bootstrap interval of {name} in a simultaneous fit; use the profile.")

    def ratio(self, name: str, of: Hashable, to: Hashable, level: float = 0.95) -> Ratio:
        """`name` of one series over that of another, such as of two EC50s, by the delta method on the log scale.

        Raises
        ------
        ValueError : for a parameter that is shared, fixed or not above zero, or an unknown series.
        """
        at = {(slot.parameter.name, slot.label): i for i, slot in enumerate(self.joint.slots)}
        if (name, of) not in at or (name, to) not in at:
            raise ValueError(f"There is no {name} of its own for “{of}” and “{to}”; it is shared, fixed or unknown.")
        i, j = at[name, of], at[name, to]
        above, below = float(self.values[i]), float(self.values[j])
        if above <= 0 or below <= 0:
            raise ValueError(f"A ratio on the logarithmic scale needs {name} above zero in both series.")
        if self.covariance is None or not np.isfinite(self.covariance[[i, j], [i, j]]).all():
            return Ratio(above / below, None, None, None)
        c = self.covariance
        variance = c[i, i] / above**2 + c[j, j] / below**2 - 2 * c[i, j] / (above * below)
        df: float = self.degrees_of_freedom
        if self.common:
            gradient = np.zeros((1, len(self.values)))
            gradient[0, i], gradient[0, j] = 1 / above, -1 / below
            parts = parts_of(self.common, self._shifts, gradient)[:, 0]
            df = effective_df(self.common, parts, Spread(variance, df))
            variance += float(parts.sum())
        error = math.sqrt(variance)
        half = t_quantile((1 + level) / 2, df) * error
        return Ratio(above / below, above / below * math.exp(-half), above / below * math.exp(min(half, 700)), error)
