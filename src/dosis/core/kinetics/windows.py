"""Initial rates: the slope of the straight beginning of a time course, over the same window for all of them."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array, alike
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit

Window = tuple[float, float]
SHORT = 6  # points of a window from which a slope at the start is taken
BINS = 1000  # stretches into which very many points are drawn together to look for a bend
LEAST = 4  # points of a window, so that a bend could show


@dataclass(frozen=True)
class Rates:
    """Rates over one window, in signal per time: the slope of each series' line there, with its interval."""

    window: Window
    lines: dict[Hashable, Fit]

    @property
    def rate(self) -> dict[Hashable, float]:
        """Slope of each series."""
        return {label: line.parameters["slope"].estimate for label, line in self.lines.items()}

    @property
    def standard_error(self) -> dict[Hashable, float | None]:
        """Of each slope."""
        return {label: line.parameters["slope"].standard_error for label, line in self.lines.items()}


@dataclass(frozen=True, slots=True)
class LinearWindow:
    """The widest window that passes; `least_p` is the lowest p-value for a bend in it, over all series.

    window is None where not even the shortest passes; `reason` says so. left_out : points dropped at either end.
    """

    window: Window | None
    least_p: float | None
    left_out: tuple[int, int]
    reason: str = ""


def rates(time: ArrayLike, signals: Mapping[Hashable, ArrayLike], window: Window | None = None) -> Rates:
    """Slope of every series over the window (both ends included; all of it when there is none).

    Parameters
    ----------
    time : (n,); signals : (n,) for each series, NaN where a reading is missing.

    Raises
    ------
    ValueError : for unequal lengths, or fewer than 2 readings of a series in the window, naming it.
    """
    t, series = _courses(time, signals)
    low, high = window or (float(t.min()), float(t.max()))
    lines = {}
    for label, y in series.items():
        use = np.isfinite(y) & (t >= low) & (t <= high)
        try:
            lines[label] = fit("line", t[use], y[use])
        except ValueError as error:
            raise ValueError(f"Series “{label}”, {low:g} to {high:g}: {error}") from None
    return Rates((low, high), lines)


def widest_linear_window(
    time: ArrayLike, signals: Mapping[Hashable, ArrayLike], *, alpha: float = 0.05,
    most_left_out: tuple[int, int] = (0, 0), shortest: int = LEAST,
) -> LinearWindow:  # fmt: skip
    """The widest window, the same for all series, in which none shows a bend; see `widest_straight`.

    Raises
    ------
    ValueError : for unequal lengths, or fewer different times than the shortest window has.
    """
    t, series = _courses(time, signals)
    order = np.argsort(t, kind="stable")
    y = np.array(list(series.values()))[:, order]
    return widest_straight(t[order], y, alpha=alpha, most_left_out=most_left_out, shortest=shortest)


def widest_straight(
    x: ArrayLike, y: ArrayLike, *, alpha: float = 0.05, together: float = 0.1,
    most_left_out: tuple[int, int] = (0, 0), shortest: int = LEAST, degree: int = 2,
) -> LinearWindow:  # fmt: skip
    """The widest window, the same for all courses, in which no bend is seen.

    A bend of one course is a quadratic term different from zero at `alpha`, shared over the courses (Bonferroni), so
    that many do not make it strict by chance. Courses of one experiment bend the same way: `together` is the p below
    which their signed deviations, added up (Stouffer et al. 1949), count as a bend of all. A bend that is too small to
    be seen makes a slope too small; see docs/computation.md for by how much. With `most_left_out` of (0, 0) any number
    of points may be dropped at the end, none at the beginning; otherwise at most so many at either end.

    Parameters
    ----------
    x : (n,) rising, several readings at one x allowed. y : (courses, n), NaN where a reading is missing.
    degree : 2 looks for what a line does not describe, 3 for what a parabola does not.

    Raises
    ------
    ValueError : for fewer different x than the shortest window has.
    """
    t, ys = np.asarray(x, dtype=float), np.atleast_2d(np.asarray(y, dtype=float))
    levels = np.unique(t)
    if levels.size < shortest:
        raise ValueError(f"A window needs at least {shortest} different times; there are {levels.size}.")
    if levels.size > BINS and not any(most_left_out):
        return _of_bins(t, ys, alpha, together, shortest, degree)
    first, last = most_left_out if any(most_left_out) else (0, levels.size - shortest)
    choices = sorted(
        ((a, b) for a in range(first + 1) for b in range(last + 1) if levels.size - a - b >= shortest),
        key=lambda ends: (ends[0] + ends[1], ends[0]),
    )
    worst, lowest = 0, None
    for a, b in choices:
        low, high = float(levels[a]), float(levels[levels.size - 1 - b])
        inside = slice(*np.searchsorted(t, [low, np.nextafter(high, np.inf)]))
        # The course that bent in the window before mostly bends in this one, too: it is looked at first.
        if len(ys) > 1 and _p(bend_scores(t[inside], ys[worst : worst + 1, inside], degree))[0] < alpha / len(ys):
            continue
        scores = bend_scores(t[inside], ys[:, inside], degree)
        known = scores[np.isfinite(scores)]
        if not known.size:
            return LinearWindow((low, high), None, (a, b))
        lowest = float(_p(known).min())
        if lowest >= alpha / len(ys) and _p(known.sum(keepdims=True) / np.sqrt(known.size))[0] >= together:
            return LinearWindow((low, high), lowest, (a, b))
        worst = int(np.nanargmax(np.abs(scores)))
    return LinearWindow(None, lowest, (0, 0), "Even the shortest window bends; shorten it by hand or read more often.")


