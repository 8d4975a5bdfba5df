"""Events of a trace: where it crosses a level, and its peaks."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.prominence import standing_out

NOISES = 4.0  # noise that a trace must leave behind before it can cross again
PROMINENT = 0.1  # share of a trace's range that a peak stands out by, where nothing else is said


def crossings(time: ArrayLike, signal: ArrayLike, level: float, *, rising: bool = True, back: float = 0.0) -> Array:
    """Times at which a trace crosses a level, straight between samples.

    After each crossing it has to go beyond the level by `back` to the side it came from before it counts again, so that
    noise about the level does not.

    Parameters
    ----------
    time, signal : (n,), without gaps.

    Example
    -------
    ``crossings([0, 1, 2, 3, 4], [0, 2, 0, 2, 2], 1.0)`` is ``[0.5, 2.5]``.
    """
    t, y = np.asarray(time, dtype=float), np.asarray(signal, dtype=float)
    over = y - level if rising else level - y
    sides = np.where(over >= 0, 1, np.where(over < -back, -1, 0))
    told = np.flatnonzero(sides)
    turns = told[1:][(sides[told[1:]] == 1) & (sides[told[:-1]] == -1)]
    # Between the last sample that was told to be below and this one, it crosses for the last time before this one.
    before = turns - 1
    span = over[turns] - over[before]
    share = np.where(span > 0, -over[before] / np.where(span > 0, span, 1.0), 0.0)
    found: Array = t[before] + np.clip(share, 0, 1) * (t[turns] - t[before])
    return found


def peak_times(time: ArrayLike, signal: ArrayLike, prominence: float) -> Array:
    """Times of all peaks that stand out by at least `prominence` from the valleys at their sides, (peaks,)."""
    tops, _ = standing_out(np.asarray(signal, dtype=float), prominence)
    found: Array = np.asarray(time, dtype=float)[tops]
    return found
