"""The data of many curves on the same x, brought to what the sigmoid's descent works with."""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.shape import NOWHERE

SAME = 1e-9  # distance of two places that are one to any curve


@dataclass(frozen=True)
class Curves:
    """Readings of many curves at the same places.

    t : (n,) places on the axis of the sigmoid, ln x or x scaled so that the readings span −1 to 1; a zero dose lies
        far below. center + half·t turns them back.
    y : (curves, n) less each curve's weighted mean, `mean` (curves,), and over its largest distance from it, `unit`.
    w : (1, n) where all curves have the same weights, else (curves, n); zero where a reading is missing.
    pure : (curves,) sum of squares of readings at the same place about their mean, which no curve can take away.
    total : (curves,) sum of squares of y.
    inside : the places without a zero dose, rising; closest : the least distance between two of them.
    """

    t: Array
    center: float
    half: float
    y: Array
    mean: Array
    unit: Array
    w: Array
    pure: Array
    total: Array
    inside: Array
    closest: float

    @classmethod
    def of(cls, levels: Array, y: Array, w: Array, pure: Array, *, logarithmic: bool) -> "Curves":
        """From distinct x (n,) in rising order, means and summed weights (curves, n), and the pure sum of squares."""
        with np.errstate(divide="ignore"):
            t = np.log(levels) if logarithmic else levels
        lowest, highest = float(t[1] if t[0] == -np.inf and t.size > 1 else t[0]), float(t[-1])
        center, half = (lowest + highest) / 2, (highest - lowest) / 2 or 1.0
        t = np.maximum((t - center) / half, NOWHERE)
        inside = t[1:] if t[0] == NOWHERE else t
        gaps = inside[1:] - inside[:-1]
        closest = float(gaps[gaps > SAME].min(initial=2.0)) if gaps.size else 1.0
        w = np.ascontiguousarray(w[:1] if len(w) == 1 or bool((w == w[0]).all()) else w)
        mean = (w * y).sum(axis=1) / np.maximum(w.sum(axis=1), 1e-300)
        y = np.where(w > 0, y - mean[:, None], 0.0)
        unit = np.abs(y).max(axis=1)
        unit[unit == 0] = 1.0
        y /= unit[:, None]
        return cls(t, center, half, y, mean, unit, w, pure / unit / unit, (w * y * y).sum(axis=1), inside, closest)

    def on(self, sign: float) -> "Curves":
        """The same, with −1 with the axis turned round."""
        if sign > 0:
            return self
        return Curves(-self.t, self.center, self.half, self.y, self.mean, self.unit, self.w, self.pure, self.total,
                      -self.inside[::-1], self.closest)  # fmt: skip

    @property
    def count(self) -> int:
        """Number of curves."""
        return len(self.y)

    @property
    def shared(self) -> bool:
        """Whether all curves have the same weights."""
        return len(self.w) == 1

    def take(self, curves: Any) -> "Curves":
        """Some of the curves."""
        w = self.w if self.shared else self.w[curves]
        return replace(self, y=self.y[curves], mean=self.mean[curves], unit=self.unit[curves], w=w,
                       pure=self.pure[curves], total=self.total[curves])  # fmt: skip

    @property
    def gap(self) -> float:
        """The mean distance of neighboring places, which span −1 to 1."""
        return 2.0 / max(self.inside.size - 1, 1)

    @cached_property
    def weight(self) -> Array:
        """Summed weight of a curve, (1,) or (curves,)."""
        summed: Array = np.maximum(self.w.sum(axis=1), 1e-300)
        return summed
