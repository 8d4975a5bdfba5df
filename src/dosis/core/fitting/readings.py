"""What a fit is made to: readings checked, a window of them taken, or their means, with the weight of each."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import compress
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Flags, Rows
from dosis.core.fitting.weights import Rising, WeightRule, inverse_square, resolve_weights
from dosis.core.models import Model
from dosis.core.places import places

Window = tuple[float | None, float | None]
ByFit = Callable[[Array], Array]
LARGEST = 1e140  # size of a reading beyond which, or below one over which, squares are not numbers


@dataclass(frozen=True)
class Readings:
    """x, y and weights (n,), and the series of each reading where there are several; `rule` names the weighting.

    by_fit : the factor of the weights that follows the fitted curve.
    """

    x: Array
    y: Array
    w: Array
    rule: str
    by_fit: ByFit | None = None
    series: tuple[Hashable, ...] | None = None

    def take(self, rows: Rows | Flags) -> Readings:
        """Some of them."""
        series = None if self.series is None else tuple(np.array(self.series, dtype=object)[rows].tolist())
        return replace(self, x=self.x[rows], y=self.y[rows], w=self.w[rows], series=series)

    def means(self) -> Readings:
        """Weighted means at each x, of each series, with the summed weight of what they stand for."""
        code = np.zeros(self.x.size)
        if self.series is not None:
            known = {label: i for i, label in enumerate(dict.fromkeys(self.series))}
            code = np.array([float(known[label]) for label in self.series])
        order = np.lexsort((self.x, code))
        new = np.ones(order.size, dtype=bool)
        new[1:] = (np.diff(self.x[order]) != 0) | (np.diff(code[order]) != 0)
        group = np.empty(order.size, dtype=np.intp)
        group[order] = new.cumsum() - 1
        first = order[new]
        weight = np.bincount(group, self.w).astype(float)
        mean = np.bincount(group, self.w * self.y) / weight
        series = None if self.series is None else tuple(self.series[i] for i in first)
        return replace(self, x=self.x[first], y=mean, w=weight, series=series)


def readings(
    x: ArrayLike, y: ArrayLike, weights: WeightRule | Rising | ArrayLike | None, sd: ArrayLike | None, *,
    series: Sequence[Hashable] | None = None, window: Window | None = None, leave_out: tuple[int, int] = (0, 0),
) -> Readings:  # fmt: skip
    """Check what was given and take the window.

    Raises
    ------
    ValueError : for unequal lengths, numbers that are not finite, or weights that are not positive.
    """
    xs, ys = _numbers(x, "x"), _numbers(y, "y")
    sds = None if sd is None else _numbers(sd, "sd")
    if xs.shape != ys.shape or (sds is not None and sds.shape != ys.shape):
        raise ValueError(f"x has {xs.size} numbers and y has {ys.size}; they must be equally long, and so must sd.")
    labels = None if series is None else tuple(series)
    if labels is not None and len(labels) != xs.size:
        raise ValueError(f"There are {len(labels)} series labels for {xs.size} readings; one for each is needed.")
    rule: Any = weights
    rising = weights if isinstance(weights, Rising) else None
    if weights is not None and not isinstance(weights, str | Rising):
        rule = np.asarray(weights, dtype=float)
    if window is not None or leave_out != (0, 0):
        inside = _inside(xs, window) & _left(xs, leave_out)
        if isinstance(rule, np.ndarray) and rule.shape == xs.shape:
            rule = rule[inside]
        labels = None if labels is None else tuple(compress(labels, inside))
        xs, ys, sds = xs[inside], ys[inside], None if sds is None else sds[inside]
    _sized(ys)
    by_fit = inverse_square if isinstance(rule, str) and rule == "1/yhat^2" else None
    if rising is not None:
        at = places(xs)
        w = rising.at(at.means(ys)[at.group])
    else:
        w = np.ones_like(ys) if by_fit else resolve_weights(rule, xs, ys, sds)
    named = "rising" if rising else rule if isinstance(rule, str) else "none" if weights is None else "given"
    return Readings(xs, ys, w, named, by_fit, labels)


def known(chosen: Model, *named: Mapping[str, object]) -> None:
    """Refuse a parameter the model does not have."""
    for name in (name for each in named for name in each):
        if name not in chosen.names:
            raise ValueError(f"{chosen.name} has no parameter “{name}”; it has {', '.join(chosen.names)}.")


def enough(chosen: Model, x: Array, need: int) -> None:
    """Refuse fewer readings, or different x, than parameters, and a dose below zero."""
    if x.size < need:
        raise ValueError(f"{chosen.name} needs at least {need} readings; there {_are(x.size)}.")
    levels = places(x).levels.size
    if levels < need:
        raise ValueError(f"{chosen.name} needs at least {need} different x; there {_are(levels)} (x = {x[0]:g}).")
    if chosen.positive_x and (x < 0).any():
        raise ValueError(f"{chosen.name} takes a dose, which cannot be below zero; here is x = {x.min():g}.")


def _numbers(values: ArrayLike, name: str) -> Array:
    array = np.asarray(values, dtype=float)
    array = array.reshape(1) if array.ndim == 0 else array
    if array.ndim != 1:
        raise ValueError(f"{name} has {array.ndim} dimensions; it must be a plain list of numbers.")
    finite = np.isfinite(array)
    if not finite.all():
        first = int(np.flatnonzero(~finite)[0]) + 1
        raise ValueError(
            f"{int((~finite).sum())} of {array.size} numbers in {name} are missing or infinite (first at "
            f"position {first}); leave those readings out."
        )
    return array


def _sized(y: Array) -> None:
    """Squares of readings must be numbers, or a sum of squares means nothing."""
    largest = float(np.abs(y).max(initial=0.0))
    if largest > LARGEST or 0 < largest < 1 / LARGEST:
        raise ValueError(
            f"These numbers are too large or too small for a fit (up to {largest:.3g}); give x and y in other units."
        )


def _inside(x: Array, window: Window | None) -> Flags:
    low, high = window or (None, None)
    inside: Flags = (x >= (-np.inf if low is None else low)) & (x <= (np.inf if high is None else high))
    return inside


def _left(x: Array, leave_out: tuple[int, int]) -> Flags:
    first, last = leave_out
    if first < 0 or last < 0:
        raise ValueError("The numbers of x to leave out at the ends cannot be below zero.")
    if not first and not last:
        return np.ones(x.size, dtype=bool)
    at = places(x)
    left: Flags = (at.group >= first) & (at.group < at.levels.size - last)
    return left


def _are(count: int) -> str:
    return "is 1" if count == 1 else f"are {count}" if count else "are none"
