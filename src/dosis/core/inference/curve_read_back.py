"""Reading back through a curve: the x that gives a signal, its interval by inverting the band of the curve.

Written for many samples at once: a plate has thirty, and each question to the curve costs as much for one as for all.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np

from dosis.core.arrays import Array, Rows, geometric
from dosis.core.distributions import t_quantile
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.roots import bisect_all
from dosis.core.inference.samples import Samples

Span = tuple[float, float]
Crossings = Callable[[int, Span], list[float]]  # every x in a span at which the curve gives the i-th signal
SIDES = (None, Flag.ABOVE_RANGE, Flag.BELOW_RANGE)
POINTS = 240
CLOSE = 1e-12  # of an x, to which the ends of an interval are found
SAME = 1e-13  # of an end of the range within which an x is that end
TWICE = "the curve rises and falls, so the signal belongs to more than one concentration"


@np.errstate(all="ignore")
def read_back_through(fit: Fitted, reach: "Reach", samples: Samples, level: float) -> list[ReadBack]:
    """The x in the range of the standards, or a little outside with a flag, at which the curve gives each signal.

    reach : where an x is looked for.

    Both variances count, the curve's and the sample's; the interval holds every x whose band, of the mean of that many
    readings, holds the signal. A signal that belongs to two x inside the range, or to none at all, has no estimate.
    """
    signals = samples.means
    there, x, flags = _located(fit, signals, reach)
    made: dict[int, ReadBack] = {}
    rmse, found, n = fit.rmse, x.tolist(), samples.counts.tolist()
    if fit.settled is None or rmse is None:
        why = "no interval, because the standards leave part of the curve open"
        why = why if rmse is not None else "no interval without a spread of the standards"
        for i, at in zip(there.tolist(), found, strict=True):
            made[i] = ReadBack(at, None, None, None, flags[i], _beyond(flags[i]) or why, n[i])
    else:
        rest = _with_intervals(fit, samples, there, x, level, reach.everywhere)
        for i, at, (lower, upper, error) in zip(there.tolist(), found, rest, strict=True):
            reason = _beyond(flags[i]) if flags[i] else ""
            if not reason and (lower is None or upper is None):
                side = "on both sides" if lower is None and upper is None else "below" if lower is None else "above"
                reason = f"the curve is too flat there, so the interval has no end {side}"
            made[i] = ReadBack(at, lower, upper, error, flags[i], reason, n[i])
    return [made.get(i) or _none(flags[i], n[i]) for i in range(signals.size)]


def estimates_through(fit: Fitted, reach: "Reach", signals: Array) -> list[float | None]:
    """The x of each signal alone, as `read_back_through` finds it, without the work of an interval."""
    if fit.is_sigmoid:
        return [x if math.isfinite(x) else None for x in _on_sigmoid(fit, signals, reach)[0].tolist()]
    with np.errstate(all="ignore"):
        there, x, _ = _located(fit, signals, reach)
    found = dict(zip(there.tolist(), x.tolist(), strict=True))
    return [found.get(i) for i in range(signals.size)]


def _located(fit: Fitted, signals: Array, reach: "Reach") -> tuple[Rows, Array, list[Flag | None]]:
    """Which signals have an x, that x, and a flag for every signal."""
    if fit.is_sigmoid:
        x, sides = _on_sigmoid(fit, signals, reach)
        finite = np.flatnonzero(np.isfinite(x))
        return finite, x[finite], [SIDES[side] for side in sides.tolist()]
    first, last = fit.predict(fit.range).tolist()
    closed = fit.model.inverse(signals, fit.values)
    within = _searched(fit, signals, reach) if closed is None else _sorted_out(closed.tolist())
    found = [within(i, reach.inside) for i in range(signals.size)]
    flags: list[Flag | None] = [None] * signals.size
    for i, roots in enumerate(found):
        if len(roots) > 1 and roots[-1] - roots[0] > 1e-9 * (abs(roots[0]) + abs(roots[-1])):
            flags[i] = Flag.AMBIGUOUS
        elif not roots:
            beyond = bool(signals[i] > max(first, last))
            flags[i] = Flag.ABOVE_RANGE if (last > first) == beyond else Flag.BELOW_RANGE
            found[i] = within(i, reach.above if flags[i] is Flag.ABOVE_RANGE else reach.below)
    there = [i for i, roots in enumerate(found) if roots and flags[i] is not Flag.AMBIGUOUS]
    return np.array(there, dtype=int), np.array([found[i][0] for i in there]), flags


def _on_sigmoid(fit: Fitted, signals: Array, reach: "Reach") -> tuple[Array, Rows]:
    """The x of each signal, NaN for none, and its side, in a compiled loop; such a curve never turns round."""
    from dosis.core.fitting.sigmoids.inverse import located

    return located(*fit.laid_out, signals, reach.spans)


def _beyond(flag: Flag | None) -> str:
    if flag is Flag.ABOVE_RANGE:
        return "above the top standard"
    return "below the lowest standard" if flag is Flag.BELOW_RANGE else ""


def _none(flag: Flag | None, count: float) -> ReadBack:
    reason = TWICE if flag is Flag.AMBIGUOUS else f"{_beyond(flag)}, beyond what the curve can reach"
    return ReadBack(None, None, None, None, flag, reason, count)


def _sorted_out(closed: list[list[float]]) -> Crossings:
    """Of every x in closed form, those in a span; one beside its end is the end."""

    def within(i: int, span: Span) -> list[float]:
        low, high = span
        found = []
        for x in closed[i]:
            at = low if abs(x - low) <= SAME * abs(low) else high if abs(x - high) <= SAME * abs(high) else x
            if low <= at <= high:
                found.append(at)
        return sorted(found)

    return within


def _searched(fit: Fitted, signals: Array, reach: "Reach") -> Crossings:
    """The same from a grid, all signals at once, and refined."""

    @cache
    def every(span: Span) -> list[list[float]]:
        grid = reach.grid(span)
        gap = fit.predict(grid)[None, :] - signals[:, None]
        sign = np.sign(gap)
        found: list[list[float]] = [grid[row == 0].tolist() for row in sign]
        which, at = np.nonzero(sign[:, :-1] * sign[:, 1:] < 0)
        if which.size:
            roots = bisect_all(lambda x, rows: fit.predict(x) - signals[which[rows]], grid[at], grid[at + 1])
            for i, root in zip(which.tolist(), roots.tolist(), strict=True):
                found[i].append(root)
        return [sorted(roots) for roots in found]

    return lambda i, span: every(span)[i]


def _with_intervals(
    fit: Fitted, samples: Samples, there: Rows, x: Array, level: float, grid: Array
) -> list[list[float | None]]:  # fmt: skip
    """Lower and upper end, None where open, and first-order standard error of each x, of the samples `there`."""
    steady = not fit.common and (samples.weight is not None or fit.variance_rule == (0, 0))
    rows = (_by_sigmoid if steady and fit.has_sigmoid_band else _by_grid)(fit, samples, there, x, level, grid)
    found: list[list[float | None]] = rows.tolist()
    for i in np.flatnonzero(~np.isfinite(rows).all(axis=1)).tolist():
        found[i] = [end if math.isfinite(end) else None for end in rows[i].tolist()]
    return found


def _by_sigmoid(fit: Fitted, samples: Samples, there: Rows, x: Array, level: float, grid: Array) -> Array:
    """The ends and errors (m, 3) in compiled loops, for variances that are the same at every x."""
    from dosis.core.fitting.sigmoids.band import read_by_band

    signals = samples.means[there]
    variance = samples.variance(fit, there, signals, x)
    quantiles = _quantiles(fit, samples, there, x, variance, level)
    usual, (form, logarithmic, inverse, p, root) = fit.t(level), fit.as_sigmoid
    found = np.empty((there.size, 3))
    for quantile in np.unique(quantiles).tolist():
        some = quantiles == quantile
        # One quantile for both variances: another one is the same as a wider spread.
        wider = quantile / usual
        found[some] = read_by_band(
            form, logarithmic, inverse, p, wider * root, signals[some], wider**2 * variance[some], usual, x[some], grid
        )  # fmt: skip
        found[some, 2] /= wider
    return found


def _by_grid(fit: Fitted, samples: Samples, there: Rows, x: Array, level: float, grid: Array) -> Array:
    """The same for any curve, and for variances that change along it."""
    signals = samples.means[there]
    variance = samples.variance(fit, there, signals, x)
    quantiles = _quantiles(fit, samples, there, x, variance, level)
    _, own, slope = fit.along(x)
    if fit.common:
        own = own + _carried(fit, samples.carried(fit)[:, there], x).diagonal()
    errors = np.sqrt(np.maximum(variance + own, 0.0)) / np.abs(slope)
    return np.column_stack((_ends(fit, samples, there, quantiles, x, grid), errors))


def _quantiles(fit: Fitted, samples: Samples, there: Rows, x: Array, variance: Array, level: float) -> Array:
    """Student's t of each sample, by what its variance is made of."""
    found = np.full(there.size, fit.t(level))
    if not fit.common and not any(samples.own):
        return found
    curve, parts = fit.mean_at(x)[1], np.zeros((0, there.size))
    if fit.common:
        gradients = fit.model.derivative(x, fit.values)
        curve = curve - fit.common_parts(gradients).sum(axis=0)
        parts = fit.common_parts(gradients, samples.carried(fit)[:, there])
    for k, row in enumerate(there.tolist()):
        df = samples.df(fit, row, float(variance[k]), max(float(curve[k]), 0.0), parts[:, k])
        found[k] = t_quantile((1 + level) / 2, df)
    return found


