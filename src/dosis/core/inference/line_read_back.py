"""Reading back through a line: Fieller's interval, in plain numbers, for a sample or for many."""

from collections.abc import Sequence

import numpy as np

from dosis.core.inference.fitted import Fitted
from dosis.core.inference.read_back import Flag, ReadBack, delta_standard_error, fieller

SLACK = 1e-12  # of the range: a standard reads back as itself, whatever the last bit says
FLAT = "the slope is not different from zero at this level, so the interval has no end"


def read_back_line(
    fit: Fitted, signals: Sequence[float], counts: Sequence[float], level: float, weight: float | None
) -> list[ReadBack]:
    """The x at which a line that is not flat gives each signal, with its interval and a flag outside the standards.

    signals, counts : mean readings and how many each stands for; weight : of one reading, by default by the fit's rule.
    """
    intercept, slope, rmse = fit.named.get("intercept", 0.0), fit.named["slope"], fit.rmse
    low, high = fit.range
    slack = SLACK * max(abs(low), abs(high))
    line, t = fit.straight_line, 0.0 if rmse is None else fit.t(level)
    made = []
    for signal, count in zip(signals, counts, strict=True):
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
        variance = rmse * rmse * (1 / weight if weight else _factor(fit, signal, x)) / count
        lower, upper = fieller(line, signal, variance, t)
        error = delta_standard_error(line, x, variance)
        made.append(ReadBack(x, lower, upper, error, flag, reason or ("" if lower is not None else FLAT), count))
    return made


def _factor(fit: Fitted, signal: float, x: float) -> float:
    if fit.variance_rule is None:
        return float(fit.variance_factor(np.array(signal), np.array(x)))
    by_y, by_x = fit.variance_rule
    factor: float = abs(signal) ** by_y * abs(x) ** by_x
    return factor
