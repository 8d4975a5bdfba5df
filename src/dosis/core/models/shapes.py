"""The shapes a sigmoid takes between its plateaus, with the derivatives Newton's method needs.

A shape is h(u), from 0 to 1 as u = a + b·t goes from −∞ to ∞, t being ln x or x. All arrays are (n, curves). Where
every u of a curve lies above zero, h is held as h − 1: near the upper plateau the digits of h itself are lost.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Flags, Rows

EDGE = 500.0  # |u| beyond which every shape is flat


@dataclass(slots=True)
class Shape:
    """h less `shift` (0 or 1, one a curve), its derivatives in u, and in the logarithm of a power where it has one.

    second : None where it is first·(1 − 2h), as of the logistic, and made only when it is asked for.
    """

    h: Array
    shift: Array
    first: Array
    second: Array | None
    power: tuple[Array, ...] | None = None  # in ln g: dh, d²h, d²h/du

    def bend(self) -> Array:
        """The second derivative in u."""
        if self.second is not None:
            return self.second
        bend: Array = self.first * (1.0 - 2.0 * self.shift - 2.0 * self.h)
        return bend

    def at(self, columns: Rows) -> "Shape":
        """The shape of some of the curves."""
        power = None if self.power is None else tuple(each[:, columns] for each in self.power)
        second = None if self.second is None else self.second[:, columns]
        return Shape(self.h[:, columns], self.shift[columns], self.first[:, columns], second, power)

    def keep(self, old: "Shape", mask: Flags) -> None:
        """Write the old shape of some of the curves back over this one."""
        pairs = [(self.shift, old.shift), (self.h, old.h), (self.first, old.first)]
        if self.second is not None and old.second is not None:
            pairs.append((self.second, old.second))
        if self.power is not None and old.power is not None:
            pairs += zip(self.power, old.power, strict=True)
        for ours, theirs in pairs:
            np.copyto(ours, theirs, where=mask)


ShapeOf = Callable[[Array, Flags, Array | None], Shape]  # u, which curves lie above zero, ln g


def logistic(u: Array, above: Flags, _power: Array | None) -> Shape:
    """1/(1 + e^−u)."""
    h = np.negative(u)
    np.exp(h, out=h)
    h += 1.0
    np.reciprocal(h, out=h)
    first = 1.0 - h
    if above.any():
        rest = np.exp(-u[:, above])
        first[:, above] = rest / (1.0 + rest)
        held = first * h
        h[:, above] = -first[:, above]
        return Shape(h, above.astype(float), held, None)
    first *= h
    return Shape(h, np.zeros(above.size), first, None)


def _held(above: Flags, h: Array, rest: Array, first: Array, second: Array) -> Shape:
    shift = above.astype(float)
    return Shape(np.where(above, -rest, h) if above.any() else h, shift, first, second)


def weibull(u: Array, above: Flags, _power: Array | None) -> Shape:
    """1 − exp(−e^u)."""
    e = np.exp(np.minimum(u, 6.5))  # beyond, exp(−e^u) is zero
    rest = np.exp(-e)
    first = e * rest
    return _held(above, -np.expm1(-e), rest, first, first * (1.0 - e))


def gompertz(u: Array, above: Flags, _power: Array | None) -> Shape:
    """exp(−e^−u)."""
    e = np.exp(np.minimum(-u, 6.5))
    h = np.exp(-e)
    first = e * h
    return _held(above, h, -np.expm1(-e), first, first * (e - 1.0))


def powered_logistic(u: Array, above: Flags, power: Array | None) -> Shape:
    """(1 + e^−u)^−g, `power` being ln g of every curve."""
    assert power is not None
    g = np.exp(power)
    e = np.exp(-np.maximum(u, -EDGE))
    rest = e / (1.0 + e)
    logarithm = -g * np.log1p(e)
    h = np.exp(logarithm)
    first = g * h * rest
    second = first * (g * rest - (1.0 - rest))
    by_power = h * logarithm
    powers = (by_power, by_power * (1.0 + logarithm), first * (1.0 + logarithm))
    shift = above.astype(float)
    return Shape(np.where(above, np.expm1(logarithm), h) if above.any() else h, shift, first, second, powers)


SHAPES: dict[str, ShapeOf] = {
    "logistic": logistic,
    "weibull": weibull,
    "gompertz": gompertz,
    "powered": powered_logistic,
}