def _carried(fit: Fitted, carries: Array, x: Array) -> Array:
    """What is to be added to the variance of the curve at x (g,), so that it is of signal less curve, of samples (r,).

    carries : (k, r). Σ v·((c − m)² − m²), m being what a common error moves the curve by: (r, g).
    """
    moved = fit.shifts @ fit.model.derivative(x, fit.values).T
    variances = np.array([error.spread.variance for error in fit.common])[:, None]
    added: Array = (variances * carries * carries).sum(axis=0)[:, None] - 2 * (variances * carries).T @ moved
    return added


def _ends(fit: Fitted, samples: Samples, there: Rows, quantiles: Array, x: Array, grid: Array) -> Array:
    """The ends (m, 2) of the x around each estimate whose band holds the signal; NaN where there is none.

    On either side the first point of the grid that is outside, and then the root before it.
    """
    signals, square = samples.means[there], np.square(quantiles)
    carries = samples.carried(fit)[:, there]

    def outside(at: Array, rows: Rows) -> Array:
        value, spread = fit.mean_at(at)
        if fit.common:
            spread = spread + _carried(fit, carries[:, rows], at).diagonal()
        variance = samples.variance(fit, there[rows], value, at)
        left: Array = np.square(value - signals[rows]) - square[rows] * (variance + spread)
        return left

    value, spread = fit.mean_at(grid)
    shape = there.size, grid.size
    everywhere = np.broadcast_to(spread, shape)
    if fit.common:
        everywhere = everywhere + _carried(fit, carries, grid)
    variance = samples.variance(fit, there, np.broadcast_to(value, shape), np.broadcast_to(grid, shape))
    past = np.square(value[None, :] - signals[:, None]) - square[:, None] * (variance + everywhere) > 0
    found = np.full((signals.size, 2), np.nan)
    between: dict[tuple[int, int], tuple[float, float]] = {}
    for k, at in enumerate(x.tolist()):
        split = int(np.searchsorted(grid, at, side="left"))
        beyond = int(np.searchsorted(grid, at, side="right"))
        down, up = np.flatnonzero(past[k, :split][::-1]), np.flatnonzero(past[k, beyond:])
        if down.size:
            stop = split - 1 - int(down[0])
            between[k, 0] = float(grid[stop]), at if down[0] == 0 else float(grid[stop + 1])
        if up.size:
            stop = beyond + int(up[0])
            between[k, 1] = at if up[0] == 0 else float(grid[stop - 1]), float(grid[stop])
    if between:
        rows, sides = np.array(list(between)).T
        low, high = np.array(list(between.values())).T
        found[rows, sides] = bisect_all(lambda at, some: outside(at, rows[some]), low, high, CLOSE)
    return found


