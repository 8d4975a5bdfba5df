"""Reading back through a line: Fieller's interval, in plain numbers, for a sample or for many."""

import math

import numpy as np

from dosis.core.distributions import t_quantile
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.read_back import Flag, ReadBack, StraightLine, delta_standard_error, fieller
from dosis.core.inference.samples import Samples

SLACK = 1e-12  # of the range: a standard reads back as itself, whatever the last bit says
FLAT = "the slope is not different from zero at this level, so the interval has no end"
NO_PARTS = np.zeros(0)
Polynomial = tuple[float, float, float]  # in u = x − center: constant, linear and square part of a variance


def read_back_line(fit: Fitted, samples: Samples, level: float) -> list[ReadBack]:
    """The x at which a line that is not flat gives each signal, with its interval and a flag outside the standards."""
    intercept, slope, rmse = fit.named.get("intercept", 0.0), fit.named["slope"], fit.rmse
    low, high = fit.range
    slack = SLACK * max(abs(low), abs(high))
    line, probability = fit.straight_line, (1 + level) / 2
    carried = samples.carried(fit) if fit.common else None
    made = []
    for i, (signal, count) in enumerate(zip(samples.means.tolist(), samples.counts.tolist(), strict=True)):
        x = (signal - intercept) / slope
        flag, reason = None, ""
        if x > high + slack:
            flag, reason = Flag.ABOVE_RANGE, "above the top standard"
        elif x < low - slack:
            flag, reason = Flag.BELOW_RANGE, "below the lowest standard"
        if rmse is None:
            reason = reason or "no interval without a spread of the standards"
            made.append(ReadBack(x, None, None, None, flag, reason, count))
            continue
        constant, linear, square = _variance(fit, line, samples, i, x)
        u = x - line.center
        at = constant + u * (linear + u * square)
        df: float = fit.degrees_of_freedom
        parts, of_parts = NO_PARTS, 0.0
        if carried is not None:
            common = [_common(fit, k, float(carried[k, i]), line.center) for k in range(len(fit.common))]
            parts = np.array([c + u * (b + u * s) for c, b, s in common])
            of_parts = float(parts.sum())
            constant, linear, square = (sum(each) for each in zip((constant, linear, square), *common, strict=True))
        if carried is not None or samples.spread_of(i) is not None:
            df = samples.df(fit, i, at, line.variance_height + u * u * line.variance_slope, parts)
        lower, upper = fieller(line, signal, constant, t_quantile(probability, df), rising=(linear, square))
        error = delta_standard_error(line, x, at + of_parts)
        made.append(ReadBack(x, lower, upper, error, flag, reason or ("" if lower is not None else FLAT), count))
    return made


def _variance(fit: Fitted, line: StraightLine, samples: Samples, i: int, x: float) -> Polynomial:
    """Of the mean of a sample, over the x it may have: by the fit's rule the line's signal there decides."""
    own, count, rmse = samples.spread_of(i), float(samples.counts[i]), fit.rmse or 0.0
    if own is not None:
        return own.variance / count, 0.0, 0.0
    one, height, b, center = rmse * rmse / count, line.height, line.slope, line.center
    if samples.weight:
        return one / samples.weight, 0.0, 0.0
    if fit.turn is None and fit.variance_rule is None:
        return one * float(fit.variance_factor(np.array(samples.means[i]), np.array(x))), 0.0, 0.0
    side = math.copysign(1.0, float(samples.means[i])), math.copysign(1.0, x)
    return _by_rule(fit, one, ((height, b), (center, 1.0)), side)


def _by_rule(
    fit: Fitted, one: float, of: tuple[tuple[float, float], tuple[float, float]], side: tuple[float, float]
) -> Polynomial:  # fmt: skip
    """By the rule of the weights. of : constant and slope of the line and of x itself; side : their signs."""
    (height, b), _ = of
    if fit.turn is not None:
        share = one / (fit.turn * fit.turn)
        return one + share * height * height, 2 * share * height * b, share * b * b
    by_y, by_x = fit.variance_rule or (0, 0)
    power, axis = max(by_y, by_x), 0 if by_y else 1
    constant, rise = of[axis]
    if power == 1:
        return one * side[axis] * constant, one * side[axis] * rise, 0.0
    return (one * constant * constant, 2 * one * constant * rise, one * rise * rise) if power else (one, 0.0, 0.0)


def _common(fit: Fitted, k: int, carries: float, center: float) -> Polynomial:
    """What a common error adds to the variance of signal less line: (carries − shift of the line)²."""
    shift = dict(zip(fit.model.names, fit.shifts[k].tolist(), strict=True))
    variance, slope = fit.common[k].spread.variance, shift["slope"]
    rest = carries - shift.get("intercept", 0.0) - slope * center
    return variance * rest * rest, -2 * variance * rest * slope, variance * slope * slope
