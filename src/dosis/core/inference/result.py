"""The result of a fit: parameters, goodness, prediction and read-back, all from one frozen object."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from importlib import import_module
from typing import Any, Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference import goodness
from dosis.core.inference.areas import Area, area_under
from dosis.core.inference.criteria import aicc, bic, minus_two_log_likelihood
from dosis.core.inference.curve_read_back import Reach, estimates_through, read_back_through
from dosis.core.inference.doses import Dose, dose_at
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.line_read_back import read_back_line
from dosis.core.inference.parameters import ParameterEstimate, derived_of, estimates_of
from dosis.core.inference.profile import bootstrap_interval, profile_interval
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.samples import Samples
from dosis.core.inference.showing import as_html, parameter_table, summary, to_frame
from dosis.core.inference.spread import Spread


@dataclass(frozen=True)
class Fit(Fitted):
    """A fitted curve with its statistics, and all that can be asked of it."""

    @cached_property
    def parameters(self) -> dict[str, ParameterEstimate]:
        """Parameters by name."""
        return estimates_of(self, self)

    @cached_property
    def derived(self) -> dict[str, ParameterEstimate]:
        """Quantities that follow from the parameters (half-life, −log10 …), with first-order standard errors.

        A quantity that is not a number for these parameters is left out.
        """
        return derived_of(self, self)

    @property
    def adjusted_r_squared(self) -> float | None:
        """1 − (1 − R²)·(n − c)/df, c = 1 with a constant in the model, 0 without."""
        if self.r_squared is None or self.degrees_of_freedom <= 0:
            return None
        return 1 - (1 - self.r_squared) * (self.n - self.model.intercept) / self.degrees_of_freedom

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

    def summary(self) -> str:
        """Equation, parameters with their intervals, and goodness of fit, in lines of text."""
        return summary(self)

    def parameter_table(self, level: float = 0.95) -> list[dict[str, Any]]:
        """A row for each parameter, numbers at full precision, intervals of that level."""
        return parameter_table(self, level)

    def to_frame(self, level: float = 0.95) -> Any:
        """The table of parameters as a data frame, where pandas is installed. Raises ImportError."""
        return to_frame(self, level)

    def figure(self, **choices: Any) -> Any:
        """Points and curve as a figure that shows itself in a notebook: `figure(x="Phosphate / uM", title="Pier")`.

        It saves itself, too: `fit.figure().file("pdf")`. choices : see `dosis.output.figures.fitted.figure_of_fit`.

        Raises
        ------
        ImportError : where what draws is not installed: pip install '.[figures]'.
        """
        # Known by name alone: the core computes without it.
        return import_module("dosis.output.figures.fitted").figure_of_fit(self, **choices)

    def _repr_html_(self) -> str:
        return as_html(self)

    def read_back(
        self,
        y: float | Sequence[float],
        level: float = 0.95,
        method: Literal["auto", "fieller", "band"] = "auto",
        *,
        n: float | None = None,
        weight: float | None = None,
    ) -> ReadBack:
        """The x of ONE sample, whose replicate readings are `y`; for several samples see `read_back_many`.

        It is where the curve gives their mean: with Fieller's interval for a line, else by its band. Example, one
        sample read three times: ``fit.read_back([0.31, 0.33, 0.32])``; three samples read once each:
        ``fit.read_back_many([0.31, 0.52, 0.77], [1, 1, 1])``.

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
        samples = Samples.of([signal], [count], weight)
        if self.is_straight:
            return read_back_line(self, samples, level)[0]
        return read_back_through(self, self.reach, samples, level)[0]

    def read_back_many(
        self, means: Sequence[float], counts: Sequence[float], level: float = 0.95, *,
        own: Sequence[Spread | None] = (), carries: Array | None = None,
    ) -> list[ReadBack]:  # fmt: skip
        """MANY samples read back, each by its mean and its number of readings, as `read_back` does one.

        Example, two samples read in triplicate, one once: ``fit.read_back_many([0.31, 0.52, 0.77], [3, 3, 1])``.

        own : the spread of one reading of a sample that scatters by itself, with its degrees of freedom; None for one
            that scatters as the fit does. carries : see `Samples`.

        Raises
        ------
        ValueError : as `read_back`.
        """
        if self.slope_is_flat or not means or not np.isfinite(means).all():
            return [self.read_back(mean, level, n=count) for mean, count in zip(means, counts, strict=True)]
        samples = Samples.of(means, counts, own=own, carries=carries)
        if self.is_straight:
            return read_back_line(self, samples, level)
        return read_back_through(self, self.reach, samples, level)

    def estimates(self, means: Sequence[float]) -> list[float | None]:
        """The x of each signal alone, None where the curve does not reach it; outside the standards as well."""
        if self.slope_is_flat or not means:
            return [None] * len(means)
        if self.is_straight:
            intercept, slope = self.named.get("intercept", 0.0), self.named["slope"]
            return [(mean - intercept) / slope for mean in means]
        return estimates_through(self, self.reach, np.array(means, dtype=float))

    def dose_at(self, effect: float, of: Literal["span", "response"] = "span", level: float = 0.95) -> Dose:
        """The dose with that share of the span, or that response, with interval and flag; see `doses.dose_at`."""
        return dose_at(self, effect, of, level)

    def area(self, low: float, high: float, *, logarithmic: bool = False, level: float = 0.95) -> Area:
        """Area under the curve between two x, over log10 x where `logarithmic`; see `areas.area_under`."""
        return area_under(self, low, high, logarithmic, level)

    def profile(self, name: str, level: float) -> tuple[float | None, float | None]:
        """Profile-likelihood interval of a parameter; see `profile.profile_interval`."""
        self._own(name)
        return profile_interval(self, self.parameters[name], level)

    def bootstrap(self, name: str, level: float) -> tuple[float, float] | None:
        """Percentile interval of the parametric bootstrap; see `profile.bootstrap_interval`."""
        self._own(name)
        return bootstrap_interval(self, name, level)

    def _own(self, name: str) -> None:
        if name not in self.model.names:
            raise ValueError(f"{name} follows from the parameters; of such a quantity there is a Wald interval only.")

    @cached_property
    def reach(self) -> Reach:
        """Where an x is looked for."""
        return Reach.of(self)
