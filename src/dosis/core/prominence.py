"""Peaks by their prominence, the height above the higher of the valleys at their sides."""

from __future__ import annotations

import numpy as np

from dosis.core.arrays import Array, Rows


def standing_out(y: Array, least: float, first: int = 0, last: int | None = None) -> tuple[Rows, Array]:
    """Places of all peaks whose prominence is at least that, in their order, and the prominences, (peaks,) both.

    A flat top counts once, at its middle (the left one of two); the ends are no peaks. A valley is the lowest point
    before the signal rises above the peak, or before its end.

    Parameters
    ----------
    y : (n,), finite. first, last : places between which a peak has to lie to be listed, both inside.

    Example
    -------
    ``standing_out(np.array([0.0, 2, 1, 3, 0]), 0.5)`` is ``([1, 3], [1.0, 3.0])``.
    """
    starts, ends, levels = _level_stretches(y)
    tops = np.flatnonzero((levels[1:-1] > levels[:-2]) & (levels[1:-1] > levels[2:])) + 1
    middles = (starts[tops] + ends[tops]) // 2
    inside = (middles >= first) & (middles <= (y.size - 1 if last is None else last))
    tops, middles = tops[inside], middles[inside]
    if least > 0 and tops.size > 1:
        kept = np.isin(tops, _dropping(levels, least))
        tops, middles = tops[kept], middles[kept]
    heights = np.array([_prominence(levels, k) for k in tops.tolist()])
    enough = heights >= least
    return middles[enough], heights[enough]


def half_way(y: Array, top: int, prominence: float) -> tuple[float, float]:
    """Where a peak has half its prominence on either side, in places, straight between them."""
    level = y[top] - prominence / 2
    below = np.flatnonzero(y[:top] <= level)
    left = float(below[-1]) if below.size else 0.0
    if below.size and y[below[-1]] < level:
        i = int(below[-1])
        left += (level - y[i]) / (y[i + 1] - y[i])
    after = np.flatnonzero(y[top + 1 :] <= level)
    right = float(top + 1 + after[0]) if after.size else float(y.size - 1)
    if after.size and y[top + 1 + after[0]] < level:
        i = int(top + 1 + after[0])
        right -= (level - y[i]) / (y[i - 1] - y[i])
    return float(left), float(right)


def _level_stretches(y: Array) -> tuple[Rows, Rows, Array]:
    """Stretches of the same value: where each begins and ends, and the value."""
    changes = np.flatnonzero(np.diff(y))
    starts = np.concatenate(([0], changes + 1))
    return starts, np.concatenate((changes, [y.size - 1])), y[starts]


def _dropping(levels: Array, least: float) -> list[int]:
    """The highest places between which the signal falls by that much and rises again, in one pass over its turns.

    A peak of that prominence is one of them: on both its sides the signal falls so far before it is higher.
    """
    rising = np.diff(levels) > 0
    turns = np.concatenate(([0], np.flatnonzero(rising[1:] != rising[:-1]) + 1, [levels.size - 1]))
    values = levels[turns]
    # None that low stands out so far: what lies between two that do counts by its lowest.
    low_down = values < levels.min() + least
    begins = np.flatnonzero(np.concatenate(([True], ~(low_down[1:] & low_down[:-1]))))
    turns, values = turns[begins], np.minimum.reduceat(values, begins)
    found: list[int] = []
    up, at = True, [0]
    high = low = float(levels[0])
    for place, value in zip(turns.tolist(), values.tolist(), strict=True):
        if up:
            if value > high:
                high, at = value, [place]
            elif value == high:
                at.append(place)  # as high as the other, each stands out as far
            elif value <= high - least:
                found += at
                up, low = False, value
        elif value < low:
            low = value
        elif value >= low + least:
            up, high, at = True, value, [place]
    return found


def _prominence(levels: Array, k: int) -> float:
    own = levels[k]
    before, after = levels[:k][::-1], levels[k + 1 :]
    return float(own - max(_lowest(before, own), _lowest(after, own)))


def _lowest(side: Array, own: float) -> float:
    """The lowest of a side, going away from the peak, before it rises above."""
    higher = side > own
    stop = int(higher.argmax()) if higher.any() else side.size
    return float(side[:stop].min())