def _of_bins(t: Array, ys: Array, alpha: float, together: float, shortest: int, degree: int) -> LinearWindow:
    """The same of very many points, on the means of equal stretches: a bend shows in them as it does in all."""
    starts = np.arange(0, t.size, -(-t.size // BINS))
    there = np.isfinite(ys)
    counts = np.add.reduceat(there, starts, axis=1)
    with np.errstate(all="ignore"):
        y = np.add.reduceat(np.where(there, ys, 0.0), starts, axis=1) / counts
    x = np.add.reduceat(t, starts) / np.diff(np.append(starts, t.size))
    found = widest_straight(x, y, alpha=alpha, together=together, shortest=shortest, degree=degree)
    if found.window is None:
        return found
    last = starts[1:][int(np.searchsorted(x, found.window[1]))] - 1 if found.left_out[1] else t.size - 1
    left = int(np.unique(t).size - np.searchsorted(np.unique(t), t[last], side="right"))
    return LinearWindow((float(t[0]), float(t[last])), found.least_p, (0, left), found.reason)


def early_half(x: ArrayLike, window: LinearWindow) -> Window | None:
    """The first half of a window that was cut short because courses bend; the window itself where it was not.

    A slope at the start, taken over all of the widest window in which no more is seen than a parabola, is still a
    little too small, and its interval misses the true one far too often; over half of it the interval covers as it
    says (docs/computation.md).
    """
    if window.window is None or window.left_out == (0, 0):
        return window.window
    levels = np.unique(np.asarray(x, dtype=float))
    low, high = window.window
    inside = levels[(levels >= low) & (levels <= high)]
    return low, float(inside[min(max((inside.size + 1) // 2, SHORT), inside.size) - 1])


def bends(x: Array, y: Array, degree: int = 2) -> Array:
    """Two-sided p of the term of that degree in every course, (courses,); NaN where too few points tell."""
    return _p(bend_scores(x, y, degree))


def bend_scores(x: Array, y: Array, degree: int = 2) -> Array:
    """How far the term of that degree lies from zero in every course, as a standard normal number with its sign.

    By orthogonal polynomials: what the last one takes off the sum of squares about the one before (Draper & Smith 1998,
    22.2). NaN where there are too few points to tell.
    """
    found = np.full(len(y), np.nan)
    for rows, at in alike(np.isfinite(y)):
        found[rows] = _scores(x[at], y[rows][:, at], degree)
    return found


def _scores(x: Array, y: Array, degree: int) -> Array:
    if np.count_nonzero(np.diff(x)) < degree + 1:
        return np.full(len(y), np.nan)
    middle, half = (x[0] + x[-1]) / 2, (x[-1] - x[0]) / 2
    q, _ = np.linalg.qr(np.vander((x - middle) / half, degree + 1, increasing=True))
    q = q * np.sign(q[-1])  # so that the sign is that of the bend
    about = y - y.mean(axis=1, keepdims=True)
    along = about @ q
    rest = about - along @ q.T
    sse = np.einsum("cn,cn->c", rest, rest)
    size = np.einsum("cn,cn->c", about, about)
    df = x.size - degree - 1
    with np.errstate(all="ignore"):
        t = along[:, degree] / np.sqrt(np.maximum(sse, 1e-28 * size) / df)
        score = np.sign(t) * -special.ndtri(np.maximum(special.stdtr(df, -np.abs(t)), 1e-300))
    # What rounding leaves of a line that goes through every point is no bend.
    exact = np.square(along[:, degree]) <= 1e-24 * size
    scores: Array = np.where(exact, 0.0, score)
    return scores


def _p(scores: Array) -> Array:
    p: Array = 2 * special.ndtr(-np.abs(scores))
    return p


def _courses(time: ArrayLike, signals: Mapping[Hashable, ArrayLike]) -> tuple[Array, dict[Hashable, Array]]:
    t = np.atleast_1d(np.asarray(time, dtype=float))
    if not np.isfinite(t).all():
        raise ValueError("Every time must be a finite number.")
    series = {label: np.atleast_1d(np.asarray(y, dtype=float)) for label, y in signals.items()}
    if not series:
        raise ValueError("There is no series to take a rate of.")
    for label, y in series.items():
        if y.shape != t.shape:
            raise ValueError(f"Series “{label}” has {y.size} readings for {t.size} times.")
    return t, series
