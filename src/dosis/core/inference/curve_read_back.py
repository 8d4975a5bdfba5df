"""Reading back through a curve: the x that gives a signal, its interval by inverting the band of the curve.

Written for many samples at once: a plate has thirty, and each question to the curve costs as much for one as for all.
"""

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.roots import bisect_all

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit

POINTS = 240
TWICE = "the curve rises and falls, so the signal belongs to more than one concentration"


@np.errstate(all="ignore")
def read_back_through(
    fit: "Fit", signals: Array, counts: Array, level: float, weight: float | None
) -> list[ReadBack]:  # fmt: skip
    """The x in the range of the standards, or a little outside with a flag, at which the curve gives each signal.

    signals, counts : (m,) mean readings and how many each stands for.

    Both variances count, the curve's and the sample's; the interval holds every x whose band, of the mean of that many
    readings, holds the signal. A signal that belongs to two x inside the range, or to none at all, has no estimate.
    """
    grids = _grids(fit)
    there, x, flags = _located(fit, signals, grids)
    made: dict[int, ReadBack] = {}
    rmse = fit.rmse
    if fit.settled is None or rmse is None:
        why = "no interval, because the standards leave part of the curve open"
        why = why if rmse is not None else "no interval without a spread of the standards"
        for i, at in zip(there.tolist(), x.tolist(), strict=True):
            made[i] = ReadBack(at, None, None, None, flags[i], _beyond(flags[i]) or why, float(counts[i]))
    else:
        rest = _with_intervals(fit, rmse, signals[there], counts[there], x, level, weight, grids)
        for k, i in enumerate(there.tolist()):
            lower, upper, error = rest[k]
            reason = _beyond(flags[i])
            if not reason and (lower is None or upper is None):
                side = "on both sides" if lower is None and upper is None else "below" if lower is None else "above"
                reason = f"the curve is too flat there, so the interval has no end {side}"
            made[i] = ReadBack(float(x[k]), lower, upper, error, flags[i], reason, float(counts[i]))
    return [made.get(i) or _none(flags[i], float(counts[i])) for i in range(signals.size)]


@np.errstate(all="ignore")
def estimates_through(fit: "Fit", signals: Array) -> list[float | None]:
    """The x of each signal alone, as `read_back_through` finds it, without the work of an interval."""
    there, x, _ = _located(fit, signals, _grids(fit))
    found = dict(zip(there.tolist(), x.tolist(), strict=True))
    return [found.get(i) for i in range(signals.size)]


def _located(
    fit: "Fit", signals: Array, grids: Sequence[Array]
) -> tuple[Rows, Array, list[Flag | None]]:  # fmt: skip
    """Which signals have an x, that x, and a flag for every signal."""
    below, inside, above = grids
    first, last = fit.predict([fit.range[0], fit.range[1]]).tolist()
    found = _crossings(fit, signals, inside)
    flags: list[Flag | None] = [None] * signals.size
    for i, roots in enumerate(found):
        if len(roots) > 1 and roots[-1] - roots[0] > 1e-9 * (abs(roots[0]) + abs(roots[-1])):
            flags[i] = Flag.AMBIGUOUS
        elif not roots:
            beyond = bool(signals[i] > max(first, last))
            flags[i] = Flag.ABOVE_RANGE if (last > first) == beyond else Flag.BELOW_RANGE
    for flag, grid in ((Flag.ABOVE_RANGE, above), (Flag.BELOW_RANGE, below)):
        out = np.array([i for i, own in enumerate(flags) if own is flag], dtype=int)
        for i, roots in zip(out.tolist(), _crossings(fit, signals[out], grid), strict=True):
            found[i] = roots
    there = np.array([i for i, roots in enumerate(found) if roots and flags[i] is not Flag.AMBIGUOUS], dtype=int)
    return there, np.array([found[i][0] for i in there]), flags


def _beyond(flag: Flag | None) -> str:
    if flag is Flag.ABOVE_RANGE:
        return "above the top standard"
    return "below the lowest standard" if flag is Flag.BELOW_RANGE else ""


