"""The dose that has a given effect: relative and absolute ECx, with interval and flag."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.distributions import t_quantile
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.read_back import Flag
from dosis.core.inference.roots import bisect
from dosis.core.inference.variances import with_degrees
from dosis.core.places import places

FAR = 1e150  # stands for an infinite dose; its square is still a number


@dataclass(frozen=True, slots=True)
class Dose:
    """A dose in the unit of x. Without estimate the effect is not reached, and `reason` says so.

    The interval is made on the logarithmic scale for a model in dose; standard_error is that of the dose itself.
    """

    estimate: float | None
    lower: float | None
    upper: float | None
    standard_error: float | None
    flag: Flag | None
    reason: str


def dose_at(fit: Fitted, effect: float, of: Literal["span", "response"], level: float) -> Dose:
    """The dose with `effect`: a share of the way from the plateau at no dose to that at infinite dose, or a response.

    What a response carries of the fit's common errors counts as part of its variance.

    Raises
    ------
    ValueError : for a model without two plateaus, or a share outside 0 to 1.
    """
    return doses_at([fit], [effect], of, level)[0]


@np.errstate(all="ignore")
def doses_at(
    fits: Sequence[Fitted], effects: Sequence[float], of: Literal["span", "response"], level: float
) -> list[Dose]:
    """The same for fits of one model at once, each with an effect of its own.

    The variance follows from the curve's by the implicit function theorem (delta method).

    Raises
    ------
    ValueError : as `dose_at`.
    """
    if not fits:
        return []
    model = fits[0].model
    if model.shape not in ("sigmoid", "saturating", "threshold"):
        raise ValueError(f"{model.name} has no two plateaus to take a share of.")
    wanted = np.array(effects, dtype=float)
    if of == "span" and not ((wanted > 0) & (wanted < 1)).all():
        raise ValueError(f"The share of the span must lie between 0 and 1; here it is {wanted[0]:g}.")
    values = np.array([fit.values for fit in fits])
    ends = np.array([0.0 if model.positive_x else -FAR, FAR])
    plateaus, at_ends = model.value_and_derivative(ends, values)
    share = np.stack((1 - wanted, wanted), axis=1) if of == "span" else np.zeros((len(fits), 2))
    target = (share * plateaus).sum(axis=1) if of == "span" else wanted
    low, high = plateaus.min(axis=1), plateaus.max(axis=1)
    reached = (low < target) & (target < high)
    x = np.where(reached, _solve(fits, values, target, reached), 1.0)
    derivative = model.value_and_derivative(x[:, None], values)[1][:, 0]
    slope = model.gradient(x[:, None], values)
    pull = ((share[:, :, None] * at_ends).sum(axis=1) - derivative) / slope
    variance, df = with_degrees(fits, pull, carried=1 / slope[:, 0] if of == "response" else None)
    found: list[Dose] = []
    for i, fit in enumerate(fits):
        if not reached[i]:
            reason = f"not reached: the curve stays between {low[i]:.4g} and {high[i]:.4g}"
            found.append(Dose(None, None, None, None, Flag.NOT_REACHED, reason))
        else:
            found.append(_judged(fit, float(x[i]), float(variance[i]), df[i], level))
    return found


def _judged(fit: Fitted, x: float, variance: float, df: float, level: float) -> Dose:
    """A dose that is reached, with its place among the doses and its interval."""
    error = math.sqrt(variance) if variance >= 0 else math.nan
    flag, reason = None, ""
    low, high = fit.range
    if x > high:
        flag, reason = Flag.ABOVE_RANGE, "above the highest dose"
    elif x < (fit.x[fit.x > 0].min() if low == 0 and high > 0 and fit.model.positive_x else low):
        flag, reason = Flag.BELOW_RANGE, "below the lowest dose"
    if not math.isfinite(error):
        why = "the curve is too uncertain for an interval" if fit.rmse is not None else "no interval without a spread"
        return Dose(x, None, None, None, flag, reason or why)
    half = t_quantile((1 + level) / 2, df) * error
    lower, upper = (
        (x * math.exp(-half / x), x * math.exp(min(half / x, 700))) if fit.model.positive_x else (x - half, x + half)
    )
    return Dose(x, lower, upper, error, flag, reason)


def _solve(fits: Sequence[Fitted], values: Array, target: Array, reached: Flags) -> Array:
    """The one x at which each curve between two plateaus has its target; NaN where it does not reach it."""
    model = fits[0].model
    form = model.sigmoid
    if form is not None and form.shape == "logistic":
        named = dict(zip(model.names, values.T, strict=True))
        above, below = target - named["lower"], named["upper"] - target
        steepness = 1 / named[form.steepness] if form.inverse_steepness else named[form.steepness]
        along = (np.log(np.abs(above)) - np.log(np.abs(below))) / steepness
        place = named[form.place]
        closed = np.exp(np.clip(np.log(place) + along, -690.0, 690.0)) if form.logarithmic else place + along
        return np.where(reached, closed, np.nan)
    return np.array([
        _search(fit, float(at)) if there else np.nan for fit, at, there in zip(fits, target, reached, strict=True)
    ])  # fmt: skip


def _search(fit: Fitted, target: float) -> float:
    if fit.model.positive_x:
        return math.exp(bisect(lambda u: float(fit.predict(math.exp(u))[0]) - target, -690.0, 345.0))
    low, high = fit.range
    reach = 1000 * (high - low)
    return bisect(lambda x: float(fit.predict(x)[0]) - target, low - reach, high + reach)


def dose_between(x: Array, y: Array, response: float, *, logarithmic: bool = True) -> Dose:
    """The dose with that response on the straight line between the two doses around it, for comparison with a curve.

    x, y : (n,) readings; replicates are averaged. Of several crossings the lowest is taken, and flagged ambiguous.
    There is no interval. A zero dose has no place on a logarithm: beside it the line is straight in the dose.
    """
    at = places(x)
    mean = at.means(y)
    gap = mean - response
    pieces = np.flatnonzero((gap[:-1] * gap[1:] < 0) | (gap[:-1] == 0))
    if not pieces.size and not (gap[-1:] == 0).any():
        reason = f"not reached: the means stay between {mean.min():.4g} and {mean.max():.4g}"
        return Dose(None, None, None, None, Flag.NOT_REACHED, reason)
    if not pieces.size:
        return Dose(float(at.levels[-1]), None, None, None, None, "a straight line has no interval")
    i = int(pieces[0])
    low, high = float(at.levels[i]), float(at.levels[i + 1])
    share = float(-gap[i] / (gap[i + 1] - gap[i])) if gap[i] else 0.0
    found = low * (high / low) ** share if logarithmic and low > 0 else low + share * (high - low)
    flag = Flag.AMBIGUOUS if pieces.size > 1 else None
    reason = "the means cross that response more than once" if flag else "a straight line has no interval"
    return Dose(found, None, None, None, flag, reason)
