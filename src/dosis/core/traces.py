"""Traces: long recordings of a voltage, calibrated from regions where the true value was known."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.replicates import Replicates, summarize

Order = Literal[1, 2, 3]


@dataclass(frozen=True, slots=True)
class Region:
    """A stretch of a recording: from `start` up to, not including, `stop`, in time; and its signal."""

    start: float
    stop: float
    signal: Replicates


@dataclass(frozen=True, slots=True)
class Steady:
    """How a stretch stands: its mean with standard error and degrees of freedom, SD, slope with its standard error.

    error is that of batch means: neighboring samples of a recording are alike, so that SD ÷ √n is far too small.
    """

    n: int
    mean: float
    sd: float
    error: float | None
    df: int
    slope: float | None
    slope_error: float | None
    least: float
    greatest: float


BATCHES = 20  # parts of a stretch whose means tell how sure its mean is
IN_BATCH = 5  # samples of each at least


def steady(time: ArrayLike, signal: ArrayLike) -> Steady:
    """How a stretch of a recording stands; missing samples (NaN) are left out.

    The standard errors are those of batch means (Conway 1963, Manag. Sci. 10, 47): of the mean from the SD of up to
    twenty equal parts, of the slope from a line through their means.

    Raises
    ------
    ValueError : when there is no sample.
    """
    t, y = np.asarray(time, dtype=float), np.asarray(signal, dtype=float)
    there = np.isfinite(y)
    t, y = t[there], y[there]
    if not y.size:
        raise ValueError("There is no sample in this stretch.")
    count = min(BATCHES, y.size // IN_BATCH) if y.size >= 2 * IN_BATCH else min(BATCHES, y.size)
    parts = np.linspace(0, y.size, count + 1).astype(int)
    size = np.diff(parts)
    means = np.add.reduceat(y, parts[:-1]) / size
    at = np.add.reduceat(t, parts[:-1]) / size
    error = float(np.std(means, ddof=1) / math.sqrt(count)) if count > 1 else None
    slope = slope_error = None
    if count > 2 and float(np.ptp(at)) > 0:
        about = at - at.mean()
        slope = float(about @ means / (about @ about))
        rest = means - means.mean() - slope * about
        slope_error = math.sqrt(float(rest @ rest) / (count - 2) / float(about @ about))
    sd = float(np.std(y, ddof=1)) if y.size > 1 else 0.0
    return Steady(int(y.size), float(y.mean()), sd, error, max(count - 1, 0), slope, slope_error, float(y.min()),
                  float(y.max()))  # fmt: skip


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
    try:
        return calibrate_through([each.signal.mean for each in regions], known, order)
    except ValueError:
        raise ValueError("The regions must differ in signal to calibrate by; choose others.") from None


def calibrate_through(means: Sequence[float], known: Sequence[float], order: Order = 1) -> Calibration:
    """As `calibrate`, of the mean signals of stretches.

    Raises
    ------
    ValueError : when there are too few for the order, or they do not differ in signal.
    """
    at, value = np.asarray(means, dtype=float), np.asarray(known, dtype=float)
    if np.unique(at).size < order + 1:
        need = f"A calibration of order {order} needs at least {order + 1} stretches that differ in signal"
        raise ValueError(f"{need}; there {'is' if np.unique(at).size == 1 else 'are'} {np.unique(at).size}.")
    coefficients = _coefficients(at, value, order)
    return Calibration(coefficients, value, np.polynomial.polynomial.polyval(at, coefficients) - value)


def calibrate_with_sensitivity(at: Region, known: float, sensitivity: float) -> Calibration:
    """Calibration from one region and a known sensitivity, in signal per unit of value. Raises as `calibrate_at`."""
    return calibrate_at(at.signal.mean, known, sensitivity)


def calibrate_at(mean: float, known: float, sensitivity: float) -> Calibration:
    """The same from the mean signal of a stretch.

    Raises
    ------
    ValueError : for a sensitivity of zero.
    """
    if sensitivity == 0:
        raise ValueError("A sensitivity of zero cannot be calibrated with.")
    slope = 1 / sensitivity
    return Calibration(np.array([known - slope * mean, slope]), np.array([known]), np.zeros(1))


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


def calibration_error(
    means: Sequence[float], errors: Sequence[float], known: Sequence[float], order: Order, signal: ArrayLike
) -> Array:
    """Standard error of calibrated values that comes from how sure the known stretches are, of the shape of `signal`.

    Each mean in turn is moved by its standard error and the calibration made again (GUM, JCGM 100:2008, 5.1.3, by
    differences); what the values move by adds up in squares.
    """
    y = np.asarray(signal, dtype=float)
    at, value = np.asarray(means, dtype=float), np.asarray(known, dtype=float)

    def through(points: Array) -> Array:
        moved: Array = np.polynomial.polynomial.polyval(y, _coefficients(points, value, order))
        return moved

    before, total = through(at), np.zeros(y.shape)
    for i, error in enumerate(errors):
        if error > 0:
            step = at.copy()
            step[i] += error
            total += np.square(through(step) - before)
    found: Array = np.sqrt(total)
    return found


def _coefficients(signal: Array, value: Array, order: int) -> Array:
    """Of the polynomial by least squares, the constant first; about the middle, so that no digits are lost."""
    polynomial = np.polynomial.Polynomial.fit(signal, value, order).convert()
    found: Array = np.zeros(order + 1)
    found[: polynomial.coef.size] = polynomial.coef
    return found
