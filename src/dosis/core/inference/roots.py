"""Where a function of one variable changes sign."""

import math
from collections.abc import Callable

import numpy as np

from dosis.core.arrays import Array, Rows


def bisect(function: Callable[[float], float], low: float, high: float, flat: float = 0.0) -> float:
    """The root between `low` and `high`, where the signs differ, to the last bit that matters.

    flat : a value of the function so near zero that it counts as zero.
    Inverse quadratic interpolation where it is safe, else bisection (Chandrupatla 1997, Adv. Eng. Softw. 28, 145).
    """
    a, b = high, low
    fa, fb = function(a), function(b)
    if fb == 0:
        return b
    t = 0.5
    for _ in range(200):
        if abs(fa) <= flat:
            return a
        x = a + t * (b - a)
        fx = function(x)
        if (fx > 0) == (fa > 0):
            c, fc = a, fa
        else:
            c, fc, b, fb = b, fb, a, fa
        a, fa = x, fx
        best = a if abs(fa) < abs(fb) else b
        if fa == 0 or a == b:
            return a
        least = 2.2e-16 * abs(best) / abs(b - c) + 1e-300
        if least >= 0.5:
            return best
        xi, phi = (a - b) / (c - b), (fa - fb) / (fc - fb) if fc != fb else 1.0
        t = 0.5
        if phi * phi < xi and (1 - phi) ** 2 < 1 - xi and fa not in (fb, fc):
            t = fa / (fb - fa) * fc / (fb - fc) + (c - a) / (b - a) * fa / (fc - fa) * fb / (fc - fb)
            t = t if math.isfinite(t) else 0.5
        t = min(max(t, least), 1 - least)
    return a if abs(fa) < abs(fb) else b


@np.errstate(all="ignore")
def bisect_all(
    function: Callable[[Array, Rows], Array], low: Array, high: Array, relative: float = 4.5e-16
) -> Array:  # fmt: skip
    """The roots between every `low` and `high`, (m,) each, where the signs differ; NaN where they do not.

    function : (x, rows) → values, for the brackets of those rows.
    relative : how close, of the root; by default to the last bit that matters.

    Inverse quadratic interpolation where it is safe, else bisection (Chandrupatla 1997, Adv. Eng. Softw. 28, 145).
    """
    everything = np.arange(low.size)
    a, b = high.astype(float), low.astype(float)
    fa, fb = function(a, everything), function(b, everything)
    root = np.where(fb == 0, b, np.where(fa == 0, a, np.nan))
    rows = np.flatnonzero(np.isnan(root) & (np.sign(fa) * np.sign(fb) < 0))
    a, b, fa, fb, t = a[rows], b[rows], fa[rows], fb[rows], np.full(rows.size, 0.5)
    for _ in range(200):
        if not rows.size:
            break
        x = a + t * (b - a)
        fx = function(x, rows)
        same = np.sign(fx) == np.sign(fa)
        c, fc = np.where(same, a, b), np.where(same, fa, fb)
        b, fb = np.where(same, b, a), np.where(same, fb, fa)
        a, fa = x, fx
        best = np.where(np.abs(fa) < np.abs(fb), a, b)
        root[rows] = best
        least = np.minimum(relative * np.abs(best) / np.abs(b - c) + 1e-300, 0.6)
        go = (fa != 0) & (fb != 0) & (least < 0.5) & (a != b)
        xi, phi = (a - b) / (c - b), (fa - fb) / (fc - fb)
        safe = (phi * phi < xi) & ((1 - phi) ** 2 < 1 - xi)
        quick = fa / (fb - fa) * fc / (fb - fc) + (c - a) / (b - a) * fa / (fc - fa) * fb / (fc - fb)
        t = np.minimum(np.maximum(np.where(safe & np.isfinite(quick), quick, 0.5), least), 1 - least)
        rows, a, b, fa, fb, t = rows[go], a[go], b[go], fa[go], fb[go], t[go]
    return root


def outward(
    excess: Callable[[float], float],
    center: float,
    step: float,
    first: float,
    furthest: float = 40.0,
    flat: float = 0.0,
) -> tuple[float | None, float | None]:
    """Both sides at which `excess`, below zero at the center, turns positive; None where none does within reach.

    step : the scale, such as a standard error; first and furthest : steps at which to look at first and at last.
    flat : as of `bisect`.
    """

    def end(direction: float) -> float | None:
        near, far = 0.0, first
        while far <= furthest:
            if excess(center + direction * far * step) > 0:
                low, high = sorted((center + direction * near * step, center + direction * far * step))
                return bisect(excess, low, high, flat)
            near, far = far, far * 1.6
        return None

    return end(-1.0), end(1.0)
