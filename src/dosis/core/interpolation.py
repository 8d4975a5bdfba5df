"""Point to point: curves that go through every level, and look-up tables that are read in either direction."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.fitting.readings import readings
from dosis.core.inference.read_back import Flag, ReadBack
from dosis.core.inference.roots import bisect

Kind = Literal["interpolation_linear", "interpolation_log", "interpolation_monotone"]
TableKind = Literal["interpolation_linear", "interpolation_monotone"]
KINDS: dict[Kind, str] = {
    "interpolation_linear": "straight lines between neighboring points",
    "interpolation_log": "straight lines on the logarithm of x",
    "interpolation_monotone": "a smooth curve that rises and falls only where the points do (PCHIP)",
}


@dataclass(frozen=True)
class Interpolation:
    """A curve through the mean at each x. It has no parameters and no spread, so what is read back has no interval.

    x : (k,) distinct, rising; y : (k,) means there.
    """

    kind: Kind
    x: Array
    y: Array

    def predict(self, x: ArrayLike) -> Array:
        """y at x; NaN beyond the first and the last point, which is never extrapolated."""
        at = np.atleast_1d(np.asarray(x, dtype=float))
        with np.errstate(all="ignore"):
            t, grid = (np.log(at), np.log(self.x)) if self.kind == "interpolation_log" else (at, self.x)
            if self.kind != "interpolation_monotone":
                value = np.interp(t, grid, self.y)
            else:
                i = np.clip(np.searchsorted(grid, t, side="right") - 1, 0, grid.size - 2)
                value = _hermite(t, grid, self.y, self._slopes, i)
        inside: Array = np.where((at >= self.x[0]) & (at <= self.x[-1]), value, np.nan)
        return inside

    def read_back(self, y: float | Sequence[float]) -> ReadBack:
        """The x at which the curve gives the mean of y, from the two points around it.

        Flagged above or below the range, flat, or ambiguous where the curve has that y more than once.
        """
        values = np.atleast_1d(np.asarray(y, dtype=float))
        if values.size == 0 or not np.isfinite(values).all():
            raise ValueError("A sample needs at least 1 reading, all finite, to be read back.")
        signal, n = math.fsum(values.tolist()) / values.size, float(values.size)
        why = "point to point there is no interval"
        if np.ptp(self.y) == 0:
            return ReadBack(None, None, None, None, Flag.FLAT, "the points are all level", n)
        low, high = self.y[:-1], self.y[1:]
        within = (np.minimum(low, high) <= signal) & (signal <= np.maximum(low, high))
        pieces = np.flatnonzero(within)
        if not pieces.size:
            above = (signal > self.y.max()) == (self.y[-1] > self.y[0])
            flag = Flag.ABOVE_RANGE if above else Flag.BELOW_RANGE
            said = "above the top standard" if above else "below the lowest standard"
            return ReadBack(None, None, None, None, flag, f"{said}; point to point is never extrapolated", n)
        found = [self._solve(int(i), signal) for i in pieces]
        if max(found) - min(found) > 1e-12 * (abs(found[0]) + abs(found[-1])):
            reason = "the curve has that signal at more than one x"
            return ReadBack(None, None, None, None, Flag.AMBIGUOUS, reason, n)
        return ReadBack(found[0], None, None, None, None, why, n)

    def _solve(self, i: int, signal: float) -> float:
        low, high = float(self.x[i]), float(self.x[i + 1])
        if self.y[i] == signal or self.y[i] == self.y[i + 1]:
            return low
        if self.kind == "interpolation_monotone":
            return bisect(lambda at: float(self.predict(at)[0]) - signal, low, high)
        share = float((signal - self.y[i]) / (self.y[i + 1] - self.y[i]))
        if self.kind == "interpolation_log":
            return float(low * (high / low) ** share)
        return low + share * (high - low)

    @cached_property
    def _slopes(self) -> Array:
        """Slopes that keep a cubic monotone (Fritsch & Butland 1984, SIAM J. Sci. Stat. Comput. 5, 300)."""
        h, rise = np.diff(self.x), np.diff(self.y) / np.diff(self.x)
        if self.x.size == 2:
            return np.repeat(rise, 2)
        w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
        with np.errstate(all="ignore"):
            inner = (w1 + w2) / (w1 / rise[:-1] + w2 / rise[1:])
        inner = np.where(rise[:-1] * rise[1:] > 0, inner, 0.0)
        return np.concatenate(([_end(h[0], h[1], rise[0], rise[1])], inner, [_end(h[-1], h[-2], rise[-1], rise[-2])]))


def _end(h0: float, h1: float, rise0: float, rise1: float) -> float:
    """Three-point slope at an end, kept from overshooting (Moler, Numerical Computing with MATLAB, 3.4)."""
    slope = ((2 * h0 + h1) * rise0 - h0 * rise1) / (h0 + h1)
    if slope * rise0 <= 0:
        return 0.0
    if rise0 * rise1 <= 0 and abs(slope) > 3 * abs(rise0):
        return 3 * rise0
    return slope


def _hermite(t: Array, x: Array, y: Array, slopes: Array, i: Rows) -> Array:
    h = x[i + 1] - x[i]
    s = (t - x[i]) / h
    value: Array = (
        y[i] * (1 + 2 * s) * (1 - s) ** 2 + slopes[i] * h * s * (1 - s) ** 2
        + y[i + 1] * s * s * (3 - 2 * s) + slopes[i + 1] * h * s * s * (s - 1)
    )  # fmt: skip
    return value


def interpolate(kind: Kind, x: ArrayLike, y: ArrayLike) -> Interpolation:
    """A curve through the mean reading at each x.

    Raises
    ------
    ValueError : for what `fit` refuses of x and y, fewer than 2 different x, or x not above zero on a logarithm.
    """
    if kind not in KINDS:
        raise ValueError(f"There is no interpolation “{kind}”. Known: {', '.join(KINDS)}.")
    data = readings(x, y, None, None).means()
    if data.x.size < 2:
        raise ValueError(f"A curve from point to point needs at least 2 different x; there are {data.x.size}.")
    if kind == "interpolation_log" and data.x[0] <= 0:
        raise ValueError(f"On a logarithm every x must be above zero; here is {data.x[0]:g}.")
    return Interpolation(kind, data.x, data.y)


@dataclass(frozen=True)
class LookupTable:
    """A named two-column table, read in either direction and never beyond its ends."""

    name: str
    curve: Interpolation

    def forward(self, x: ArrayLike) -> Array:
        """The second column at values of the first; NaN outside."""
        return self.curve.predict(x)

    def backward(self, y: float) -> ReadBack:
        """The first column at a value of the second; flagged outside, or where the second column has it twice."""
        return self.curve.read_back(y)

    def inverse(self, y: ArrayLike) -> Array:
        """The first column at values of the second; NaN outside, or where the second column has one twice."""
        values = np.atleast_1d(np.asarray(y, dtype=float))
        found = [self.backward(float(v)).estimate if math.isfinite(v) else None for v in values.ravel()]
        return np.array([np.nan if x is None else x for x in found]).reshape(values.shape)


def lookup_table(name: str, x: ArrayLike, y: ArrayLike, kind: TableKind = "interpolation_linear") -> LookupTable:
    """A look-up table from its two columns.

    Raises
    ------
    ValueError : when an x stands in the table twice with different y, besides what `interpolate` refuses.
    """
    curve = interpolate(kind, x, y)
    given = np.asarray(y, dtype=float)
    if curve.x.size < given.size and not np.isin(given, curve.y).all():
        raise ValueError(f"Table “{name}” gives two values for the same x; each x may stand in it once.")
    return LookupTable(name, curve)
