"""The best curve with a kink: an exponential up to it and level beyond, as a sigmoid with its power towards zero.

Between two places where the kink may lie the plateau beyond is free, so given the steepness both parts are linear, and
sums that grow from place to place give the best of every interval at once.
"""

import math

import numpy as np

from dosis.core.arrays import Array, Flags, Rows
from dosis.core.fitting.sigmoids.arithmetic import exponential
from dosis.core.fitting.sigmoids.compiled import compiled, inlined
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.look import ROWS, TINY
from dosis.core.fitting.sigmoids.search import Steps, descend_once
from dosis.core.fitting.sigmoids.shape import NOWHERE

POWER, SHARPLY = -4.0, 14.0  # greatest ln g, and least u between places, of the curve that is begun with
STRAIGHT, SLOPES = 0.001, 11  # k of a straight line that ends in a kink, and how many others
TOWARDS_GOMPERTZ, FAR_DOWN = 13.0, 0.1  # ln g and b of a Gompertz curve so far down that it is all but an exponential
ALIKE = 1e-11  # mean square of a shape about its mean below which it is level
# How much more than the best a kink may leave unexplained, an exponential may, and of the whole besides.
WITHIN, ALMOST, SLACK = 1.05, 3.0, 0.001


def steepnesses(curves: Curves) -> Array:
    """Steepnesses k of kinks to try, from all but straight lines to steps between neighboring places."""
    return np.concatenate(([STRAIGHT], np.geomspace(0.3, 20.0 / curves.gap, SLOPES)))


@compiled
def begin_at_kinks(
    form: int, sign: float, t: Array, y: Array, w: Array, pure: Array, total: Array, closest: float, slopes: Array,
    several: int, steps: Steps, theta: Array, half: Array, converged: Flags, side: Array,
) -> None:  # fmt: skip
    """Descend from the best curve with a kink of every curve where that is about as good as where it stands.

    slopes : steepnesses k to try; several : how many at most; the rest as for `descend_all`.
    """
    n = t.size
    if n < 3:
        return
    states, falls = np.empty((2, ROWS, n)), np.zeros((n, len(slopes)))
    order = np.arange(n) if t[0] < t[-1] else np.arange(n - 1, -1, -1)
    for i in range(1, n):
        for s in range(len(slopes)):
            falls[i, s] = exponential(-slopes[s] * (t[order[i]] - t[order[i - 1]]))[0]
    kinks, sums = np.empty((n, 3)), np.empty((5, len(slopes)))
    for c in range(len(y)):
        own = w[c if len(w) > 1 else 0]
        whole = best_kinks(t, y[c], own, order, slopes, falls, sums, kinks)
        for trial in range(several + 1):
            # Last the exponential without a kink: or a little less than one, far down on a Gompertz curve.
            i = int(kinks[: n - 1, 0].argmax()) if trial < several else n - 1
            sse, k, m = whole - kinks[i, 0], kinks[i, 1], kinks[i, 2]
            kinks[i, 0] = -math.inf
            if not sse < (WITHIN if trial < several else ALMOST) * 2.0 * half[c] + SLACK * total[c]:
                continue
            b = max(k * math.exp(-POWER), SHARPLY / closest)
            start = (-b * m, b, math.log(k / b))
            if trial == several:
                start = (TOWARDS_GOMPERTZ - math.log(k / FAR_DOWN), FAR_DOWN, TOWARDS_GOMPERTZ)
            at, end, there = descend_once(
                form, t, y[c], own, max(own.sum(), 1e-300), closest, pure[c], total[c], steps, half[c], start, states
            )
            if end < half[c]:
                theta[c, 0], theta[c, 1], theta[c, 2] = at
                half[c], converged[c], side[c] = end, there, sign


@inlined
def best_kinks(
    t: Array, y: Array, w: Array, order: Rows, slopes: Array, falls: Array, sums: Array, kinks: Array
) -> float:
    """The best kink up to every place: what it explains of Σ w·y², its steepness k and place; and Σ w·y².

    order : of rising t; falls : (n, slopes) e^(−k·Δt) from the place before; sums : (5, slopes), to work in;
    kinks : (n, 3), written over.
    """
    whole = all_w = all_y = s_w = s_y = 0.0
    for i in range(t.size):
        all_w += w[i]
        all_y += w[i] * y[i]
        whole += w[i] * y[i] * y[i]
        kinks[i, 0] = -math.inf
    # Sums over the places so far, with the exponential 1 at the last of them: Σ w·e, Σ w·e², Σ w·e·y.
    sums[:3] = 0.0
    for i in range(t.size):
        j = order[i]
        own, pull = w[j], w[j] * y[j]
        s_w += own
        s_y += pull
        t_w, t_y = all_w - s_w, all_y - s_y
        over, over_all = 1.0 / max(s_w, TINY), 1.0 / max(all_w, TINY)
        level_on = all_y * all_y * over_all
        levels = s_y * s_y * over + t_y * t_y / max(t_w, TINY)
        least = ALIKE * s_w
        for s in range(len(slopes)):
            fall = falls[i, s]
            s_e, s_ee, s_ey = sums[0, s] * fall + own, sums[1, s] * fall * fall + own, sums[2, s] * fall + pull
            sums[0, s], sums[1, s], sums[2, s] = s_e, s_ee, s_ey
            # The kink at this place: what is beyond is as at it.
            size = (s_ee + t_w) - (s_e + t_w) * (s_e + t_w) * over_all
            product = (s_ey + t_y) - (s_e + t_w) * all_y * over_all
            sums[3, s] = level_on + (product * product / size if size > least else 0.0)
            # The kink beyond it, before the next place: the plateau is free.
            size = s_ee - s_e * s_e * over
            product = s_ey - s_e * s_y * over
            sums[4, s] = levels + (product * product / size if size > least else 0.0)
        if i == 0 or t[j] <= NOWHERE:
            continue
        for s in range(len(slopes)):
            if sums[3, s] > kinks[i, 0]:
                kinks[i, 0], kinks[i, 1], kinks[i, 2] = sums[3, s], slopes[s], t[j]
            if i < t.size - 1 and t_w > 0 and sums[4, s] > kinks[i, 0]:
                rise = (sums[2, s] - sums[0, s] * s_y * over) / (sums[1, s] - sums[0, s] * sums[0, s] * over)
                level = (t_y / t_w - (s_y - rise * sums[0, s]) * over) / rise
                if level > 1.0 and level * falls[i + 1, s] < 1.0:
                    kinks[i, 0], kinks[i, 1], kinks[i, 2] = sums[4, s], slopes[s], t[j] + math.log(level) / slopes[s]
    return whole