def _none(flag: Flag | None, count: float) -> ReadBack:
    reason = TWICE if flag is Flag.AMBIGUOUS else f"{_beyond(flag)}, beyond what the curve can reach"
    return ReadBack(None, None, None, None, flag, reason, count)


def _crossings(fit: "Fit", signals: Array, grid: Array) -> list[list[float]]:
    """Every x on the grid's range at which the curve gives each signal, refined."""
    gap = fit.predict(grid)[None, :] - signals[:, None]
    sign = np.sign(gap)
    found: list[list[float]] = [grid[row == 0].tolist() for row in sign]
    which, at = np.nonzero(sign[:, :-1] * sign[:, 1:] < 0)
    if which.size:
        roots = bisect_all(lambda x, rows: fit.predict(x) - signals[which[rows]], grid[at], grid[at + 1])
        for i, root in zip(which.tolist(), roots.tolist(), strict=True):
            found[i].append(root)
    return [sorted(roots) for roots in found]


def _with_intervals(
    fit: "Fit", rmse: float, signals: Array, counts: Array, x: Array, level: float,
    weight: float | None, grids: Sequence[Array],
) -> list[tuple[float | None, float | None, float | None]]:  # fmt: skip
    """Lower and upper end, None where open, and first-order standard error of each x."""
    factor = 1 / weight if weight else fit.variance_factor(signals, x)
    variance = rmse * rmse * factor / counts
    t = fit.t(level)

    def band(at: Array) -> tuple[Array, Array]:
        value, jacobian = fit.model.value_and_derivative(at, fit.values)
        return value, fit.variance_along(jacobian)

    def outside(at: Array, rows: Rows) -> Array:
        value, spread = band(at)
        left: Array = np.square(value - signals[rows]) - t * t * (variance[rows] + spread)
        return left

    everywhere = np.unique(np.concatenate(grids))
    value, spread = band(everywhere)
    past = np.square(value[None, :] - signals[:, None]) - t * t * (variance[:, None] + spread[None, :]) > 0
    ends: dict[tuple[int, int], tuple[float, float]] = {}
    for k, at in enumerate(x.tolist()):
        split = int(np.searchsorted(everywhere, at, side="left"))
        beyond = int(np.searchsorted(everywhere, at, side="right"))
        down, up = np.flatnonzero(past[k, :split][::-1]), np.flatnonzero(past[k, beyond:])
        if down.size:
            stop = split - 1 - int(down[0])
            near = at if down[0] == 0 else float(everywhere[stop + 1])
            ends[k, 0] = float(everywhere[stop]), near
        if up.size:
            stop = beyond + int(up[0])
            near = at if up[0] == 0 else float(everywhere[stop - 1])
            ends[k, 1] = near, float(everywhere[stop])
    solved: dict[tuple[int, int], float] = {}
    if ends:
        rows = np.array([k for k, _ in ends])
        low, high = np.array(list(ends.values())).T
        roots = bisect_all(lambda at, some: outside(at, rows[some]), low, high)
        solved = dict(zip(ends, roots.tolist(), strict=True))
    _, own = band(x)
    slope = np.abs(fit.model.gradient(x, fit.values))
    error = np.sqrt(np.maximum(variance + own, 0.0)) / slope
    return [
        (solved.get((k, 0)), solved.get((k, 1)), float(e) if math.isfinite(e) else None) for k, e in enumerate(error)
    ]


def _grids(fit: "Fit") -> tuple[Array, Array, Array]:
    """Points below the range of the standards, inside and above it: logarithmic for a dose, even otherwise."""
    low, high = fit.range
    if fit.model.positive_x:
        levels = fit.x[fit.x > 0]
        first = float(levels.min()) if levels.size else high
        inside = np.geomspace(first, high, POINTS)
        below = np.geomspace(first / 100, first, POINTS // 4)
        if low == 0:
            inside, below = np.concatenate(([0.0], below, inside)), np.zeros(1)
        return below, inside, np.geomspace(high, high * 100, POINTS // 4)
    span = high - low
    return (
        np.linspace(low - span, low, POINTS // 2),
        np.linspace(low, high, POINTS),
        np.linspace(high, high + span, POINTS // 2),
    )
