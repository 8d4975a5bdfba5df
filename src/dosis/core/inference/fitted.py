"""A fitted curve: its readings, its parameters with their covariance, and the curve and its bands at any x."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal, Self

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.inference.common import CommonError, effective_df, parts_of, shifts_of
from dosis.core.inference.covariance import Factor, Pool, unit_covariance
from dosis.core.inference.read_back import StraightLine
from dosis.core.inference.spread import Spread
from dosis.core.models.model import Model
from dosis.core.places import Places, places

Band = tuple[Array, Array]
VARIANCE_RULES = {"none": (0, 0), "1/y": (1, 0), "1/y^2": (2, 0), "1/yhat^2": (2, 0), "1/x": (0, 1), "1/x^2": (0, 2)}


@dataclass(frozen=True)
class Fitted:
    """A fitted curve. Arrays have one entry for each reading in the window, in the order given.

    What follows from it, and what can be asked of it, is `Fit`.

    sse = Σ w·(y − ŷ)²; `pool` is the spread it shares with other readings, such as of a simultaneous fit, of which it
    is one of several curves where it is `joint`; `common` are errors its readings share.
    turn : of weights that rise with the curve, the signal at which its steady and its rising spread are alike.
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
    joint: bool = False
    common: tuple[CommonError, ...] = ()
    turn: float | None = None

    @classmethod
    def of(
        cls, model: Model, x: Array, y: Array, w: Array, values: Array, fixed: frozenset[str], *,
        converged: bool, message: str,
    ) -> Self:  # fmt: skip
        """The result at these parameter values. What the data do not determine has an infinite variance."""
        value, jacobian = model.value_and_derivative(x, values)
        residuals = y - value
        free = [i for i, name in enumerate(model.names) if name not in fixed]
        covariance = unit_covariance(np.sqrt(w)[:, None] * jacobian[:, free])
        return cls(
            model=model, x=x, y=y, weights=w, weighting="none", values=values, fixed=fixed, residuals=residuals,
            sse=float((w * residuals**2).sum()), unscaled_covariance=covariance, converged=converged, message=message,
        )  # fmt: skip

    def but(self, **parts: Any) -> Self:
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
        """√(SSE/df) of the spread it is judged by, for equal weights in the unit of y; None without any."""
        df = self.degrees_of_freedom
        return math.sqrt((self.pool.sse if self.pool else self.sse) / df) if df > 0 else None

    @cached_property
    def covariance(self) -> Array | None:
        """Covariance of the parameters, (p, p), zero for fixed ones; None without degrees of freedom."""
        rmse = self.rmse
        if rmse is None:
            return None
        with np.errstate(invalid="ignore"):
            own = rmse * rmse * self.unscaled_covariance
            if self.fixed:
                full = np.zeros((len(self.values), len(self.values)))
                full[np.ix_(self._free, self._free)] = own
                own = full
            for error, shift in zip(self.common, self.shifts if self.common else (), strict=True):
                own = own + error.spread.variance * np.outer(shift, shift)
        return own

    @cached_property
    def shifts(self) -> Array:
        """By how much each common error, of size one, moves the parameters: (k, p)."""
        moved = np.zeros((len(self.common), len(self.values)))
        if any(error.shift is None for error in self.common):
            jacobian = self.model.derivative(self.x, self.values)[:, self._free]
            moved[:, self._free] = shifts_of(self.common, jacobian, self.weights, self.unscaled_covariance)
        for i, error in enumerate(self.common):
            if error.shift is not None:
                moved[i] = error.shift
        return moved

    def judged(self, common: tuple[CommonError, ...]) -> Self:
        """The same fit with errors its readings share.

        Where they do not move the curve as a whole they bend the readings away from it, so that the residuals count
        them already: their share is taken off SSE, of which at least a half stays where they are as large as it.
        """
        found = self.but(common=common)
        if self.rmse is None or not common:
            return found
        if self.settled is None and any(error.shift is None for error in common):
            return self  # what is not determined may be moved by anything
        jacobian = self.model.derivative(self.x, self.values)
        absorbed = 0.0
        for error, shift in zip(common, found.shifts, strict=True):
            if error.shift is None and error.on is not None:
                left = error.on - jacobian @ shift
                absorbed += error.spread.variance * float(self.weights @ np.square(left))
        if not 0 < absorbed < math.inf:
            return found
        df = self.degrees_of_freedom
        sse = self.rmse * self.rmse * df
        return found.but(pool=Pool(sse / (1 + absorbed / sse), df)) if sse else found

    def common_parts(self, gradients: Array, carries: Array | None = None) -> Array:
        """What each common error adds to the variance along gradients (m, p): (k, m); see `common.parts_of`."""
        return parts_of(self.common, self.shifts, gradients, carries)

    def covariance_between(self, one: float, other: float) -> float | None:
        """Covariance of two x that are read off this curve, which an error of the curve moves together.

        First order, in squared units of x; None where the curve is not settled.
        """
        own = self.but(common=())
        if own.settled is None:
            return None
        x = np.array([one, other])
        gradients = self.model.derivative(x, self.values)
        moved = float(gradients[0] @ own.settled @ gradients[1])
        for error, shift in zip(self.common, self.shifts if self.common else (), strict=True):
            first, second = (error.carries - gradients @ shift).tolist()
            moved += error.spread.variance * first * second
        slopes = self.model.gradient(x, self.values)
        return moved / float(slopes[0] * slopes[1])

    def df_of(self, variance: float, parts: Array) -> float:
        """Degrees of freedom of a variance in which the common errors have these parts (k,), and the fit the rest."""
        if not parts.size:
            return self.degrees_of_freedom
        own = Spread(max(variance - float(parts.sum()), 0.0), self.degrees_of_freedom)
        return effective_df(self.common, parts, own)

    @cached_property
    def settled(self) -> Array | None:
        """The covariance where the data determine every parameter; None where they do not, and no band can be drawn."""
        return self.covariance if self.covariance is not None and np.isfinite(self.covariance).all() else None

    def variance_along(self, gradients: Array) -> Array:
        """gᵀ·C·g for every row of gradients (n, p) of a fit that is settled: (n,).

        Through the triangular factor of the design, where nothing cancels: of two parameters that are lost each by
        itself, such as a power and the place it moves, the curve may be known well. Only the covariance of a
        simultaneous fit is taken as it is.
        """
        if self.joint:
            covariance = np.asarray(self.covariance, dtype=float)
            shared: Array = np.maximum(((gradients @ covariance) * gradients).sum(axis=1), 0.0)
            return shared
        own = self._factor.unit_variance(gradients[:, self._free]) * (self.rmse or 0.0) ** 2
        return own + self.common_parts(gradients).sum(axis=0) if self.common else own

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
        if self.is_straight and not self.joint and not self.common:
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
        return self.is_sigmoid and not self.joint and not self.common

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
    def places(self) -> Places:
        """Which readings share an x."""
        return places(self.x)

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

    @property
    def is_straight(self) -> bool:
        """Whether Fieller's theorem applies: a free line, with or without intercept."""
        return self.model.id in ("line", "line_through_zero") and not self.fixed

    @cached_property
    def straight_line(self) -> StraightLine:
        """A line as Fieller's theorem takes it."""
        rmse = self.rmse or 0.0
        slope, variance_slope = float(self.values[0]), rmse * rmse * float(self.unscaled_covariance[0, 0])
        if not self.model.intercept:
            return StraightLine(0.0, 0.0, slope, 0.0, variance_slope)
        total = float(self.weights.sum())
        center, height = float(self.weights @ self.x) / total, float(self.weights @ self.y) / total
        return StraightLine(center, height, slope, rmse * rmse / total, variance_slope)

    @property
    def variance_rule(self) -> tuple[int, int] | None:
        """The powers of y and of x that the variance of a reading goes by; None where it goes by no such rule."""
        return VARIANCE_RULES.get(self.weighting)

    def variance_factor(self, y: Array, x: Array) -> Array:
        """Variance of one reading there, in units of RMSE²: the reciprocal of its weight; (n,), (n,) → (n,)."""
        if self.variance_rule is not None:
            by_y, by_x = self.variance_rule
            if not by_y and not by_x:
                return np.ones(x.shape)
            factor: Array = np.abs(y) ** by_y * np.abs(x) ** by_x
            return factor
        if self.turn is not None:
            rising: Array = 1 + np.square(y / self.turn)
            return rising
        levels, group = self.places.levels, self.places.group
        between: Array = np.interp(x, levels, np.bincount(group, 1 / self.weights) / np.bincount(group))
        return between
