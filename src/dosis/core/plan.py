"""What to do next: at which levels to read, and how often, so that an answer is known well enough."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit

CANDIDATES = 61  # levels among which a design chooses
ROUNDS = 4000
LEAST = 0.02  # share of the readings below which a level is not worth its place
RIDGE = 1e-9
SAFE = 0.25  # share of the readings of a design for one answer that keep the whole curve known
Criterion = Literal["D", "c"]


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be known: a parameter above zero, such as a midpoint, or a level that is read back.

    parameter : its name, or empty; level : what is read back, the mean of so many `readings`. variance : of one of
    these, where it is not that of the curve's readings.
    """

    parameter: str = ""
    level: float = 0.0
    readings: int = 1
    variance: float | None = None


@dataclass(frozen=True, slots=True)
class Design:
    """Levels with the share of the readings that each takes; shares add up to 1."""

    levels: tuple[float, ...]
    shares: tuple[float, ...]

    def counts(self, n: int) -> tuple[int, ...]:
        """So many readings shared out, each level one at least, the rest by largest remainders."""
        n = max(n, len(self.levels))
        exact = [share * n for share in self.shares]
        found = [max(int(each), 1) for each in exact]
        order = sorted(range(len(exact)), key=lambda i: exact[i] - found[i], reverse=True)
        for k in range(n - sum(found)):
            found[order[k % len(order)]] += 1
        while sum(found) > n:
            found[max(range(len(found)), key=lambda i: (found[i] - exact[i], found[i]))] -= 1
        return tuple(found)


def half_width(
    curve: Fit, wanted: Wanted, levels: Sequence[float], counts: Sequence[int], level: float = 0.95
) -> float:
    """Half of the interval that is to be expected, as a share of the answer; infinite where it is not determined.

    First order about the fitted curve: Var = σ²·cᵀ(Σ n_i w_i f_i f_iᵀ)⁻¹c, of a read-back with 1/m of the sample's own
    readings (Atkinson, Donev & Tobias 2007, Optimum Experimental Designs, chapter 10); t on n − p degrees of freedom.
    """
    n, rows = int(sum(counts)), _rows(curve, np.array(levels, dtype=float))
    p, sigma = rows.shape[1], curve.rmse
    if sigma is None or n <= p or len(set(levels)) < p:
        return math.inf
    information = (rows * np.array(counts, dtype=float)[:, None]).T @ rows
    error = _error(curve, wanted, information, sigma)
    return math.inf if error is None else t_quantile((1 + level) / 2, n - p) * error


def best_design(curve: Fit, wanted: Wanted, criterion: Criterion, low: float, high: float) -> Design:
    """Levels from low to high that make the whole curve (D) or the answer (c) best known for its readings.

    By the multiplicative algorithm on a grid, evenly on log levels for a curve on doses (Silvey, Titterington & Torsney
    1978, Commun. Stat. A 7, 1379): shares grow with the variance there (D), or with how far the answer leans on it (c).
    A level of zero is a candidate where the curve has one. A design that is best for one answer is often not unique, or
    cannot tell all parameters: it is sought among the levels of the design for the whole curve and that of the answer
    itself, and a quarter of its readings are those of the former.

    Raises
    ------
    ValueError : where the curve does not determine its parameters.
    """
    grid = np.geomspace(low, high, CANDIDATES) if low > 0 and high > 4 * low else np.linspace(low, high, CANDIDATES)
    if float(curve.x.min()) == 0 and low > 0:
        grid = np.concatenate(([0.0], grid))
    rows = _rows(curve, grid)
    p = rows.shape[1]
    scale = np.sqrt((rows**2).mean(axis=0))
    if not np.isfinite(rows).all() or (scale == 0).any():
        raise ValueError("The curve does not determine its parameters, so nothing can be planned from it.")
    rows = rows / scale
    c = _leaning(curve, wanted, scale)
    whole = _gathered(grid, _shares(rows, None), p)
    if criterion == "D":
        return whole
    own = curve.named[wanted.parameter] if wanted.parameter else wanted.level
    levels = sorted({*whole.levels, min(max(own, low), high)})
    safe = np.array([dict(zip(whole.levels, whole.shares, strict=True)).get(level, 0.0) for level in levels])
    rows = _rows(curve, np.array(levels)) / scale
    return _kept(list(zip(levels, ((1 - SAFE) * _shares(rows, c) + SAFE * safe).tolist(), strict=True)), p)


def _shares(rows: Array, c: Array | None) -> Array:
    """Best shares of each candidate for the whole curve, or for what leans on the parameters by c."""
    count, p = rows.shape
    shares = np.full(count, 1 / count)
    for _ in range(ROUNDS):
        information = (rows * shares[:, None]).T @ rows + RIDGE * np.eye(p)
        inverse = np.linalg.inv(information)
        if c is None:
            gain = (rows @ inverse * rows).sum(axis=1) / p
        else:
            gain = np.abs(rows @ inverse @ c)
            gain = gain / float((shares * gain).sum())
        shares = shares * gain
        shares /= shares.sum()
        if float(gain.max()) < 1.001:
            break
    return shares


