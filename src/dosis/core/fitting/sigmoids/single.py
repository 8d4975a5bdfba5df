"""One ordinary logistic curve in plain numbers: for so little arithmetic, calls of array functions cost more."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from dosis.core.fitting.sigmoids.descent import CLOSE, EXACT, NEAR

MOST = 14
FLAT = 1e-12


@dataclass(frozen=True, slots=True)
class Ended:
    """Where the descent ended: u = a + b·t, the plateaus of the scaled y, ½ Σ w·r²."""

    a: float
    b: float
    lower: float
    rise: float
    half_sse: float


def descend_one(
    t: Sequence[float], y: Sequence[float], w: Sequence[float], a: float, b: float, pure: float, total: float
) -> Ended | None:
    """The minimum reached from (a, b) by full steps; None where it takes more than that.

    The same equations as `state.slopes` and `descent.descend`: Gauss–Newton steps with the plateaus eliminated, exact
    Newton steps near the end. A step that does not lead down, or a matrix that is not positive definite, is left to
    the array program.
    """
    weight = math.fsum(w)
    exact, before = 0.0, math.inf
    for _ in range(MOST):
        h, mean, size, product = _plateaus(t, y, w, weight, a, b)
        if size < FLAT * weight:
            return None
        rise = product / size
        half = m0 = m1 = c0 = c1 = r0 = r1 = s0 = s1 = s2 = 0.0
        for x, yi, wi, hi in zip(t, y, w, h, strict=True):
            centred = hi - mean
            residual = yi - rise * centred
            first = hi * (1.0 - hi)
            pull = wi * first
            half += wi * residual * residual
            m0 += pull
            c0 += centred * pull
            r0 += residual * pull
            bend = pull * (rise * rise * first - exact * rise * residual * (1.0 - 2.0 * hi))
            s0 += bend
            if first:  # a zero dose lies infinitely far below, where nothing bends
                m1 += pull * x
                c1 += centred * pull * x
                r1 += residual * pull * x
                s1 += bend * x
                s2 += bend * x * x
        half *= 0.5
        if half > before * (1 + 1e-12):
            return None
        before = half
        square = rise * rise / weight
        l0, l1 = rise * c0 - exact * r0, rise * c1 - exact * r1
        haa = s0 - square * m0 * m0 - l0 * l0 / size
        hab = s1 - square * m0 * m1 - l0 * l1 / size
        hbb = s2 - square * m1 * m1 - l1 * l1 / size
        determinant = haa * hbb - hab * hab
        if not (haa > 0 and determinant > 1e-9 * haa * hbb):
            return None
        da = rise * (hbb * r0 - hab * r1) / determinant
        db = rise * (haa * r1 - hab * r0) / determinant
        promise = 0.5 * rise * (r0 * da + r1 * db)
        if abs(da) + abs(db) > 3.0 + 0.5 * abs(b) or b + db <= 0:
            return None
        a, b = a + da, b + db
        level = half + 0.5 * pure
        if promise <= CLOSE * level + EXACT * total:
            _, mean, size, product = _plateaus(t, y, w, weight, a, b)
            return Ended(a, b, -product / size * mean, product / size, half)
        exact = 1.0 if promise <= NEAR * level else 0.0
    return None


def _plateaus(
    t: Sequence[float], y: Sequence[float], w: Sequence[float], weight: float, a: float, b: float
) -> tuple[list[float], float, float, float]:
    """h at every place, its weighted mean, and the sums whose ratio is the rise."""
    h = [1.0 / (1.0 + math.exp(-(a + b * x))) if a + b * x > -700.0 else 0.0 for x in t]
    mean = size = product = 0.0
    for wi, hi in zip(w, h, strict=True):
        mean += wi * hi
    mean /= weight
    for wi, hi, yi in zip(w, h, y, strict=True):
        centred = wi * (hi - mean)
        size += centred * (hi - mean)
        product += centred * yi
    return h, mean, size, product
