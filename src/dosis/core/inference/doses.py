"""The dose that has a given effect: relative and absolute ECx, with interval and flag."""

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.read_back import Flag
from dosis.core.inference.roots import bisect
from dosis.core.places import places

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit

FAR = 1e150  # stands for an endless dose; its square is still a number


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


@np.errstate(all="ignore")
def dose_at(fit: "Fit", effect: float, of: Literal["span", "response"], level: float) -> Dose:
    """The dose with `effect`: a share of the way from the plateau at no dose to that at endless dose, or a response.

    The variance follows from the curve's by the implicit function theorem (delta method).

    Raises
    ------
    ValueError : for a model without two plateaus, or a share outside 0 to 1.
    """
    model = fit.model
    if model.shape not in ("sigmoid", "saturating"):
        raise ValueError(f"{model.name} has no two plateaus to take a share of.")
    if of == "span" and not 0 < effect < 1:
        raise ValueError(f"The share of the span must lie between 0 and 1; here it is {effect:g}.")
    ends = np.array([0.0 if model.positive_x else -FAR, FAR])
    plateaus, at_ends = model.value_and_derivative(ends, fit.values)
    share = np.array([1 - effect, effect]) if of == "span" else np.zeros(2)
    target = float(share @ plateaus) if of == "span" else float(effect)
    if not min(plateaus) < target < max(plateaus):
        reason = f"not reached: the curve stays between {min(plateaus):.4g} and {max(plateaus):.4g}"
        return Dose(None, None, None, None, Flag.NOT_REACHED, reason)
    x = _solve(fit, target)
    flag, reason = None, ""
    low, high = fit.range
    if x > high:
        flag, reason = Flag.ABOVE_RANGE, "above the highest dose"
    elif x < (fit.x[fit.x > 0].min() if model.positive_x and (fit.x > 0).any() else low):
        flag, reason = Flag.BELOW_RANGE, "below the lowest dose"
    covariance = fit.settled
    if covariance is None:
        why = "the curve is too uncertain for an interval" if fit.rmse is not None else "no interval without a spread"
        return Dose(x, None, None, None, flag, reason or why)
    at = np.array([x])
    slope = float(model.gradient(at, fit.values)[0])
    pull: Array = (share @ at_ends - model.derivative(at, fit.values)[0]) / slope
    error = math.sqrt(max(float(pull @ covariance @ pull), 0.0))
    if not math.isfinite(error):
        return Dose(x, None, None, None, flag, reason or "the curve is too uncertain for an interval")
    half = fit.t(level) * error
    lower, upper = (
        (x * math.exp(-half / x), x * math.exp(min(half / x, 700))) if model.positive_x else (x - half, x + half)
    )
    return Dose(x, lower, upper, error, flag, reason)


def _solve(fit: "Fit", target: float) -> float:
    """The one x at which a curve between two plateaus has the target."""
    form, named = fit.model.sigmoid, fit.named
    if form is not None and form.shape == "logistic":
        above, below = target - named["lower"], named["upper"] - target
        steepness = 1 / named[form.steepness] if form.inverse_steepness else named[form.steepness]
        along = (math.log(abs(above)) - math.log(abs(below))) / steepness
        place = named[form.place]
        return math.exp(min(max(math.log(place) + along, -690.0), 690.0)) if form.logarithmic else place + along
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
    mean = np.bincount(at.group, y) / np.bincount(at.group)
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
