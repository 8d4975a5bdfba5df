"""The data of many curves on the same x, brought to what the sigmoid's descent works with."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from dosis.core.arrays import Array

SAME = 1e-9  # distance of two places that are one to any curve
NOWHERE = -1e6  # t of a zero dose: so far below that every shape is at its lower plateau


@dataclass(frozen=True)
class Curves:
    """Readings of many curves at the same places.

    t : (n,) places on the axis of the sigmoid, ln x or x scaled so that the readings span −1 to 1; a zero dose lies
        far below. centre + half·t turns them back.
    y : (n, curves) less each curve's weighted mean, `mean` (curves,), and over its largest distance from it, `unit`.
    w : (n, 1) where all curves have the same weights, else (n, curves); zero where a reading is missing.
    pure : (curves,) sum of squares of readings at the same place about their mean, which no curve can take away.
    total : (curves,) sum of squares of y.
    """

    t: Array
    centre: float
    half: float
    y: Array
    mean: Array
    unit: Array
    w: Array
    pure: Array
    total: Array

    @classmethod
    def of(cls, levels: Array, y: Array, w: Array, pure: Array, *, logarithmic: bool) -> "Curves":
        """From distinct x (n,) in rising order, means (n, curves), summed weights and the pure sum of squares."""
        with np.errstate(divide="ignore"):
            t = np.log(levels) if logarithmic else levels
        lowest, highest = float(t[1] if t[0] == -np.inf and t.size > 1 else t[0]), float(t[-1])
        centre, half = (lowest + highest) / 2, (highest - lowest) / 2 or 1.0
        t = np.maximum((t - centre) / half, NOWHERE)
        mean = (w * y).sum(axis=0) / np.maximum(w.sum(axis=0), 1e-300)
        y = np.where(w > 0, y - mean, 0.0)
        unit = np.abs(y).max(axis=0)
        unit[unit == 0] = 1.0
        y /= unit
        return cls(t, centre, half, y, mean, unit, w, pure / unit / unit, (w * y * y).sum(axis=0))

    def mirrored(self) -> "Curves":
        """The same with the axis turned round, which makes a falling sigmoid a rising one of the opposite shape."""
        return replace(self, t=-self.t)

    @property
    def count(self) -> int:
        """Number of curves."""
        return int(self.y.shape[1])

    @property
    def shared(self) -> bool:
        """Whether all curves have the same weights."""
        return bool(self.w.shape[1] == 1)

    def take(self, curves: Any) -> "Curves":
        """Some of the curves, as often as they are named."""
        w = self.w if self.shared else self.w[:, curves]
        return Curves(self.t, self.centre, self.half, self.y[:, curves], self.mean[curves], self.unit[curves], w,
                      self.pure[curves], self.total[curves])  # fmt: skip

    @cached_property
    def inside(self) -> Array:
        """The places without a zero dose, rising."""
        return np.sort(self.t[np.abs(self.t) < -NOWHERE])

    @property
    def gap(self) -> float:
        """The mean distance of neighboring places, which span −1 to 1."""
        return 2.0 / max(self.inside.size - 1, 1)

    @cached_property
    def closest(self) -> float:
        """The least distance between two places."""
        gaps = np.diff(self.inside)
        gaps = gaps[gaps > SAME]
        return float(gaps.min()) if gaps.size else 1.0

    @cached_property
    def weight(self) -> Array:
        """Summed weight of a curve, (1,) or (curves,)."""
        summed: Array = np.maximum(self.w.sum(axis=0), 1e-300)
        return summed

    @cached_property
    def powers(self) -> Array:
        """1, t, t² at every place, (3, n); t of a zero dose is left at zero, for its derivatives vanish."""
        t = np.where(np.abs(self.t) == -NOWHERE, 0.0, self.t)
        return np.stack((np.ones_like(t), t, t * t))

    @cached_property
    def weighted_powers(self) -> Array:
        """The same times the shared weights."""
        return self.powers * self.w[:, 0]

    def moments(self, values: Array, order: int) -> Array:
        """Σ w·values·t^k over the readings for k below `order`: (n, curves) -> (order, curves)."""
        if self.shared:
            shared: Array = self.weighted_powers[:order] @ values
            return shared
        own: Array = self.powers[:order] @ (self.w * values)
        return own
