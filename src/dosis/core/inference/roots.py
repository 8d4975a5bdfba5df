"""Where a function of one variable changes sign."""

from collections.abc import Callable

import numpy as np

from dosis.core.arrays import Array, Rows


def bisect(function: Callable[[float], float], low: float, high: float) -> float:
    """The root between `low` and `high`, where the signs differ, to the last bit that matters.

    Regula falsi in the Illinois form (Dowell & Jarratt 1971), with a bisection whenever it dawdles.
    """
    at_low, at_high = function(low), function(high)
    if at_low == 0:
        return low
    if at_high == 0:
        return high
    for turn in range(200):
        middle = high - at_high * (high - low) / (at_high - at_low) if turn % 3 else (low + high) / 2
        if not low < middle < high:
            middle = (low + high) / 2
        value = function(middle)
        if value == 0 or high - low <= 4e-16 * max(abs(low), abs(high)):
            return middle
        if (value > 0) == (at_low > 0):
            low, at_low, at_high = middle, value, at_high / 2
        else:
            high, at_high, at_low = middle, value, at_low / 2
    return (low + high) / 2


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
    excess: Callable[[float], float], center: float, step: float, first: float, furthest: float = 40.0
) -> tuple[float | None, float | None]:
    """Both sides at which `excess`, below zero at the center, turns positive; None where none does within reach.

    step : the scale, such as a standard error; first and furthest : steps at which to look at first and at last.
    """

    def end(direction: float) -> float | None:
        near, far = 0.0, first
        while far <= furthest:
            if excess(center + direction * far * step) > 0:
                return bisect(excess, *sorted((center + direction * near * step, center + direction * far * step)))
            near, far = far, far * 1.6
        return None

    return end(-1.0), end(1.0)