@dataclass(frozen=True)
class Reach:
    """Where an x is looked for: below the range of the standards, inside and above it, each as (lowest, highest).

    first : the lowest standard above zero, where x is a dose.
    """

    below: Span
    inside: Span
    above: Span
    first: float | None

    @classmethod
    def of(cls, fit: Fitted) -> "Reach":
        low, high = fit.range
        if not fit.model.positive_x:
            span = high - low
            return cls((low - span, low), (low, high), (high, high + span), None)
        first = next((level for level in fit.places.levels.tolist() if level > 0), high)
        below = (0.0, 0.0) if low == 0 else (first / 100, first)
        return cls(below, (low, high), (high, high * 100), first)

    def grid(self, span: Span) -> Array:
        """Points of one of the three, rising: logarithmic for a dose, even otherwise."""
        low, high = span
        points = POINTS if span is self.inside else POINTS // 4
        if self.first is None:
            return np.linspace(low, high, max(points, POINTS // 2))
        if low == high:
            return np.array([low])
        if low > 0:
            return geometric(low, high, points)
        return np.concatenate(([0.0], geometric(self.first / 100, high, points + POINTS // 4)))

    @cached_property
    def spans(self) -> Array:
        """All three, (3, 2), in the order of `sigmoids.inverse`."""
        return np.array((self.inside, self.above, self.below))

    @property
    def everywhere(self) -> Array:
        """The points of all three, rising; where one ends the next begins."""
        if self.first is not None and self.first < self.inside[1]:  # logarithmic from end to end, and a zero
            steps = geometric(self.first / 100, self.above[1], POINTS + POINTS // 4)
            return steps if self.inside[0] > 0 else np.concatenate(([0.0], steps))
        below, inside, above = (self.grid(span) for span in (self.below, self.inside, self.above))
        return np.concatenate((below, inside[1:], above[1:]))
