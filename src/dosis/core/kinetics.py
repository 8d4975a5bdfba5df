"""Initial rates: the slope of the straight beginning of a time course, over the same window for all of them."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit

Window = tuple[float, float]
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
    """The widest window, the same for all series, in which none shows a bend.

    A bend is a quadratic term different from zero at `alpha`, shared over the series (Bonferroni), so that many series
    do not make it strict by chance. With `most_left_out` of (0, 0) any number of points may be dropped at the end of
    the course, none at its beginning; otherwise at most so many at either end.

    Raises
    ------
    ValueError : for unequal lengths, or fewer different times than the shortest window has.
    """
    t, series = _courses(time, signals)
    levels = np.unique(t)
    if levels.size < shortest:
        raise ValueError(f"A window needs at least {shortest} different times; there are {levels.size}.")
    first, last = most_left_out if any(most_left_out) else (0, levels.size - shortest)
    choices = sorted(
        ((a, b) for a in range(first + 1) for b in range(last + 1) if levels.size - a - b >= shortest),
        key=lambda ends: (ends[0] + ends[1], ends[0]),
    )
    limit = alpha / len(series)
    lowest = None
    for a, b in choices:
        low, high = float(levels[a]), float(levels[levels.size - 1 - b])
        p_values = [_bend(t, y, low, high) for y in series.values()]
        lowest = min((p for p in p_values if p is not None), default=None)
        if lowest is None or lowest >= limit:
            return LinearWindow((low, high), lowest, (a, b))
    return LinearWindow(None, lowest, (0, 0), "Even the shortest window bends; shorten it by hand or read more often.")


def _bend(t: Array, y: Array, low: float, high: float) -> float | None:
    use = np.isfinite(y) & (t >= low) & (t <= high)
    if np.unique(t[use]).size < LEAST:
        return None
    curve = fit("quadratic", t[use], y[use])
    return curve.parameters["c2"].p_value


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
