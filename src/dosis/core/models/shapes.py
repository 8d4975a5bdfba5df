"""The shapes a sigmoid takes between its plateaus, with the derivatives Newton's method needs.

A shape is h(u), from 0 to 1 as u = a + b·t goes from −∞ to ∞, t being ln x or x. All arrays are (n, curves). Where
every u of a curve lies above zero, h is held as h − 1: near the upper plateau the digits of h itself are lost.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Flags, Rows

EDGE = 500.0  # |u| beyond which every shape is flat


@dataclass(frozen=True, slots=True)
class Shape:
    """h less `shift` (0 or 1, one a curve), its derivatives in u, and in the logarithm of a power where it has one."""

    h: Array
    shift: Array | float
    first: Array
    second: Array
    power: tuple[Array, ...] | None = None  # in ln g: dh, d²h, d²h/du

    def at(self, columns: Rows) -> "Shape":
        """The shape of some of the curves."""
        shift = self.shift if isinstance(self.shift, float) else self.shift[columns]
        power = None if self.power is None else tuple(each[:, columns] for each in self.power)
        return Shape(self.h[:, columns], shift, self.first[:, columns], self.second[:, columns], power)

    def where(self, mine: Flags, other: "Shape") -> "Shape":
        """This shape for some of the curves, another for the rest."""
        power = None
        if self.power is not None and other.power is not None:
            power = tuple(np.where(mine, a, b) for a, b in zip(self.power, other.power, strict=True))
        return Shape(
            np.where(mine, self.h, other.h), np.where(mine, self.shift, other.shift),
            np.where(mine, self.first, other.first), np.where(mine, self.second, other.second), power,
        )  # fmt: skip


ShapeOf = Callable[[Array, Flags, Array | None], Shape]  # u, which curves lie above zero, ln g


def logistic(u: Array, above: Flags, _power: Array | None) -> Shape:
    """1/(1 + e^−u)."""
    e = np.exp(np.negative(u))
    h = 1.0 / (1.0 + e)
    rest = 1.0 - h
    if not above.any():
        first = h * rest
        return Shape(h, 0.0, first, first * (rest - h))
    rest[:, above] = (e[:, above]) * h[:, above]
    first = h * rest
    return _held(above, h, rest, first, first * (rest - h))


def _held(above: Flags, h: Array, rest: Array, first: Array, second: Array) -> Shape:
    if above.any():
        return Shape(np.where(above, -rest, h), above.astype(float), first, second)
    return Shape(h, 0.0, first, second)


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
    if above.any():
        return Shape(np.where(above, np.expm1(logarithm), h), above.astype(float), first, second, powers)
    return Shape(h, 0.0, first, second, powers)


SHAPES: dict[str, ShapeOf] = {
    "logistic": logistic,
    "weibull": weibull,
    "gompertz": gompertz,
    "powered": powered_logistic,
}
