"""Whether a response changes with dose at all, and whether more than one end dose shows it.

A curve can always be laid through readings that only scatter, and a single edge well makes a steep one. Before a
half-effect dose is read off a curve, the readings must show an effect.
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core.arrays import Flags
from dosis.core.distributions import f_upper_p, t_quantile, t_two_sided_p
from dosis.core.inference.result import Fit

SHOWN = 0.01  # p of the curve against a level response below which there is an effect
ALONG = 0.001  # p of a straight trend along the order of the doses, which shows one where few readings are left over
SUPPORTED = 0.01  # p of a change among the other doses, when an end dose is left away
PLAIN, HALF = 0.05, 0.5  # p that is enough for both where the curve covers that share of the scale
Seen = Literal["everywhere", "nowhere", "lowest", "highest", "unknown"]


@dataclass(frozen=True, slots=True)
class EffectSeen:
    """Where a change with dose is seen: over the doses, nowhere, or at the lowest or highest dose alone.

    p : of the curve against a level response; None without a spread to judge by, `where` is then "unknown".
    """

    where: Seen
    p: float | None


@dataclass(frozen=True, slots=True)
class Change:
    """The mean response at a dose less that without effect, with the interval of that difference."""

    dose: float
    estimate: float
    lower: float | None
    upper: float | None


def effect_seen(fit: Fit, scale: float | None = None) -> EffectSeen:
    """Judge a fitted curve by the extra sum of squares over a level response, whatever its model.

    A curve of many parameters through few readings leaves that test little power, so a plain trend counts as well.
    Then the lowest and the highest dose are left away in turn: when the others do not differ among themselves, neither
    along the doses nor as groups, the curve rests on that one end (Inglese et al. 2006, PNAS 103, 11473, put such
    curves into a class of their own). The spread is that of the fit.

    scale : how far the responses of the controls stand apart, where that is known; a curve that covers half of it is
        taken for an effect on less evidence, since scatter and edges seldom do.

    Returns
    -------
    EffectSeen : as in `effect_seen(fit("logistic4", dose, response)).where`.
    """
    more, df, rmse = fit.free - 1, fit.degrees_of_freedom, fit.rmse
    level = float(fit.weights @ fit.y) / float(fit.weights.sum())
    total = float(fit.weights @ np.square(fit.y - level))
    gained = total - fit.sse
    if gained <= 1e-12 * float(fit.weights @ np.square(fit.y)):
        return EffectSeen("nowhere", 1.0)
    if rmse is None or more <= 0:
        return EffectSeen("unknown", None)
    if rmse == 0:
        return EffectSeen("everywhere", 0.0)
    p = f_upper_p(gained / more / rmse**2, more, df)
    first, last = fit.predict(fit.range).tolist()
    plain = scale is not None and abs(last - first) >= HALF * abs(scale)
    shown, supported = (PLAIN, PLAIN) if plain else (SHOWN, SUPPORTED)
    if p >= shown and _trend_p(fit, total) >= ALONG:
        return EffectSeen("nowhere", p)
    low, high = (
        _still_changes(fit, keep, rmse, df, supported) for keep in (fit.x > fit.range[0], fit.x < fit.range[1])
    )
    if low and high:
        return EffectSeen("everywhere", p)
    return EffectSeen("nowhere" if low == high else "lowest" if not low else "highest", p)


def greatest_change(fit: Fit, without: float | None = None, variance: float = 0.0, level: float = 0.95) -> Change:
    """The dose whose mean response lies furthest from that without effect, and by how much.

    without : the response without effect and the variance of that; else the mean at the lowest dose.
    The interval is of that one dose, by t with the spread of the fit (or None without one).
    """
    levels, group = fit.places.levels, fit.places.group
    weight = np.bincount(group, fit.weights)
    mean = np.bincount(group, fit.weights * fit.y) / weight
    spread = fit.rmse**2 if fit.rmse is not None else math.nan
    if without is None:
        without, variance = float(mean[0]), spread / float(weight[0])
        away = mean[1:] - without
        at = 1 + int(np.abs(away).argmax())
    else:
        at = int(np.abs(mean - without).argmax())
    found = float(mean[at]) - without
    half = math.nan
    if fit.degrees_of_freedom > 0:
        half = t_quantile((1 + level) / 2, fit.degrees_of_freedom) * math.sqrt(spread / float(weight[at]) + variance)
    ends = (found - half, found + half) if math.isfinite(half) else (None, None)
    return Change(float(levels[at]), found, *ends)


def _trend_p(fit: Fit, total: float) -> float:
    """Of a straight line over the order of the doses, by the spread about that line."""
    along, square = _along(fit, np.ones(fit.x.size, dtype=bool))
    if fit.n < 3 or square == 0:
        return 1.0
    left = total - along**2 / square
    if left <= 0:
        return 0.0
    return t_two_sided_p(along / math.sqrt(square * left / (fit.n - 2)), fit.n - 2)


def _along(fit: Fit, keep: Flags) -> tuple[float, float]:
    """Sxy and Sxx of the response on the order of the doses."""
    y, w, at = fit.y[keep], fit.weights[keep], fit.places.group[keep]
    rank = at - float(w @ at) / float(w.sum())
    return float(w @ (rank * y)), float(w @ np.square(rank))


def _still_changes(fit: Fit, keep: Flags, rmse: float, df: int, below: float) -> bool:
    """Whether the readings kept differ along the order of their doses, or between doses, by more than they scatter."""
    y, w = fit.y[keep], fit.weights[keep]
    at = fit.places.group[keep]
    if np.unique(at).size < 2:
        return True  # nothing is left to tell by
    away = y - float(w @ y) / float(w.sum())
    along, square = _along(fit, keep)
    trend = t_two_sided_p(along / math.sqrt(square) / rmse, df)
    if trend < below:
        return True
    weight = np.bincount(at, w)
    there = weight > 0
    mean = np.bincount(at, w * away)[there] / weight[there]
    between = float(weight[there] @ np.square(mean)) / (int(there.sum()) - 1) / rmse**2
    return f_upper_p(between, int(there.sum()) - 1, df) < below
