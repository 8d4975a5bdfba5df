"""The x at which a sigmoid gives each of many signals, and on which side of the standards it lies, compiled."""

import math

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.minimum import curve_at
from dosis.core.fitting.sigmoids.shape import GOMPERTZ, LOGISTIC, POWERED

SAME = 1e-13  # of an end of a span within which an x is that end
INSIDE, ABOVE, BELOW = 0, 1, 2


@inlined
def x_at(form: int, logarithmic: bool, inverse: bool, p: Array, y: float) -> float:
    """The x at which the curve is y; NaN where it never is. p : as for `curve_at`."""
    rise = p[1] - p[0]
    h, rest = (y - p[0]) / rise, (p[1] - y) / rise
    if not (h >= 0 and rest >= 0):
        return math.nan
    if form == LOGISTIC:
        u = math.log(h) - math.log(rest)
    elif form == POWERED:
        w = -math.log(h) / p[4]
        u = -(w + math.log(-math.expm1(-w)))  # −ln(e^w − 1), also where e^w is not a number
    elif form == GOMPERTZ:
        u = -math.log(-math.log(h))
    else:
        u = math.log(-math.log(rest))
    t = u * p[3] if inverse else u / p[3]
    return math.exp(math.log(p[2]) + t) if logarithmic else p[2] + t


@inlined
def within(x: float, low: float, high: float) -> float:
    """x where it lies in a span, ends included, one of which it is when it is that close; else NaN."""
    if abs(x - low) <= SAME * abs(low):
        return low
    if abs(x - high) <= SAME * abs(high):
        return high
    return x if low <= x <= high else math.nan


@compiled
def located(
    form: int, logarithmic: bool, inverse: bool, p: Array, signals: Array, spans: Array
) -> tuple[Array, Rows]:  # fmt: skip
    """x (m,) of signals (m,), NaN where there is none, and whether inside, above or below the standards (m,).

    spans : (3, 2) lowest and highest x inside, above and below at which an x is looked for. p : as for `curve_at`.
    """
    first = curve_at(form, logarithmic, inverse, p, spans[INSIDE, 0])[0]
    last = curve_at(form, logarithmic, inverse, p, spans[INSIDE, 1])[0]
    found, sides = np.empty(signals.size), np.zeros(signals.size, dtype=np.intp)
    for i in range(signals.size):
        x = x_at(form, logarithmic, inverse, p, signals[i])
        found[i] = within(x, spans[INSIDE, 0], spans[INSIDE, 1])
        if not math.isfinite(found[i]):
            sides[i] = ABOVE if (last > first) == (signals[i] > max(first, last)) else BELOW
            found[i] = within(x, spans[sides[i], 0], spans[sides[i], 1])
    return found, sides
