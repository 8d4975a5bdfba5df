"""LD50 and any other dose from a quantal line: by the delta method, Fieller's theorem or the profile likelihood."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.read_back import StraightLine, fieller
from dosis.core.inference.roots import bisect_all
from dosis.core.quantal.fitted import FittedLine
from dosis.core.quantal.links import LINKS
from dosis.core.quantal.scoring import NONE, deviance_of, scoring_step
from dosis.core.quantal.shares import binomial_interval

Method = Literal["delta", "fieller", "profile"]
OUTERMOST = 200.0  # standard errors to which the end of a profile interval is looked for
CLOSE = 1e-9  # in roots of deviance, the end of a profile interval
LITTLE = 0.1  # of one affected, a background to begin with where there seems to be none
SETTLED = 1e-14  # share of the deviance by which another step would lower it that is no use
FURTHEST = 30.0  # decades from the doses beyond which an end of an interval is none


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
    if fit.log_dose and abs(x - float(fit.x[np.isfinite(fit.x)].mean())) > FURTHEST:
        return LethalDose(None, None, None, None, None, "the line is so flat that the dose is beyond all measure")
    if not fit.log_dose and x < 0:
        why = (
            f"the line reaches that share at {x:.3g}, below zero dose; it may be straight on the logarithm of the dose"
        )
        return LethalDose(None, None, None, x, None, why)
    quantile = fit.quantile(level)
    error = math.sqrt(max(v00 + 2 * x * v01 + x * x * v11, 0.0)) / abs(fit.slope)
    reason = (
        ""
        if h == 1
        else f"the interval is widened by a heterogeneity factor of {h:.2f}, as the counts scatter more than by chance"
    )
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
            # Of a beta-binomial line the deviance is that of chance, over how much more the counts vary.
            beyond = 1 + (float(fit.exposed.mean()) - 1) * (fit.correlation or 0.0)
            lower, upper = _profile(fit, target, x, error, h * beyond * quantile**2)
    if lower is None or upper is None:
        reason = reason or "the slope is not different from zero at this level, so the interval has no end"
    ends = _dose(fit, lower), _dose(fit, upper)
    if None in ends:
        reason = reason or "the interval goes on further from the doses than says anything"
    return LethalDose(_dose(fit, x), *ends, x, error, reason)


def _dose(fit: FittedLine, x: float | None) -> float | None:
    """On the scale of the dose; an end further off than any dose is none, and one below zero is zero."""
    if x is None:
        return None
    if not fit.log_dose:
        return max(x, 0.0)
    return None if abs(x - float(fit.x[np.isfinite(fit.x)].mean())) > FURTHEST else 10.0**x


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
    through = _Through.of(fit, target)
    start = np.array([fit.slope, max(fit.background, LITTLE / fit.exposed.max()) if through.estimated else 0.0])
    known = {x: (0.0, start)}  # from the nearest line that has been fitted the next is soon found

    def excess(at: float) -> float:
        near = known[min(known, key=lambda each: abs(each - at))][1]
        deviance, theta = through.best(at, near)
        known[at] = deviance, theta
        # Roots of deviances lie along a straight line, nearly, on which the end is found in a few steps.
        over = math.sqrt(max(deviance - fit.deviance, 0.0)) - math.sqrt(rise)
        return 0.0 if abs(over) < CLOSE else over

    def bracket(side: float) -> tuple[float, float] | None:
        near, far = 0.0, 1.0
        while far < OUTERMOST:
            if excess(x + side * far * error) > 0:
                return x + side * near * error, x + side * far * error
            near, far = far, far * 1.6
        return None

    ends: list[float | None] = [None, None]
    for i, found in enumerate((bracket(-1.0), bracket(1.0))):
        if found is not None:
            low, high = (np.array([end]) for end in found)
            ends[i] = float(bisect_all(lambda at, _: np.array([excess(float(at[0]))]), low, high, 1e-11)[0])
    return ends[0], ends[1]


@dataclass(frozen=True, slots=True)
class _Through:
    """The counts, and lines through a point of which only the slope, and a background, is free."""

    fit: FittedLine
    target: float
    x: Array
    affected: Array
    exposed: Array
    dosed: Array
    estimated: bool

    @classmethod
    def of(cls, fit: FittedLine, target: float) -> "_Through":
        """Of a fit; its controls only where the background was fitted to them."""
        estimated = fit.background_of == "estimated"
        dosed = np.isfinite(fit.x)
        keep = np.ones_like(dosed) if estimated else dosed
        x = np.where(dosed, fit.x, 0.0)
        return cls(fit, target, x[keep], fit.affected[keep], fit.exposed[keep], dosed[keep].astype(float), estimated)

    def best(self, at: float, theta: Array) -> tuple[float, Array]:
        """Lowest deviance of lines through (at, target), and its slope and background, by Fisher scoring."""
        u, r, n, link = self.dosed * (self.x - at), self.affected, self.exposed, LINKS[self.fit.link]
        now, p, line = self._look(theta, u)
        for _ in range(60):
            c = theta[1]
            below = (p - c) / (1 - c)
            columns = np.stack(((1 - c) * link.density(line) * u * self.dosed, 1 - below), axis=1)
            variance = p * (1 - p)
            gradient: Array = ((r - n * p) / variance) @ columns
            information = (columns * (n / variance)[:, None]).T @ columns
            step = scoring_step(information, gradient, [0, 1] if self.estimated else [0])
            if step[1] < -0.9 * c:  # never quite to none, where the controls would hold the background fast
                step = 0.9 * c / -step[1] * step if c > NONE else scoring_step(information, gradient, [0])
            if float(gradient @ step) <= SETTLED * (1 + now):
                break
            for _halving in range(20):
                tried = np.array([theta[0] + step[0], min(max(c + step[1], 0.0), 0.999)])
                after, p_after, line_after = self._look(tried, u)
                if after <= now:
                    break
                step = step / 2
            else:
                break
            theta, now, p, line = tried, after, p_after, line_after
        return now, theta

    def _look(self, theta: Array, u: Array) -> tuple[float, Array, Array]:
        line = self.target + theta[0] * u
        p = theta[1] + (1 - theta[1]) * LINKS[self.fit.link].share(line) * self.dosed
        p = np.clip(p, 1e-300, 1 - 1e-16)
        return deviance_of(p, self.affected, self.exposed), p, line
