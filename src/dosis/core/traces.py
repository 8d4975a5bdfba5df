"""Traces: long recordings of a voltage, calibrated from regions where the true value was known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.fitting.fit import fit
from dosis.core.replicates import Replicates, summarize

Order = Literal[1, 2, 3]
MODELS: dict[int, str] = {1: "line", 2: "quadratic", 3: "cubic"}


@dataclass(frozen=True, slots=True)
class Region:
    """A stretch of a recording: from `start` up to, not including, `stop`, in time; and its signal."""

    start: float
    stop: float
    signal: Replicates


@dataclass(frozen=True)
class Calibration:
    """value = c0 + c1·signal (+ c2·signal² + c3·signal³); `proof` is each region read back, less its known value."""

    coefficients: Array
    known: Array
    proof: Array

    def apply(self, signal: ArrayLike) -> Array:
        """Calibrated values of a whole channel, any shape."""
        value: Array = np.polynomial.polynomial.polyval(np.asarray(signal, dtype=float), self.coefficients)
        return value


def region(time: ArrayLike, signal: ArrayLike, start: float, stop: float) -> Region:
    """Average a stretch of the recording; readings that are missing (NaN) are left out.

    Raises
    ------
    ValueError : when no reading lies in the stretch.
    """
    t, y = np.asarray(time, dtype=float), np.asarray(signal, dtype=float)
    if t.shape != y.shape or t.ndim != 1:
        raise ValueError(f"A recording has one signal a time; here are {t.size} times and {y.size} signals.")
    inside = (t >= start) & (t < stop) & np.isfinite(y)
    if not inside.any():
        raise ValueError(f"There is no reading between {start:g} and {stop:g}.")
    return Region(start, stop, summarize(y[inside].tolist()))


def calibrate(regions: Sequence[Region], known: Sequence[float], order: Order = 1) -> Calibration:
    """Calibration through two or more regions of known value: a line, or a polynomial with enough of them.

    Raises
    ------
    ValueError : when the regions are too few for the order, or do not differ in signal.
    """
    if len(regions) != len(known):
        raise ValueError(f"There are {len(regions)} regions and {len(known)} known values.")
    if len(regions) < order + 1:
        raise ValueError(
            f"A calibration of order {order} needs at least {order + 1} regions; there are {len(regions)}."
        )
    signal, value = np.array([each.signal.mean for each in regions]), np.asarray(known, dtype=float)
    try:
        result = fit(MODELS[order], signal, value)
    except ValueError:
        raise ValueError("The regions must differ in signal to calibrate by; choose others.") from None
    named = result.named
    coefficients = (
        np.array([named["intercept"], named["slope"]])
        if order == 1
        else np.array([named[f"c{power}"] for power in range(order + 1)])
    )
    return Calibration(coefficients, value, result.predict(signal) - value)


def calibrate_with_sensitivity(at: Region, known: float, sensitivity: float) -> Calibration:
    """Calibration from one region and a known sensitivity, in signal per unit of value.

    Raises
    ------
    ValueError : for a sensitivity of zero.
    """
    if sensitivity == 0:
        raise ValueError("A sensitivity of zero cannot be calibrated with.")
    slope = 1 / sensitivity
    return Calibration(np.array([known - slope * at.signal.mean, slope]), np.array([known]), np.zeros(1))


@dataclass(frozen=True, slots=True)
class Drift:
    """How far two calibrations disagree at the known values: after less before, and in percent of the span."""

    differences: Array
    largest_percent: float


def drift(before: Calibration, after: Calibration, signals: Sequence[float]) -> Drift:
    """Compare the calibrations made before and after a recording, at given signals.

    Raises
    ------
    ValueError : when the signals are all read as the same value, so that there is no span.
    """
    first, second = before.apply(signals), after.apply(signals)
    span = float(np.ptp(first))
    if span == 0:
        raise ValueError("The drift needs at least 2 signals that differ.")
    return Drift(second - first, float(100 * np.abs(second - first).max() / span))


def apply_drifting(
    before: Calibration, after: Calibration, time: ArrayLike, signal: ArrayLike, start: float, stop: float
) -> Array:
    """Calibrated values that go steadily from one calibration to the other between two times, (n,)."""
    t = np.asarray(time, dtype=float)
    share = np.clip((t - start) / (stop - start), 0.0, 1.0)
    value: Array = (1 - share) * before.apply(signal) + share * after.apply(signal)
    return value
