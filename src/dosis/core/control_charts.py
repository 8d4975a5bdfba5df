"""Control charts of individual values: center and limits by the moving range, and the rules that point at a change."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from statistics import fmean

D2 = 2 / math.sqrt(math.pi)  # mean range of two normal values, in SDs: 1.128
D3 = math.sqrt(2 - 4 / math.pi)  # SD of that range, in SDs: 0.853
LEAST = 2  # values that limits are made from; a chart says when they are fewer than a score


@dataclass(frozen=True, slots=True)
class Limits:
    """What a process is held against.

    center : where its values lie. sd : of one value, from the moving range where it was not typed.
    ranges_mean, ranges_upper : mean of the moving ranges, and what one of them hardly exceeds.
    """

    center: float
    sd: float
    ranges_mean: float
    ranges_upper: float

    def at(self, sds: float) -> float:
        """So many SDs from the center."""
        return self.center + sds * self.sd


@dataclass(frozen=True, slots=True)
class Signal:
    """A rule that some values break. places : which of them, in order."""

    rule: str
    text: str
    places: tuple[int, ...]


def moving_ranges(values: Sequence[float]) -> list[float]:
    """How far each value is from the one before; one fewer than there are values.

    >>> moving_ranges([1.0, 4.0, 3.0])
    [3.0, 1.0]
    """
    return [abs(b - a) for a, b in pairwise(values)]


def limits(values: Sequence[float]) -> Limits:
    """Center and spread of individual values: their mean, and the mean moving range ÷ 1.128.

    The moving range is used and not the SD of all, so that a drift among the values does not widen the limits that are
    to show it (NIST/SEMATECH e-Handbook, 6.3.2.2; Shewhart 1931).

    Raises
    ------
    ValueError : for fewer than two values, or values that are not finite.

    Example
    -------
    >>> round(limits([49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1]).sd, 3)
    1.665
    """
    if len(values) < LEAST:
        raise ValueError("A control chart needs two values or more.")
    if not all(map(math.isfinite, values)):
        raise ValueError("A control chart takes finite values only.")
    return of(fmean(values), fmean(moving_ranges(values)) / D2)


def of(center: float, sd: float) -> Limits:
    """Limits that were typed, or are from elsewhere.

    Raises
    ------
    ValueError : for a spread below zero.
    """
    if not (sd >= 0 and math.isfinite(sd) and math.isfinite(center)):
        raise ValueError("The SD of a control chart is zero or more.")
    return Limits(center, sd, D2 * sd, (D2 + 3 * D3) * sd)


Scores = Sequence[float]
Found = Callable[[Scores], list[tuple[int, ...]]]


def signals(values: Sequence[float], held: Limits) -> list[Signal]:
    """The rules that the values break, each with the longest stretches that break it.

    The eight rules of Nelson (1984), J. Quality Technology 16: 237–239; the first is Shewhart's, and the first, fifth
    and sixth with the second are those of Western Electric (1956) but for its eight in a row. With a spread of zero
    only what lies off the center is told of.

    Example
    -------
    >>> [each.text for each in signals([0.1, 4.2, -0.3], of(0.0, 1.0))]
    ['one beyond 3 SD']
    """
    if held.sd == 0:
        off = tuple(i for i, value in enumerate(values) if value != held.center)
        return [Signal("beyond", "off a center without spread", off)] if off else []
    scores = [(value - held.center) / held.sd for value in values]
    return [
        Signal(rule, text, places) for rule, (text, found) in RULES.items() for places in found(scores)
    ]  # fmt: skip


def _beyond(scores: Scores) -> list[tuple[int, ...]]:
    return [(i,) for i, z in enumerate(scores) if abs(z) > 3]


def _windows(scores: Scores, size: int, broken: Callable[[Scores], bool]) -> list[tuple[int, ...]]:
    """Stretches of windows that break a rule, those that overlap as one."""
    found: list[range] = []
    for start in range(len(scores) - size + 1):
        if not broken(scores[start : start + size]):
            continue
        if found and start < found[-1].stop:
            found[-1] = range(found[-1].start, start + size)
        else:
            found.append(range(start, start + size))
    return [tuple(each) for each in found]


def _side(size: int) -> Found:
    return lambda scores: _windows(scores, size, lambda w: all(z > 0 for z in w) or all(z < 0 for z in w))


def _trend(size: int) -> Found:
    def steady(window: Scores) -> bool:
        steps = [b - a for a, b in pairwise(window)]
        return all(s > 0 for s in steps) or all(s < 0 for s in steps)

    return lambda scores: _windows(scores, size, steady)


def _alternating(size: int) -> Found:
    def turns(window: Scores) -> bool:
        steps = [b - a for a, b in pairwise(window)]
        return all(a * b < 0 for a, b in pairwise(steps))

    return lambda scores: _windows(scores, size, turns)


def _most(count: int, size: int, beyond: float) -> Found:
    """So many of so many beyond a limit, on the same side; only those beyond it are named."""

    def found(scores: Scores) -> list[tuple[int, ...]]:
        out = []
        for sign in (1, -1):
            signed = [sign * z for z in scores]
            stretches = _windows(signed, size, lambda w: sum(z > beyond for z in w) >= count)
            out += [tuple(i for i in each if signed[i] > beyond) for each in stretches]
        return sorted(out)

    return found


def _hugging(size: int) -> Found:
    return lambda scores: _windows(scores, size, lambda w: all(abs(z) < 1 for z in w))


def _avoiding(size: int) -> Found:
    def both(window: Scores) -> bool:
        return all(abs(z) > 1 for z in window) and min(window) < 0 < max(window)

    return lambda scores: _windows(scores, size, both)


RULES: dict[str, tuple[str, Found]] = {
    "beyond": ("one beyond 3 SD", _beyond),
    "side": ("nine in a row on one side of the center", _side(9)),
    "trend": ("six in a row steadily rising or falling", _trend(6)),
    "alternating": ("fourteen in a row alternating up and down", _alternating(14)),
    "two_of_three": ("two of three beyond 2 SD on one side", _most(2, 3, 2)),
    "four_of_five": ("four of five beyond 1 SD on one side", _most(4, 5, 1)),
    "hugging": ("fifteen in a row within 1 SD", _hugging(15)),
    "avoiding": ("eight in a row beyond 1 SD, on both sides", _avoiding(8)),
}  # fmt: skip
