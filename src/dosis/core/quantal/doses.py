"""LD50 and any other dose from a quantal line: by the delta method, Fieller's theorem or the profile likelihood."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.inference.read_back import StraightLine, fieller
from dosis.core.inference.roots import bisect
from dosis.core.quantal.fitted import FittedLine
from dosis.core.quantal.links import LINKS
from dosis.core.quantal.shares import binomial_interval

Method = Literal["delta", "fieller", "profile"]
FURTHEST = 300.0  # log10 of a dose that is still a number


@dataclass(frozen=True, slots=True)
class LethalDose:
    """A dose with its interval; log_estimate and log_standard_error on the scale of the line.

    Without a partial response there is no estimate: lower and upper are then doses between which it lies, as far as
    the counts there tell at that level. An end of an interval that is open is None, and `reason` says so.
    """

    estimate: float | None
    lower: float | None
    upper: float | None
    log_estimate: float | None
    log_standard_error: float | None
    reason: str


def dose_for(fit: FittedLine, share: float, level: float, method: Method) -> LethalDose:
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
        return _between(fit, share, level)
    target = float(LINKS[fit.link].line(np.array([share]))[0])
    h = fit.widening
    (v00, v01), (_, v11) = (h * fit.covariance[:2, :2]).tolist()
    if fit.slope == 0 or not (v11 > 0 and math.isfinite(v00)):
        return LethalDose(None, None, None, None, None, "the response does not change with dose")
    x = (target - fit.intercept) / fit.slope
    if fit.log_dose and abs(x) > FURTHEST:
        return LethalDose(None, None, None, None, None, "the line is so flat that the dose is beyond all measure")
    quantile = fit.quantile(level)
    error = math.sqrt(max(v00 + 2 * x * v01 + x * x * v11, 0.0)) / abs(fit.slope)
    reason = "" if h == 1 else f"the fit is poor; the interval is widened by a heterogeneity factor of {h:.2f}"
    lower: float | None
    upper: float | None
    if method == "delta":
        lower, upper = x - quantile * error, x + quantile * error
    elif method == "fieller":
        # Where height and slope are independent: at the x that makes their covariance vanish.
        center = -v01 / v11
        line = StraightLine(center, fit.intercept + fit.slope * center, fit.slope, v00 - v01 * v01 / v11, v11)
        lower, upper = fieller(line, target, 0.0, quantile)
    else:
        with np.errstate(all="ignore"):
            lower, upper = _profile(fit, target, x, error, h * quantile**2)
    if lower is None or upper is None:
        reason = reason or "the slope is not different from zero at this level, so the interval has no end"
    return LethalDose(_dose(fit, x), _dose(fit, lower), _dose(fit, upper), x, error, reason)


def _dose(fit: FittedLine, x: float | None) -> float | None:
    if x is None:
        return None
    return 10.0 ** min(x, FURTHEST) if fit.log_dose else x


def _between(fit: FittedLine, share: float, level: float) -> LethalDose:
    """What can be said without a partial response: the doses of which the counts alone exclude that share.

    A dose is below if so few affected, and above if so many, would be seen there with at most (1 − level)/2 were the
    share affected exactly this one (Clopper & Pearson 1934). None of 20 exclude a half, but not a tenth.
    """
    below: list[tuple[float, str]] = []
    above: list[tuple[float, str]] = []
    for dose, r, n in sorted(zip(fit.dose.tolist(), fit.affected.tolist(), fit.exposed.tolist(), strict=True)):
        if dose == 0 and fit.log_dose:
            continue
        low, high = binomial_interval(r, n, level)
        counted = f"{r:g} of {n:g} at {dose:g}"
        if high < share:
            below.append((dose, counted))
        elif low > share:
            above.append((dose, counted))
    lower, upper = max(below, default=None), min(above, default=None)
    if lower is not None and upper is not None and lower[0] >= upper[0]:
        said = f"{fit.message} The response falls as the dose rises, so nothing can be said."
        return LethalDose(None, None, None, None, None, said)
    sure = f"with {50 * (1 + level):g} % confidence each (exact binomial)"
    if lower is not None and upper is not None:
        said = f"{fit.message} It lies between {lower[0]:g} and {upper[0]:g}: {lower[1]}, {upper[1]}, {sure}."
    elif lower is not None:
        said = f"{fit.message} It lies above {lower[0]:g}: {lower[1]}, {sure.replace(' each', '')}."
    elif upper is not None:
        said = f"{fit.message} It lies below {upper[0]:g}: {upper[1]}, {sure.replace(' each', '')}."
    else:
        said = f"{fit.message} Too few were exposed at any dose to exclude {100 * share:g} % there."
    ends = (None if lower is None else lower[0], None if upper is None else upper[0])
    return LethalDose(None, *ends, None, None, said)


def _profile(fit: FittedLine, target: float, x: float, error: float, rise: float) -> tuple[float | None, float | None]:
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


def _best_deviance(fit: FittedLine, target: float, at: float) -> float:
    """Lowest deviance over lines through (at, target), by Fisher scoring on the slope.

    A background that was estimated is fitted anew with it, to the controls as well as the doses.
    """
    estimated = fit.background_of == "estimated"
    dosed = np.isfinite(fit.x)
    u, r, n = np.where(dosed, fit.x - at, 0.0), fit.affected, fit.exposed
    if not estimated:
        u, r, n, dosed = u[dosed], r[dosed], n[dosed], dosed[dosed]

    def shares(theta: Array) -> tuple[Array, Array, Array]:
        line = target + theta[0] * u
        below, density = LINKS[fit.link].share(line) * dosed, LINKS[fit.link].density(line) * dosed
        p = np.clip(theta[1] + (1 - theta[1]) * below, 1e-300, 1 - 1e-16)
        return p, (1 - theta[1]) * density * u, 1 - below

    def deviance(theta: Array) -> float:
        p = shares(theta)[0]
        return float(2 * (special.xlogy(r, r / (n * p)) + special.xlogy(n - r, (n - r) / (n * (1 - p)))).sum())

    theta = np.array([fit.slope, fit.background if estimated else 0.0])
    now = deviance(theta)
    for _ in range(100):
        p, by_slope, by_base = shares(theta)
        weight = n / (p * (1 - p))
        pull = (r - n * p) / (p * (1 - p))
        columns = np.stack((by_slope, by_base), axis=1)
        gradient = pull @ columns
        free = [0, 1] if estimated and (theta[1] > 0 or gradient[1] > 0) else [0]
        information = (columns[:, free] * weight[:, None]).T @ columns[:, free]
        step = np.zeros(2)
        step[free] = np.linalg.lstsq(information, gradient[free], rcond=None)[0]
        for _halving in range(40):
            tried = theta + step
            tried[1] = min(max(tried[1], 0.0), 0.999)
            after = deviance(tried)
            if after <= now:
                break
            step = step / 2
        else:
            break
        moved, theta, now = float(np.abs(tried - theta).max()), tried, after
        if moved <= 1e-12 * (1 + float(np.abs(theta).max())):
            break
    return now
