"""The result of a fit: parameters, goodness, prediction and read-back, all from one frozen object."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.distributions import t_quantile, t_two_sided_p
from dosis.core.inference import goodness
from dosis.core.inference.read_back import Flag, ReadBack, StraightLine, delta_standard_error, fieller
from dosis.core.models.model import Array, Model


@dataclass(frozen=True, slots=True)
class ParameterEstimate:
    """One fitted parameter. standard_error and p_value (against zero) are None without degrees of freedom."""

    name: str
    estimate: float
    standard_error: float | None
    degrees_of_freedom: int

    def interval(self, level: float = 0.95, method: Literal["wald"] = "wald") -> tuple[float, float] | None:
        """estimate ± t · standard error; None without degrees of freedom. Raises ValueError for another method."""
        if method != "wald":
            raise ValueError(f"There is no interval method “{method}” for {self.name}; a straight line has “wald”.")
        if self.standard_error is None:
            return None
        half = t_quantile((1 + level) / 2, self.degrees_of_freedom) * self.standard_error
        return self.estimate - half, self.estimate + half

    @property
    def p_value(self) -> float | None:
        """Two-sided p of the t test that the parameter is zero."""
        if not self.standard_error:
            return None
        return t_two_sided_p(self.estimate / self.standard_error, self.degrees_of_freedom)


@dataclass(frozen=True)
class Fit:
    """A fitted curve. Arrays have one entry for each reading in the window, in the order given.

    sse = Σ w·(y − ŷ)²; `values` are the parameters in the model's order.
    """

    model: Model
    x: Array
    y: Array
    weights: Array
    weighting: str
    values: Array
    residuals: Array
    sse: float
    unscaled_covariance: Array
    converged: bool
    message: str

    @property
    def n(self) -> int:
        """Number of readings in the fit."""
        return int(self.x.size)

    @property
    def degrees_of_freedom(self) -> int:
        """Readings minus parameters."""
        return self.n - len(self.values)

    @property
    def rmse(self) -> float | None:
        """√(SSE/df), in the unit of y for equal weights; None without degrees of freedom."""
        return math.sqrt(self.sse / self.degrees_of_freedom) if self.degrees_of_freedom else None

    @property
    def covariance(self) -> Array | None:
        """Covariance of the parameters, (p, p); None without degrees of freedom."""
        rmse = self.rmse
        return None if rmse is None else rmse * rmse * self.unscaled_covariance

    @cached_property
    def parameters(self) -> dict[str, ParameterEstimate]:
        """Parameters by name."""
        covariance = self.covariance
        return {
            name: ParameterEstimate(
                name,
                float(self.values[i]),
                None if covariance is None else math.sqrt(covariance[i, i]),
                self.degrees_of_freedom,
            )
            for i, name in enumerate(self.model.names)
        }

    @cached_property
    def total_sum_of_squares(self) -> float:
        """Σ w·y² about the weighted mean, or about zero for a model without a constant."""
        centre = np.average(self.y, weights=self.weights) if self.model.intercept else 0.0
        return float((self.weights * (self.y - centre) ** 2).sum())

    @property
    def r_squared(self) -> float | None:
        """1 − SSE/total; about zero for a line through zero (as NIST certifies it); None when y does not vary."""
        return 1 - self.sse / self.total_sum_of_squares if self.total_sum_of_squares > 0 else None

    @property
    def adjusted_r_squared(self) -> float | None:
        """1 − (1 − R²)·(n − c)/df, c = 1 with a constant in the model, 0 without."""
        if self.r_squared is None or not self.degrees_of_freedom:
            return None
        return 1 - (1 - self.r_squared) * (self.n - self.model.intercept) / self.degrees_of_freedom

    @property
    def _minus_two_log_likelihood(self) -> float | None:
        # Without the constant n·(1 + ln 2π); the weights' term makes different weightings comparable.
        return self.n * math.log(self.sse / self.n) - float(np.log(self.weights).sum()) if self.sse > 0 else None

    @property
    def aicc(self) -> float | None:
        """n·ln(SSE/n) − Σ ln w + 2k + 2k(k + 1)/(n − k − 1), k = parameters + 1 (Burnham & Anderson 2002, 2.4).

        None for a perfect fit, or when n ≤ k + 1.
        """
        k = len(self.values) + 1
        likelihood = self._minus_two_log_likelihood
        if likelihood is None or self.n <= k + 1:
            return None
        return likelihood + 2 * k + 2 * k * (k + 1) / (self.n - k - 1)

    @property
    def bic(self) -> float | None:
        """n·ln(SSE/n) − Σ ln w + k·ln n, k = parameters + 1 (Schwarz 1978); None for a perfect fit."""
        likelihood = self._minus_two_log_likelihood
        return None if likelihood is None else likelihood + (len(self.values) + 1) * math.log(self.n)

    @cached_property
    def lack_of_fit(self) -> goodness.Test:
        """F test against pure error; see `goodness.lack_of_fit`."""
        return goodness.lack_of_fit(self.x, self.y, self.weights, self.sse, len(self.values))

    @cached_property
    def runs_test(self) -> goodness.Test:
        """Test for too few runs of residual signs; see `goodness.runs_test`."""
        return goodness.runs_test(self.x, self.residuals, self.weights)

    @cached_property
    def warnings(self) -> tuple[str, ...]:
        """What to know before believing the numbers, in words."""
        found = []
        if not self.degrees_of_freedom:
            found.append(
                f"{self.n} readings fix {len(self.values)} parameters exactly; there is no spread to judge by."
            )
        elif self.slope_is_flat:
            found.append("The signal does not change with x; nothing can be read back.")
        return tuple(found)

    @property
    def slope_is_flat(self) -> bool:
        """Whether the fitted line is level to within rounding."""
        return bool(abs(self.values[0]) * float(np.ptp(self.x)) <= 1e-13 * float(np.abs(self.y).max()))

    def predict(self, x: ArrayLike) -> Array:
        """Fitted y at x, same shape as x (1-d)."""
        return self.model.value(np.atleast_1d(np.asarray(x, dtype=float)), self.values)

    def band(
        self, x: ArrayLike, level: float = 0.95, kind: Literal["mean", "observation"] = "mean"
    ) -> tuple[Array, Array] | None:
        """Pointwise lower and upper limit of the curve ("mean") or of one more reading ("observation") at x.

        None without degrees of freedom. The variance of a reading at x follows the fit's weighting.
        """
        covariance, rmse = self.covariance, self.rmse
        if covariance is None or rmse is None:
            return None
        xs = np.atleast_1d(np.asarray(x, dtype=float))
        jacobian = self.model.derivative(xs, self.values)
        variance = np.einsum("ij,jk,ik->i", jacobian, covariance, jacobian)
        middle = self.predict(xs)
        if kind == "observation":
            variance = variance + rmse**2 * np.array(
                [self._variance_factor(y, v) for v, y in zip(xs, middle, strict=True)]
            )
        half = self.t(level) * np.sqrt(np.maximum(variance, 0.0))
        return middle - half, middle + half

    def t(self, level: float) -> float:
        """Two-sided t for an interval of that level."""
        return t_quantile((1 + level) / 2, self.degrees_of_freedom)

    @property
    def range(self) -> tuple[float, float]:
        """Lowest and highest x in the fit: the range in which read-back is not extrapolation."""
        return float(self.x.min()), float(self.x.max())

    def read_back(
        self,
        y: float | Sequence[float],
        level: float = 0.95,
        method: Literal["auto", "fieller"] = "auto",
        *,
        n: float | None = None,
        weight: float | None = None,
    ) -> ReadBack:
        """The x at which the line gives the mean of `y`, with Fieller's interval.

        Parameters
        ----------
        y : one sample's replicate readings (or their mean, with `n`).
        n : how many readings the mean stands for; math.inf takes the signal as exact.
        weight : weight of one reading of the sample, on the scale of the fit's weights; by default from the rule
            of the fit, or between the weights of the neighbouring standards where they were given.

        Raises
        ------
        ValueError : for no reading, readings that are not finite, or an unknown method.
        """
        if method not in ("auto", "fieller"):
            raise ValueError(f"There is no read-back method “{method}” for a straight line; it has “fieller”.")
        readings = np.atleast_1d(np.asarray(y, dtype=float))
        if readings.size == 0 or not np.isfinite(readings).all():
            raise ValueError("A sample needs at least 1 reading, all finite, to be read back.")
        signal = math.fsum(readings.tolist()) / readings.size
        count = float(readings.size if n is None else n)
        if self.slope_is_flat:
            return ReadBack(None, None, None, None, Flag.FLAT, "the line is flat", count)
        x = float(self.model.inverse(signal, self.values))
        flag, reason = self._place(x)
        rmse = self.rmse
        if rmse is None:
            return ReadBack(x, None, None, None, flag, reason or "no interval without a spread of the standards", count)
        factor = 1 / weight if weight else self._variance_factor(signal, x)
        line, variance = self._straight_line, rmse * rmse * factor / count
        lower, upper = fieller(line, signal, variance, self.t(level))
        if lower is None:
            reason = reason or "the slope is not different from zero at this level, so the interval has no end"
        return ReadBack(x, lower, upper, delta_standard_error(line, x, variance), flag, reason, count)

    def _place(self, x: float) -> tuple[Flag | None, str]:
        low, high = self.range
        slack = 1e-12 * max(abs(low), abs(high))  # a standard reads back as itself, whatever the last bit says
        if x > high + slack:
            return Flag.ABOVE_RANGE, "above the top standard"
        if x < low - slack:
            return Flag.BELOW_RANGE, "below the lowest standard"
        return None, ""

    @cached_property
    def _straight_line(self) -> StraightLine:
        rmse = self.rmse or 0.0
        slope = float(self.values[0])
        variance_slope = rmse * rmse * float(self.unscaled_covariance[0, 0])
        if not self.model.intercept:
            return StraightLine(0.0, 0.0, slope, 0.0, variance_slope)
        total = float(self.weights.sum())
        centre = float(np.average(self.x, weights=self.weights))
        height = float(np.average(self.y, weights=self.weights))
        return StraightLine(centre, height, slope, rmse * rmse / total, variance_slope)

    def _variance_factor(self, y: float, x: float) -> float:
        """Variance of one reading there, in units of RMSE²: the reciprocal of its weight."""
        match self.weighting:
            case "none":
                return 1.0
            case "1/y":
                return abs(y)
            case "1/y^2":
                return y * y
            case "1/x":
                return abs(x)
            case "1/x^2":
                return x * x
        levels, group = np.unique(self.x, return_inverse=True)
        return float(np.interp(x, levels, np.bincount(group, 1 / self.weights) / np.bincount(group)))
