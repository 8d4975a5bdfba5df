"""LD50 and any other dose from a quantal line: by the delta method, Fieller's theorem or the profile likelihood."""

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from dosis.core import special
from dosis.core.distributions import t_quantile
from dosis.core.inference.read_back import StraightLine, fieller
from dosis.core.inference.roots import bisect
from dosis.core.quantal.links import LINKS

if TYPE_CHECKING:
    from dosis.core.quantal.model import QuantalFit

Method = Literal["delta", "fieller", "profile"]
FURTHEST = 300.0  # log10 of a dose that is still a number


@dataclass(frozen=True, slots=True)
class LethalDose:
    """A dose with its interval; log_estimate and log_standard_error on the scale of the line.

    Without a partial response there is no estimate: lower and upper are then the doses between which it lies. An end
    of an interval that is open is None, and `reason` says so.
    """

    estimate: float | None
    lower: float | None
    upper: float | None
    log_estimate: float | None
    log_standard_error: float | None
    reason: str


def dose_for(fit: "QuantalFit", share: float, level: float, method: Method) -> LethalDose:
    """The dose that affects `share` (0 to 1, above background).

    With a poor fit (see `QuantalFit.widening`) the covariance is multiplied by the heterogeneity factor and t takes
    the place of the normal quantile (Finney 1971, chapter 4); the profile is of the deviance over that factor.

    Raises
    ------
    ValueError : for a share outside 0 to 1, or an unknown method.
    """
    if not 0 < share < 1:
        raise ValueError(f"The share must lie between 0 and 1; here it is {share:g}.")
    if method not in ("delta", "fieller", "profile"):
        raise ValueError(f"There is no method “{method}”. Known: delta, fieller, profile.")
    if not fit.converged:
        return _between(fit, share)
    target = float(LINKS[fit.link].line(np.array([share]))[0])
    h = fit.widening
    (v00, v01), (_, v11) = (h * fit.covariance[:2, :2]).tolist()
    if fit.slope == 0 or not (v11 > 0 and math.isfinite(v00)):
        return LethalDose(None, None, None, None, None, "the response does not change with dose")
    x = (target - fit.intercept) / fit.slope
    if fit.log_dose and abs(x) > FURTHEST:
        return LethalDose(None, None, None, None, None, "the line is so flat that the dose is beyond all measure")
    quantile = t_quantile((1 + level) / 2, fit.degrees_of_freedom) if h > 1 else float(special.ndtri((1 + level) / 2))
    error = math.sqrt(max(v00 + 2 * x * v01 + x * x * v11, 0.0)) / abs(fit.slope)
    reason = "" if h == 1 else f"the fit is poor; the interval is widened by a heterogeneity factor of {h:.2f}"
    lower: float | None
    upper: float | None
    if method == "delta":
        lower, upper = x - quantile * error, x + quantile * error
    elif method == "fieller":
        # Where height and slope are independent: at the x that makes their covariance vanish.
        centre = -v01 / v11
        line = StraightLine(centre, fit.intercept + fit.slope * centre, fit.slope, v00 - v01 * v01 / v11, v11)
        lower, upper = fieller(line, target, 0.0, quantile)
    else:
        with np.errstate(all="ignore"):
            lower, upper = _profile(fit, target, x, error, h * quantile**2)
    if lower is None or upper is None:
        reason = reason or "the slope is not different from zero at this level, so the interval has no end"
    return LethalDose(_dose(fit, x), _dose(fit, lower), _dose(fit, upper), x, error, reason)


def _dose(fit: "QuantalFit", x: float | None) -> float | None:
    if x is None:
        return None
    return 10.0 ** min(x, FURTHEST) if fit.log_dose else x


def _between(fit: "QuantalFit", share: float) -> LethalDose:
    """What can be said without a partial response: the doses between which the share lies."""
    found = fit.affected / fit.exposed
    low, high = fit.dose[found < share], fit.dose[found > share]
    lower = float(low.max()) if low.size else None
    upper = float(high.min()) if high.size else None
    if lower is not None and upper is not None:
        said = f"{fit.message} It lies between {lower:g} and {upper:g}."
    elif lower is not None:
        said = f"Not reached: it lies above the highest dose, {lower:g}."
    else:
        said = f"Exceeded at every dose: it lies below the lowest, {upper:g}." if upper is not None else fit.message
    return LethalDose(None, lower, upper, None, None, said)


def _profile(
    fit: "QuantalFit", target: float, x: float, error: float, rise: float
) -> tuple[float | None, float | None]:
    """Every x whose line through (x, target), its slope fitted anew, has a deviance within `rise` of the lowest."""

    def excess(at: float) -> float:
        return _best_deviance(fit, target, at) - fit.deviance - rise

    def end(direction: float) -> float | None:
        near, far = 0.0, 1.0
        while far < 200:
            if excess(x + direction * far * error) > 0:
                return bisect(excess, *sorted((x + direction * near * error, x + direction * far * error)))
            near, far = far, far * 1.7
        return None

    return end(-1.0), end(1.0)


def _best_deviance(fit: "QuantalFit", target: float, at: float) -> float:
    """Lowest deviance over the slope of lines through (at, target), by Fisher scoring; no background."""
    dosed = np.isfinite(fit.x)
    u, r, n = fit.x[dosed] - at, fit.affected[dosed], fit.exposed[dosed]
    slope = fit.slope
    for _ in range(100):
        line = target + slope * u
        p = np.clip(LINKS[fit.link].share(line), 1e-300, 1 - 1e-16)
        gain = LINKS[fit.link].density(line) * u
        information = float((n * gain * gain / (p * (1 - p))).sum())
        step = float(((r - n * p) * gain / (p * (1 - p))).sum()) / information if information > 0 else 0.0
        slope += step
        if abs(step) <= 1e-12 * (1 + abs(slope)):
            break
    p = np.clip(LINKS[fit.link].share(target + slope * u), 1e-300, 1 - 1e-16)
    return float(2 * (special.xlogy(r, r / (n * p)) + special.xlogy(n - r, (n - r) / (n * (1 - p)))).sum())
