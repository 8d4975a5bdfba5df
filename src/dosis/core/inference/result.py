"""The result of a fit: parameters, goodness, prediction and read-back, all from one frozen object."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.inference import goodness
from dosis.core.inference.areas import Area, area_under
from dosis.core.inference.covariance import Factor, Pool, unit_covariance
from dosis.core.inference.criteria import aicc, bic, minus_two_log_likelihood
from dosis.core.inference.curve_read_back import Reach, estimates_through, read_back_through
from dosis.core.inference.doses import Dose, dose_at
from dosis.core.inference.line_read_back import read_back_line, straight_line
from dosis.core.inference.parameters import ParameterEstimate, derived_of, estimates_of
from dosis.core.inference.profile import bootstrap_interval, profile_interval
from dosis.core.inference.read_back import Flag, ReadBack, StraightLine
from dosis.core.models.model import Model
from dosis.core.places import Places, places

Band = tuple[Array, Array]
VARIANCE_RULES = {"none": (0, 0), "1/y": (1, 0), "1/y^2": (2, 0), "1/yhat^2": (2, 0), "1/x": (0, 1), "1/x^2": (0, 2)}


@dataclass(frozen=True)
class Fit:
    """A fitted curve. Arrays have one entry for each reading in the window, in the order given.

    sse = Σ w·(y − ŷ)²; `pool` is the spread it shares with others in a simultaneous fit.
    `values` are all parameters in the model's order, `unscaled_covariance` is over those that are
    not fixed, and so is its `root`, (p, p) with rootᵀ·root = covariance, where it was found with the fit.
    """

    model: Model
    x: Array
    y: Array
    weights: Array
    weighting: str
    values: Array
    fixed: frozenset[str]
    residuals: Array
    sse: float
    unscaled_covariance: Array
    converged: bool
    message: str
    pool: Pool | None = None
    root: Array | None = None

    @classmethod
    def of(
        cls, model: Model, x: Array, y: Array, w: Array, values: Array, fixed: frozenset[str], *,
        converged: bool, message: str,
    ) -> "Fit":  # fmt: skip
        """The result at these parameter values. What the data do not determine has an infinite variance."""
        value, jacobian = model.value_and_derivative(x, values)
        residuals = y - value
        free = [i for i, name in enumerate(model.names) if name not in fixed]
        covariance = unit_covariance(np.sqrt(w)[:, None] * jacobian[:, free])
        return cls(
            model=model, x=x, y=y, weights=w, weighting="none", values=values, fixed=fixed, residuals=residuals,
            sse=float((w * residuals**2).sum()), unscaled_covariance=covariance, converged=converged, message=message,
        )  # fmt: skip

    def but(self, **parts: Any) -> "Fit":
        """The same fit with some parts replaced."""
        return replace(self, **parts)

    @cached_property
    def n(self) -> int:
        """Number of readings in the fit."""
        return int(self.x.size)

    @cached_property
    def free(self) -> int:
        """Number of parameters fitted."""
        return len(self.values) - len(self.fixed)

    @property
    def named(self) -> dict[str, float]:
        """Parameter values by name."""
        return dict(zip(self.model.names, self.values.tolist(), strict=True))

    @cached_property
    def degrees_of_freedom(self) -> int:
        """Readings minus fitted parameters; those of all series in a simultaneous fit."""
        return self.pool.degrees_of_freedom if self.pool else self.n - self.free

    @cached_property
    def rmse(self) -> float | None:
        """√(SSE/df), in the unit of y for equal weights; None without degrees of freedom."""
        df = self.degrees_of_freedom
        return math.sqrt((self.pool.sse if self.pool else self.sse) / df) if df > 0 else None

    @cached_property
    def covariance(self) -> Array | None:
        """Covariance of the parameters, (p, p), zero for fixed ones; None without degrees of freedom."""
        rmse = self.rmse
        if rmse is None:
            return None
        if not self.fixed:
            with np.errstate(invalid="ignore"):
                return rmse * rmse * self.unscaled_covariance
        full = np.zeros((len(self.values), len(self.values)))
        free = self._free
        with np.errstate(invalid="ignore"):
            full[np.ix_(free, free)] = rmse * rmse * self.unscaled_covariance
        return full

    @cached_property
    def settled(self) -> Array | None:
        """The covariance where the data determine every parameter; None where they do not, and no band can be drawn."""
        return self.covariance if self.covariance is not None and np.isfinite(self.covariance).all() else None

    @cached_property
    def parameters(self) -> dict[str, ParameterEstimate]:
        """Parameters by name."""
        return estimates_of(self)

    @cached_property
    def derived(self) -> dict[str, ParameterEstimate]:
        """Quantities that follow from the parameters (half-life, −log10 …), with first-order standard errors.

        A quantity that is not a number for these parameters is left out.
        """
        return derived_of(self)

    def variance_along(self, gradients: Array) -> Array:
        """gᵀ·C·g for every row of gradients (n, p) of a fit that is settled: (n,).

        Through the triangular factor of the design, where nothing cancels: of two parameters that are lost each by
        itself, such as a power and the place it moves, the curve may be known well. Only the covariance of a
        simultaneous fit is taken as it is.
        """
        if self.pool is not None:
            covariance = np.asarray(self.covariance, dtype=float)
            shared: Array = np.maximum(((gradients @ covariance) * gradients).sum(axis=1), 0.0)
            return shared
        return self._factor.unit_variance(gradients[:, self._free]) * (self.rmse or 0.0) ** 2

    def along(self, x: Array) -> tuple[Array, Array, Array]:
        """The curve at x (n,), the variance of its mean there, and its slope, of a fit that is settled."""
        if self.has_sigmoid_band:
            from dosis.core.fitting.sigmoids.band import along_band

            value, variance, slope = along_band(*self.as_sigmoid, x)
            return value, variance, slope
        return *self.mean_at(x), self.model.gradient(x, self.values)

    def mean_at(self, x: Array) -> tuple[Array, Array]:
        """The same without the slope, which not everyone asks for."""
        if self.has_sigmoid_band:
            return self.along(x)[:2]
        if self.is_straight and self.pool is None:
            line = self.straight_line
            return self.predict(x), line.variance_height + np.square(x - line.center) * line.variance_slope
        value, jacobian = self.model.value_and_derivative(x, self.values)
        return value, self.variance_along(jacobian)

    @property
    def is_sigmoid(self) -> bool:
        """Whether there are compiled loops for it."""
        return self.model.sigmoid is not None

    @property
    def has_sigmoid_band(self) -> bool:
        """Whether they know its band too: of a curve on its own, not of one of several with a common spread."""
        return self.is_sigmoid and self.pool is None

    @cached_property
    def as_sigmoid(self) -> tuple[int, bool, bool, Array, Array]:
        """What the compiled loops are given of a sigmoid that is settled; see `sigmoids.band.on_band`."""
        order = self.model.laid
        root = np.zeros((self.free, 5))
        known = self._factor.turned if self.root is None else self.root
        root[:, [order.index(i) for i in self._free]] = (self.rmse or 0.0) * known
        return *self.laid_out, root

    @cached_property
    def laid_out(self) -> tuple[int, bool, bool, Array]:
        """A sigmoid's form and parameters for the compiled loops."""
        from dosis.core.fitting.sigmoids.model import laid_out

        return laid_out(self.model, self.values)

    @property
    def _free(self) -> list[int]:
        return [i for i, name in enumerate(self.model.names) if name not in self.fixed]

    @cached_property
    def _factor(self) -> Factor:
        jacobian = self.model.derivative(self.x, self.values)[:, self._free]
        return Factor.of(np.sqrt(self.weights)[:, None] * jacobian)

    @cached_property
    def total_sum_of_squares(self) -> float:
        """Σ w·y² about the weighted mean, or about zero for a model without a constant."""
        center = float(self.weights @ self.y) / float(self.weights.sum()) if self.model.intercept else 0.0
        away = self.y - center
        return float(self.weights @ (away * away))

    @cached_property
    def r_squared(self) -> float | None:
        """1 − SSE/total; about zero for a line through zero (as NIST certifies it); None when y does not vary, or
        misses the curve by more than numbers tell.
        """
        if not self.total_sum_of_squares > 0:
            return None
        share = self.sse / self.total_sum_of_squares
        return 1 - share if math.isfinite(share) else None

    @property
    def adjusted_r_squared(self) -> float | None:
        """1 − (1 − R²)·(n − c)/df, c = 1 with a constant in the model, 0 without."""
        if self.r_squared is None or self.degrees_of_freedom <= 0:
            return None
        return 1 - (1 - self.r_squared) * (self.n - self.model.intercept) / self.degrees_of_freedom

    @cached_property
    def aicc(self) -> float | None:
        """Akaike's criterion, corrected; see `criteria.aicc`."""
        return aicc(self._likelihood, self.n, self.free)

    @property
    def bic(self) -> float | None:
        """Schwarz's criterion; see `criteria.bic`."""
        return bic(self._likelihood, self.n, self.free)

    @cached_property
    def _likelihood(self) -> float | None:
        return minus_two_log_likelihood(self.sse, self.weights)

    @cached_property
    def places(self) -> Places:
        """Which readings share an x."""
        return places(self.x)

    @cached_property
    def lack_of_fit(self) -> goodness.Test:
        """F test against pure error; see `goodness.lack_of_fit`."""
        return goodness.lack_of_fit(self.places, self.y, self.weights, self.sse, self.free)

    @cached_property
    def runs_test(self) -> goodness.Test:
        """Test for too few runs of residual signs; see `goodness.runs_test`."""
        return goodness.runs_test(self.places, self.residuals, self.weights)

    @cached_property
    def warnings(self) -> tuple[str, ...]:
        """What to know before believing the numbers, in words."""
        found = [] if self.converged else [f"The fit has not converged: {self.message}"]
        if self.degrees_of_freedom <= 0:
            found.append(f"{self.n} readings fix {self.free} parameters exactly; there is no spread to judge by.")
        elif self.slope_is_flat:
            found.append("The signal does not change with x; nothing can be read back.")
        elif lost := [
            p.name for p in self.parameters.values() if p.standard_error is None and p.name not in self.fixed
        ]:
            found.append(f"The data do not determine {', '.join(lost)}; simplify the model or add readings.")
        return tuple(found)

    @cached_property
    def slope_is_flat(self) -> bool:
        """Whether the fitted curve is level over the readings to within rounding."""
        fitted = self.y - self.residuals
        if abs(fitted[0] - fitted[-1]) > 1e-13 * math.sqrt(self.y @ self.y):
            return False  # as nearly all; the rest takes a closer look
        return bool(fitted.max() - fitted.min() <= 1e-13 * max(self.y.max(), -self.y.min()))

    def predict(self, x: ArrayLike) -> Array:
        """Fitted y at x, same shape as x (1-d)."""
        at = np.atleast_1d(np.asarray(x, dtype=float))
        if self.is_straight:
            named = self.named
            return named.get("intercept", 0.0) + named["slope"] * at
        if self.is_sigmoid:
            from dosis.core.fitting.sigmoids.minimum import heights_at

            return heights_at(*self.laid_out, at)
        return self.model.value(at, self.values)

    def band(self, x: ArrayLike, level: float = 0.95, kind: Literal["mean", "observation"] = "mean") -> Band | None:
        """Pointwise lower and upper limit of the curve ("mean") or of one more reading ("observation") at x.

        None without degrees of freedom, or where the data leave a parameter open. The variance of a reading at x
        follows the fit's weighting.
        """
        both = self.bands(x, level)
        if both is None:
            return None
        return (both[1], both[2]) if kind == "mean" else (both[3], both[4])

    def bands(self, x: ArrayLike, level: float = 0.95) -> Array | None:
        """The curve at x (n,) and both kinds of `band`, (5, n): that of the mean before that of one more reading."""
        rmse = self.rmse
        if self.settled is None or rmse is None:
            return None
        xs = np.atleast_1d(np.asarray(x, dtype=float))
        if self.has_sigmoid_band and self.variance_rule is not None:
            from dosis.core.fitting.sigmoids.band import bands_along

            return bands_along(*self.as_sigmoid, xs, self.t(level), rmse * rmse, *self.variance_rule)
        middle, variance = self.mean_at(xs)
        one = variance + rmse**2 * self.variance_factor(middle, xs)
        mean, reading = (self.t(level) * np.sqrt(np.maximum(each, 0.0)) for each in (variance, one))
        return np.array((middle, middle - mean, middle + mean, middle - reading, middle + reading))

    def t(self, level: float) -> float:
        """Two-sided t for an interval of that level."""
        return t_quantile((1 + level) / 2, self.degrees_of_freedom)

    @cached_property
    def range(self) -> tuple[float, float]:
        """Lowest and highest x in the fit: the range in which read-back is not extrapolation."""
        levels = self.places.levels
        return float(levels[0]), float(levels[-1])

    def read_back(
        self,
        y: float | Sequence[float],
        level: float = 0.95,
        method: Literal["auto", "fieller", "band"] = "auto",
        *,
        n: float | None = None,
        weight: float | None = None,
    ) -> ReadBack:
        """The x at which the curve gives the mean of `y`: with Fieller's interval for a line, else by its band.

        Parameters
        ----------
        y : one sample's replicate readings (or their mean, with `n`).
        n : how many readings the mean stands for; math.inf takes the signal as exact.
        weight : weight of one reading of the sample, on the scale of the fit's weights; by default from the rule
            of the fit, or between the weights of the neighboring standards where they were given.

        Raises
        ------
        ValueError : for no reading, readings that are not finite, or an unknown method.
        """
        own = "fieller" if self.is_straight else "band"
        if method not in ("auto", own):
            raise ValueError(f"There is no read-back method “{method}” for {self.model.name}; it has “{own}”.")
        readings = np.atleast_1d(np.asarray(y, dtype=float))
        if readings.size == 0 or not np.isfinite(readings).all():
            raise ValueError("A sample needs at least 1 reading, all finite, to be read back.")
        signal = math.fsum(readings.tolist()) / readings.size
        count = float(readings.size if n is None else n)
        if self.slope_is_flat:
            return ReadBack(None, None, None, None, Flag.FLAT, "the line is flat", count)
        if self.is_straight:
            return read_back_line(self, [signal], [count], level, weight)[0]
        return read_back_through(self, np.array([signal]), np.array([count]), level, weight)[0]

    def read_back_many(self, means: Sequence[float], counts: Sequence[int], level: float = 0.95) -> list[ReadBack]:
        """Many samples read back, each by its mean and number of readings, as `read_back` does one.

        Raises
        ------
        ValueError : as `read_back`.
        """
        if self.slope_is_flat or not means or not np.isfinite(means).all():
            return [self.read_back(mean, level, n=count) for mean, count in zip(means, counts, strict=True)]
        if self.is_straight:
            return read_back_line(self, means, list(map(float, counts)), level, None)
        return read_back_through(self, np.array(means), np.array(counts, dtype=float), level, None)

    def estimates(self, means: Sequence[float]) -> list[float | None]:
        """The x of each signal alone, None where the curve does not reach it; outside the standards as well."""
        if self.slope_is_flat or not means:
            return [None] * len(means)
        if self.is_straight:
            intercept, slope = self.named.get("intercept", 0.0), self.named["slope"]
            return [(mean - intercept) / slope for mean in means]
        return estimates_through(self, np.array(means, dtype=float))

    def dose_at(self, effect: float, of: Literal["span", "response"] = "span", level: float = 0.95) -> Dose:
        """The dose with that share of the span, or that response, with interval and flag; see `doses.dose_at`."""
        return dose_at(self, effect, of, level)

    def area(self, low: float, high: float, *, logarithmic: bool = False, level: float = 0.95) -> Area:
        """Area under the curve between two x, over log10 x where `logarithmic`; see `areas.area_under`."""
        return area_under(self, low, high, logarithmic, level)

    def profile(self, name: str, level: float) -> tuple[float | None, float | None]:
        """Profile-likelihood interval of a parameter; see `profile.profile_interval`."""
        self._own(name)
        return profile_interval(self, name, level)

    def bootstrap(self, name: str, level: float) -> tuple[float, float] | None:
        """Percentile interval of the parametric bootstrap; see `profile.bootstrap_interval`."""
        self._own(name)
        return bootstrap_interval(self, name, level)

    def _own(self, name: str) -> None:
        if name not in self.model.names:
            raise ValueError(f"{name} follows from the parameters; of such a quantity there is a Wald interval only.")

    @property
    def is_straight(self) -> bool:
        """Whether Fieller's theorem applies: a free line, with or without intercept."""
        return self.model.id in ("line", "line_through_zero") and not self.fixed

    @cached_property
    def reach(self) -> Reach:
        """Where an x is looked for."""
        return Reach.of(self)

    @cached_property
    def straight_line(self) -> StraightLine:
        """A line as Fieller's theorem takes it."""
        return straight_line(self)

    @property
    def variance_rule(self) -> tuple[int, int] | None:
        """The powers of y and of x that the variance of a reading goes by; None where weights were given."""
        return VARIANCE_RULES.get(self.weighting)

    def variance_factor(self, y: Array, x: Array) -> Array:
        """Variance of one reading there, in units of RMSE²: the reciprocal of its weight; (n,), (n,) → (n,)."""
        if self.variance_rule is not None:
            by_y, by_x = self.variance_rule
            if not by_y and not by_x:
                return np.ones(x.shape)
            factor: Array = np.abs(y) ** by_y * np.abs(x) ** by_x
            return factor
        levels, group = self.places.levels, self.places.group
        between: Array = np.interp(x, levels, np.bincount(group, 1 / self.weights) / np.bincount(group))
        return between