def _gathered(grid: Array, shares: Array, least: int) -> Design:
    """Neighbors that share a place as one level; places with next to nothing left out."""
    clusters: list[list[int]] = []
    for i in np.flatnonzero(shares > 1e-4).tolist():
        if clusters and i - clusters[-1][-1] <= 2:
            clusters[-1].append(i)
        else:
            clusters.append([i])
    found = [(float((grid[c] * shares[c]).sum() / shares[c].sum()), float(shares[c].sum())) for c in clusters]
    return _kept([(float(f"{x:.3g}"), share) for x, share in found], least)


def _kept(found: list[tuple[float, float]], least: int) -> Design:
    found = sorted(found, key=lambda each: -each[1])
    kept = [each for k, each in enumerate(found) if each[1] >= LEAST or k < least]
    kept.sort()
    total = sum(share for _, share in kept)
    return Design(tuple(float(f"{x:.3g}") for x, _ in kept), tuple(share / total for _, share in kept))


def simulated(
    curve: Fit, wanted: Wanted, levels: Sequence[float], counts: Sequence[int], *, runs: int = 200, seed: int = 1
) -> tuple[float, int]:
    """The middle half-width, as a share of the answer, within which 95 % of refitted answers lie, and how many fits
    gave one. Readings are drawn about the fitted curve with its own spread, and everything is fitted anew."""
    rng = np.random.default_rng(seed)
    x = np.repeat(np.array(levels, dtype=float), list(counts))
    y = curve.predict(x)
    spread = (curve.rmse or 0.0) * np.sqrt(curve.variance_factor(y, x))
    fixed = {name: curve.named[name] for name in curve.fixed}
    weights = 1 / curve.variance_factor(y, x)
    true = curve.named[wanted.parameter] if wanted.parameter else wanted.level
    found = []
    for _ in range(runs):
        try:
            again = fit(curve.model, x, y + spread * rng.standard_normal(x.size), weights=weights, fixed=fixed or None)
        except ValueError:
            continue
        if wanted.parameter:
            found.append(again.named[wanted.parameter] / true - 1)
            continue
        at = np.array([wanted.level])
        signal = float(curve.predict(at)[0])
        own = math.sqrt(_own(curve, wanted, curve.rmse or 0.0))
        back = again.estimates([signal + own * rng.standard_normal()])[0]
        if back is not None:
            found.append(back / true - 1)
    if len(found) < 20:
        return math.inf, len(found)
    low, high = np.quantile(found, [0.025, 0.975])
    return float(high - low) / 2, len(found)


def _free(curve: Fit) -> list[int]:
    return [i for i, name in enumerate(curve.model.names) if name not in curve.fixed]


def _rows(curve: Fit, x: Array) -> Array:
    """Derivatives of the curve by its free parameters, times the root of the weight there: (n, p)."""
    slopes = curve.model.derivative(x, curve.values)[:, _free(curve)]
    factors = curve.variance_factor(curve.predict(x), x)
    found: Array = slopes / np.sqrt(factors)[:, None]
    return found


def _leaning(curve: Fit, wanted: Wanted, scale: Array) -> Array:
    """How the answer leans on the free parameters, each in units of `scale`."""
    if wanted.parameter:
        names = [curve.model.names[i] for i in _free(curve)]
        c = np.array([1.0 / curve.named[name] if name == wanted.parameter else 0.0 for name in names])
    else:
        c = curve.model.derivative(np.array([wanted.level]), curve.values)[0, _free(curve)]
    found: Array = c / scale
    return found


def _error(curve: Fit, wanted: Wanted, information: Array, sigma: float) -> float | None:
    """Standard error of the answer, as a share of it."""
    scale = np.sqrt(np.diag(information))
    if not (scale > 0).all() or not np.isfinite(scale).all():
        return None
    even = information / np.outer(scale, scale)
    if np.linalg.cond(even) > 1e14:
        return None
    c = _leaning(curve, wanted, scale)
    variance = float(c @ np.linalg.solve(even, c)) * sigma**2
    if wanted.parameter:
        return math.sqrt(max(variance, 0.0))
    at = np.array([wanted.level])
    slope = float(curve.model.gradient(at, curve.values)[0])
    if slope == 0 or wanted.level == 0:
        return None
    return math.sqrt(max(variance, 0.0) + _own(curve, wanted, sigma)) / abs(slope * wanted.level)


def _own(curve: Fit, wanted: Wanted, sigma: float) -> float:
    """Variance of the mean of the sample's own readings."""
    at = np.array([wanted.level])
    one = wanted.variance
    if one is None:
        one = sigma**2 * float(curve.variance_factor(curve.predict(at), at)[0])
    return one / wanted.readings
