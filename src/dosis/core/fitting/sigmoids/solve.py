"""Many sigmoids from readings to minimum: a first descent for all, many starts for those that may have more minima."""

from collections.abc import Iterator, Sequence

import numpy as np

from dosis.core.arrays import Array, Flags, Rows
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.descent import FAR, Descent, descend, leap
from dosis.core.fitting.sigmoids.single import Ended, descend_one
from dosis.core.fitting.sigmoids.starts import best, coarse, fine, peaks
from dosis.core.models.shapes import ShapeOf, logistic

CHUNK = 4000  # curves at a time: few enough for the cache, enough to forget what a call costs
FIRST, SECOND = 8, 15  # steps of the first descent, and of its rest
BRIEF, LAST = 2, 60  # of each of several starts, and of what remains of them
LEFT = 0.03  # share of a chunk left to be gone on with together with those of the others
POOR = 0.3  # share of the variation left unexplained from which a curve may have several minima
STEEP = 8.0  # u between two neighboring places from which it may
SEVERAL = 2  # starts
POWERS = (-2.0, 1.5, 5.0)  # ln g of those starts, where the shape has a power
REACH = 4.0  # promised falls within which a start may still become the best


def solve_sigmoids(curves: Curves, shape_of: ShapeOf, start: Array | None = None) -> Descent:
    """The best sigmoid of every curve, θ and whether at a minimum.

    A curve whose first descent, from the best of a coarse grid or from `start`, ends poorly, steeply or not at all
    may have several minima. It is begun anew from the peaks of a fine grid; starts that cannot win are given up.
    A `start` (3, curves) says that the shape has a power.
    """
    with np.errstate(all="ignore"):
        found = Descent.start(np.zeros((2, curves.count)) if start is None else start)
        grid = coarse(curves, shape_of) if start is None else None
        for span in _chunks(curves.count, CHUNK):
            part = curves.take(span)
            begun = found.take(span) if grid is None else Descent.start(best(part, grid))
            found.put(span, descend(part, begun, shape_of, FIRST, LEFT))
        # A poor one is begun anew below in any case.
        slow = np.flatnonzero(~found.converged & (2 * found.half_sse <= POOR * curves.total))
        if slow.size:
            found.put(slow, leap(curves.take(slow), found.take(slow), shape_of))
            _go_on(curves, np.arange(curves.count), found, slow, shape_of, SECOND)
        hard = np.flatnonzero(_hard(curves, found))
        if hard.size:
            _anew(curves, hard, found, shape_of, POWERS if start is not None else None)
    return found


def solve_easily(curves: Curves) -> Ended | None:
    """An ordinary single logistic curve by plain arithmetic; None where it needs more, or may have several minima."""
    a, b = best(curves, coarse(curves, logistic))[:, 0].tolist()
    pure, total = float(curves.pure[0]), float(curves.total[0])
    end = descend_one(curves.t.tolist(), curves.y[:, 0].tolist(), curves.w[:, 0].tolist(), a, b, pure, total)
    if end is None or 2 * end.half_sse > POOR * total or end.b * curves.gap > STEEP or abs(end.a) > FAR / 2 + end.b:
        return None
    return end


def _chunks(count: int, size: int) -> Iterator[slice]:
    return (slice(first, min(first + size, count)) for first in range(0, count, size))


def _hard(curves: Curves, found: Descent) -> Flags:
    poor = 2 * found.half_sse > POOR * curves.total
    hard: Flags = ~found.converged | poor | (np.abs(found.theta[1]) * curves.gap > STEEP)
    return hard


def _anew(curves: Curves, hard: Rows, found: Descent, shape_of: ShapeOf, powers: Sequence[float] | None) -> None:
    grid = fine(curves, shape_of, powers)
    which, starts = [], []
    for span in _chunks(hard.size, CHUNK // 4):
        of, theta = peaks(curves.take(hard[span]), grid, SEVERAL)
        which.append(hard[span][of])
        starts.append(theta)
    curve = np.concatenate(which)
    begun = Descent.start(np.concatenate(starts, axis=1))
    _go_on(curves, curve, begun, np.arange(curve.size), shape_of, BRIEF)
    curve, tries = np.concatenate((hard, curve)), found.take(hard).joined(begun)
    lowest = found.half_sse.copy()
    np.minimum.at(lowest, curve, tries.half_sse)
    still = ~tries.converged
    for most in (2 * BRIEF, LAST):
        still &= ~tries.converged & (tries.half_sse - REACH * tries.promise <= lowest[curve])
        rows = np.flatnonzero(still)
        tries.put(rows, leap(curves.take(curve[rows]), tries.take(rows), shape_of))
        _go_on(curves, curve, tries, rows, shape_of, most)
        np.minimum.at(lowest, curve, tries.half_sse)
    order = np.lexsort((tries.half_sse, curve))
    win = order[np.unique(curve[order], return_index=True)[1]]
    win = win[tries.half_sse[win] < found.half_sse[curve[win]]]
    found.put(curve[win], tries.take(win))


def _go_on(curves: Curves, curve: Rows, tries: Descent, rows: Rows, shape_of: ShapeOf, most: int) -> None:
    for span in _chunks(rows.size, CHUNK):
        some = rows[span]
        tries.put(some, descend(curves.take(curve[some]), tries.take(some), shape_of, most))
