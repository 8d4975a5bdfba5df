"""How scans change: in percent, at a first-order rate, and where they do not."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.spectra.scan import scan

HalfLife = tuple[float, float | None, float | None]  # it, and the ends of its interval
WIDEST = 20.0  # half-width of ln half-life, beyond which an interval says nothing


def percent_change(values: ArrayLike, reference: int = 0) -> Array:
    """Change against one of the values, in percent of it.

    Raises
    ------
    ValueError : when the value compared with is zero.
    """
    y = np.atleast_1d(np.asarray(values, dtype=float))
    base = float(y[reference])
    if base == 0:
        raise ValueError("A change in percent needs a first value that is not zero.")
    change: Array = 100 * (y - base) / base
    return change


@dataclass(frozen=True, slots=True)
class FirstOrder:
    """Rate constant in 1/time and half-life in time, each with its interval; `fit` is the decay or the rise."""

    rate: float
    rate_interval: tuple[float | None, float | None] | None
    half_life: float
    half_life_interval: tuple[float | None, float | None] | None
    fit: Fit


def first_order(time: ArrayLike, value: ArrayLike, *, to_zero: bool = False, level: float = 0.95) -> FirstOrder:
    """First-order change with time: value = plateau + amplitude·exp(−rate·time); half-life = ln 2/rate.

    A rise is the same with an amplitude below zero. With `to_zero` the plateau is zero.

    Raises
    ------
    ValueError : for what `fit` refuses.
    """
    result = fit("exponential_decay" if to_zero else "exponential_decay_plateau", time, value)
    rate = result.parameters["rate"]
    interval = rate.interval(level)
    half, low, high = half_life(rate.estimate, interval)
    return FirstOrder(rate.estimate, interval, half, None if interval is None else (low, high), result)


def half_life(rate: float, interval: tuple[float | None, float | None] | None) -> HalfLife:
    """ln 2/rate with its interval, that of the rate turned over; an end that is no rate above zero gives none."""
    lower, upper = interval or (None, None)
    low = None if upper is None or upper <= 0 else math.log(2) / upper
    high = None if lower is None or lower <= 0 else math.log(2) / lower
    return math.log(2) / rate, low, high


def half_life_of_line(result: Fit, level: float = 0.95) -> HalfLife | None:
    """When a fitted line has fallen to half of where it starts; None of one that does not fall.

    The interval is by t on the log scale, from the covariance of slope and intercept.
    """
    start, slope = result.named["intercept"], result.named["slope"]
    if slope == 0 or -start / slope <= 0:
        return None
    half, covariance = -start / (2 * slope), result.covariance
    if covariance is None or result.n < 3:
        return half, None, None
    names = list(result.named)
    i, j = names.index("intercept"), names.index("slope")
    variance = covariance[i, i] / start**2 + covariance[j, j] / slope**2 - 2 * covariance[i, j] / (start * slope)
    if not math.isfinite(variance) or variance < 0:
        return half, None, None
    width = t_quantile((1 + level) / 2, result.n - 2) * math.sqrt(variance)
    return (half, None, None) if width > WIDEST else (half, half / math.exp(width), half * math.exp(width))


def isosbestic_points(
    wavelength: ArrayLike, values: ArrayLike, *, tolerance: float = 0.02, least: float = 0.05
) -> list[float]:
    """Wavelengths at which all scans have the same value while it changes on either side.

    Candidates are where the first and the last scan cross; one is kept when the spread (SD) of all scans there is at
    most `tolerance` of the largest spread anywhere, and their mean at least `least` of the highest: where nothing
    absorbs, scans cross by noise alone. Crossings with next to no change between them are one, at their middle.

    Parameters
    ----------
    wavelength : (n,); values : (scans, n), at least 2.

    Raises
    ------
    ValueError : for fewer than 2 scans, or scans that do not fit the wavelengths.
    """
    many = np.atleast_2d(np.asarray(values, dtype=float))
    if len(many) < 2:
        raise ValueError("An isosbestic point needs at least 2 scans.")
    pairs = [scan(wavelength, each) for each in many]
    x, scans = pairs[0][0], np.stack([y for _, y in pairs])
    gap, spread, mean = scans[-1] - scans[0], scans.std(axis=0), scans.mean(axis=0)
    largest = float(spread.max())
    if largest == 0:
        return []
    found = [float(x[i]) for i in np.flatnonzero(gap == 0)]
    for i in np.flatnonzero(gap[:-1] * gap[1:] < 0):
        found.append(float(x[i] - gap[i] * (x[i + 1] - x[i]) / (gap[i + 1] - gap[i])))
    kept: list[list[float]] = []
    for at in sorted(found):
        after = min(int(np.searchsorted(x, at, side="right")), int(x.size) - 1)
        share = (at - x[after - 1]) / (x[after] - x[after - 1])
        at_it = scans[:, after - 1] + share * (scans[:, after] - scans[:, after - 1])
        if float(at_it.std()) > tolerance * largest or float(at_it.mean()) < least * float(mean.max()):
            continue
        between = (x > kept[-1][-1]) & (x < at) if kept else np.zeros(x.size, dtype=bool)
        if kept and not (between.any() and float(spread[between].max()) > 2 * tolerance * largest):
            kept[-1].append(at)
        else:
            kept.append([at])
    return [sum(each) / len(each) for each in kept]
