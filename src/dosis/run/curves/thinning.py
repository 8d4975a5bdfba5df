"""Which points of a long course are drawn, so that it looks as it would with all of them."""

from collections.abc import Sequence

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.run.outcome.courses import CourseLine, CoursesWanted
from dosis.run.recording import BIN, LONG, Recording

SMOOTH = 20_000  # places up to which a line may well be smooth from one to the next


def thinned(x: Array, y: Array, most: int) -> Rows:
    """Indices of at most so many points, in order: of each stretch of x the first, least, greatest and last.

    x : rising; y : finite. All of them where there are no more than `most`.
    """
    if x.size <= most:
        return np.arange(x.size)
    if x.size <= SMOOTH:
        # Where a line rises or falls, its first and last are its ends: twice the stretches then take no more points.
        found = _of_stretches(x, y, max(most // 2, 1))
        if found.size <= most:
            return found
    return _of_stretches(x, y, max(most // 4, 1))


def _of_stretches(x: Array, y: Array, parts: int) -> Rows:
    edges = np.searchsorted(x, np.linspace(x[0], x[-1], parts + 1))
    starts = np.unique(edges[:-1])
    ends = np.append(starts[1:], x.size)
    keep = np.zeros(x.size, dtype=bool)
    keep[starts], keep[ends - 1] = True, True
    part = np.repeat(np.arange(starts.size), ends - starts)
    for ends_of in (np.minimum.reduceat(y, starts), np.maximum.reduceat(y, starts)):
        at = np.flatnonzero(y == ends_of[part])
        keep[at[np.diff(part[at], prepend=-1) > 0]] = True  # the first of each stretch, where several are alike
    return np.flatnonzero(keep)


def outline(recording: Recording, row: int, within: slice, most: int) -> Rows:
    """Places of one reading, in order and each with a number, that draw it between two of them in `most` points.

    Where more lie between than can be looked at, only the least and greatest of each whole bin are, and what is left
    over at either end.
    """
    n = recording.x.size
    first, stop = max(within.start or 0, 0), n if within.stop is None else min(within.stop, n)
    if recording.extremes is None or stop - first <= LONG:
        at = np.arange(first, stop)
    else:
        bins = slice(-(-first // BIN), stop // BIN)
        pairs = np.sort(recording.extremes[row, bins], axis=1)
        inner = pairs[np.stack((np.ones(len(pairs), dtype=bool), pairs[:, 1] > pairs[:, 0]), axis=1)]
        at = np.concatenate((np.arange(first, bins.start * BIN), inner, np.arange(bins.stop * BIN, stop)))
    at = at[np.isfinite(recording.y[row, at])]
    found: Rows = at[thinned(recording.x[at], recording.y[row, at], most)]
    return found


def course_line(key: str, reading: int, x: Array, y: Array, most: int) -> CourseLine:
    """A course as a line of at most so many points; NaN in y is left out. x : (n,), rising. y : (n,)."""
    there = np.isfinite(y)
    x, y = x[there], y[there]
    at = thinned(x, y, most)
    return CourseLine(key, reading, tuple(x[at].tolist()), tuple(y[at].tolist()))


def course_lines(of: Sequence[tuple[str, int]], x: Array, y: Array, most: int) -> list[CourseLine]:
    """The same of many on one axis, (courses, n), each with its key and its reading: those without a gap at once."""
    whole = np.flatnonzero(np.isfinite(y).all(axis=1))
    found = dict(zip(whole.tolist(), _all_thinned(x, y[whole], most), strict=True))
    lines = []
    for i, (key, reading) in enumerate(of):
        if i in found:
            at = found[i]
            lines.append(CourseLine(key, reading, tuple(x[at].tolist()), tuple(y[i, at].tolist())))
        else:
            lines.append(course_line(key, reading, x, y[i], most))
    return lines


def _all_thinned(x: Array, y: Array, most: int) -> list[Rows]:
    """`thinned` of every row of y, (rows, n) and finite."""
    if x.size <= most or not len(y):
        return [np.arange(x.size)] * len(y)
    found: list[Rows] = [np.empty(0, dtype=np.intp)] * len(y)
    left = np.arange(len(y))
    for parts in (max(most // 2, 1), max(most // 4, 1)):
        last = parts == max(most // 4, 1)
        if x.size > SMOOTH and not last:
            continue
        starts = np.unique(np.searchsorted(x, np.linspace(x[0], x[-1], parts + 1))[:-1])
        ends = np.append(starts[1:], x.size)
        places = np.empty((len(left), 4, starts.size), dtype=np.intp)
        places[:, 0], places[:, 3] = starts, ends - 1
        for k, (first, stop) in enumerate(zip(starts.tolist(), ends.tolist(), strict=True)):
            some = y[left, first:stop]
            places[:, 1, k], places[:, 2, k] = first + some.argmin(axis=1), first + some.argmax(axis=1)
        rows = np.sort(places.reshape(len(left), -1), axis=1)
        new = np.diff(rows, axis=1, prepend=-1) > 0
        fits = (new.sum(axis=1) <= most) | last
        for i in np.flatnonzero(fits).tolist():
            found[left[i]] = rows[i][new[i]]
        left = left[~fits]
        if not left.size:
            break
    return found


def seen(x: Array, wanted: CoursesWanted) -> slice:
    """Which places of a rising axis lie between the wanted ends; one more on either side, so that lines reach them."""
    first, last = np.searchsorted(x, [wanted.low, wanted.high])
    return slice(max(int(first) - 1, 0), int(last) + 1)
