"""`fit_many`: thousands of quantal lines on the same doses in one array program, with the same numbers as `fit`."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array, Flags
from dosis.core.quantal.links import LINKS, LinkName
from dosis.core.quantal.model import NO_PARTIAL, STEP

# Score test at which a step is the last: Fisher scoring closes in by squares for the logit, else steadily.
CLOSE = {"probit": 1e-19, "logit": 1e-12, "cloglog": 1e-19}
LOST = 35.0  # change of the line between neighboring doses beyond which no two can be partial
PATIENT, MOST = 15, 100  # steps before they are doubted, and in all
LARGEST = 4.0  # change of the line anywhere that one step may make
CROWD = 0.3  # share of finished sets from which they are put aside
CHUNK = 4000  # lines at a time


@dataclass(frozen=True)
class QuantalBatch:
    """Lines of many sets: link(p) = intercept + slope·x, x = log10(dose) or dose. Arrays have one entry a set.

    variances : of intercept and slope, and their covariance, (3, sets), without heterogeneity. Where `converged` is
    False no finite slope is best (fewer than two partial responses), and every number of that set is NaN.
    """

    link: LinkName
    log_dose: bool
    intercept: Array
    slope: Array
    variances: Array
    deviance: Array
    pearson: Array
    degrees_of_freedom: int
    converged: Flags

    def dose_for(self, share: float, level: float = 0.95) -> tuple[Array, Array, Array]:
        """Dose that affects a share, and its Fieller interval, (sets,) each; NaN where an end is open.

        Raises
        ------
        ValueError : for a share outside 0 to 1.
        """
        if not 0 < share < 1:
            raise ValueError(f"The share must lie between 0 and 1; here it is {share:g}.")
        target = float(LINKS[self.link].line(np.array([share]))[0])
        z = float(special.ndtri((1 + level) / 2))
        v0, v1, v01 = self.variances
        with np.errstate(all="ignore"):
            above, leading = target - self.intercept, self.slope**2 - z * z * v1
            middle = above * self.slope + z * z * v01
            half = np.sqrt(np.maximum(middle * middle - leading * (above * above - z * z * v0), 0.0))
            bounded = np.where(leading > 0, 1.0, np.nan)
            ends = [(middle - half) / leading * bounded, (middle + half) / leading * bounded]
            found = [above / self.slope, *ends]
            if self.log_dose:
                found = [10.0 ** np.minimum(x, 300.0) for x in found]
        return found[0], found[1], found[2]


def fit_many(
    dose: ArrayLike, affected: ArrayLike, exposed: ArrayLike, *, link: LinkName = "probit", log_dose: bool = True
) -> QuantalBatch:
    """Fit a dose–mortality line to every row of counts, by Fisher scoring of all sets at once.

    Parameters
    ----------
    dose : (k,), the same for all sets, above zero for a logarithmic dose; affected : (sets, k); exposed : (k,) or
        (sets, k), zero where a set has no such group.
    link, log_dose : as in `fit`.

    Raises
    ------
    ValueError : for shapes that do not fit, counts that make no sense, or fewer than 2 doses.
    """
    doses, r = np.asarray(dose, dtype=float), np.atleast_2d(np.asarray(affected, dtype=float))
    given = np.asarray(exposed, dtype=float)
    if link not in LINKS:
        raise ValueError(f"There is no link “{link}”. Known: {', '.join(LINKS)}.")
    if doses.ndim != 1 or r.shape[1:] != doses.shape or given.shape not in (doses.shape, r.shape):
        raise ValueError(f"dose has shape {doses.shape}, affected {r.shape}, exposed {given.shape}; they do not fit.")
    n = np.broadcast_to(given, r.shape)
    if not (np.isfinite(r).all() and np.isfinite(n).all() and (r >= 0).all() and (r <= n).all()):
        raise ValueError("Every count must be finite, not below zero, and affected no more than exposed.")
    if not np.isfinite(doses).all() or (log_dose and (doses <= 0).any()) or np.unique(doses).size < 2:
        raise ValueError("A line needs 2 different doses, all finite, and above zero where their logarithm counts.")
    x = np.log10(doses) if log_dose else doses
    with np.errstate(all="ignore"):
        parts = [_chunk(x, r[i : i + CHUNK].T, n[i : i + CHUNK].T, link) for i in range(0, len(r), CHUNK)]
    intercept, slope, variances, deviance, pearson, converged = (
        np.concatenate(column, axis=-1) for column in zip(*parts, strict=True)
    )
    return QuantalBatch(
        link, log_dose, intercept, slope, variances, deviance, pearson, doses.size - 2, converged.astype(bool)
    )


def _chunk(x: Array, r: Array, n: Array, link: LinkName) -> tuple[Array, ...]:
    """All of one chunk; r and n are (k, sets)."""
    r, n = np.ascontiguousarray(r), np.ascontiguousarray(n)
    low, high = float(x.min()), float(x.max())
    center, half = (low + high) / 2, (high - low) / 2
    u = (x - center) / half
    powers = np.stack((np.ones_like(u), u, u * u))
    both, line_of, closest = LINKS[link].both, LINKS[link].line, float(np.diff(np.unique(u)).min())
    weight = np.where(n > 0, n, 0.0)
    line = line_of(np.clip((r + 0.5) / (n + 1), 0.02, 0.98))
    a, b = _solve(powers @ weight, powers[:2] @ (weight * line))
    sets, done = r.shape[1], np.zeros(r.shape[1], dtype=bool)
    theta = np.zeros((2, sets))
    rows = np.flatnonzero(~_separated(u, r, n))
    a, b, rr, nn = a[rows], b[rows], r[:, rows], n[:, rows]
    last, damping = np.full(rows.size, np.inf), np.ones(rows.size)
    for turn in range(MOST if rows.size else 0):
        p, slope = both(a + b * u[:, None])
        if link == "logit":  # its slope is p·(1 − p)
            score, information = powers[:2] @ (rr - nn * p), powers @ (nn * slope)
        else:
            np.maximum(p, 1e-300, out=p)
            np.minimum(p, 1 - 1e-16, out=p)
            gain = slope / (p * (1 - p))
            score, information = powers[:2] @ ((rr - nn * p) * gain), powers @ (nn * slope * gain)
        da, db = _solve(information, score)
        test = score[0] * da + score[1] * db
        # Far from the link's own information steps go too far, turn by turn: they are shortened until they do not.
        if turn >= PATIENT:
            damping = np.where(test > 0.3 * last, np.maximum(0.8 * damping, 0.2), np.minimum(1.1 * damping, 1.0))
        last = test
        factor = damping * np.minimum(LARGEST / np.maximum(np.abs(da) + np.abs(db), 1e-300), 1.0)
        a, b = a + da * factor, b + db * factor
        now = test <= CLOSE[link]
        done[rows[now]] = True
        over = now | (np.abs(b) * closest > LOST) | ~np.isfinite(b)
        if over.mean() > CROWD or turn == MOST - 1:
            theta[:, rows] = a, b
            stay = np.flatnonzero(~over)
            if not stay.size:
                break
            rows, a, b, rr, nn = rows[stay], a[stay], b[stay], rr[:, stay], nn[:, stay]
            last, damping = last[stay], damping[stay]
    return _finished(theta, done, u, powers, r, n, link, center, half)


def _separated(u: Array, r: Array, n: Array) -> Flags:
    """Sets that rise from none to all with at most one partial response between: the steepest line is the best."""
    order = np.argsort(u, kind="stable")
    share = np.where(n > 0, r / np.maximum(n, 1e-300), np.nan)[order]
    partial = ((share > 0) & (share < 1)).sum(axis=0)
    seen = np.fmax.accumulate(share, axis=0)
    falls = (share < seen).any(axis=0)
    separated: Flags = (partial < NO_PARTIAL) & ~falls & (np.diff(u[order]) > 0).all()
    return separated


def _solve(moments: Array, right: Array) -> tuple[Array, Array]:
    """(2, 2) systems from Σ w, Σ w·u, Σ w·u²."""
    determinant = moments[0] * moments[2] - moments[1] * moments[1]
    determinant = np.where(determinant > 0, determinant, np.inf)
    first = (moments[2] * right[0] - moments[1] * right[1]) / determinant
    return first, (moments[0] * right[1] - moments[1] * right[0]) / determinant


def _finished(
    theta: Array, done: Flags, u: Array, powers: Array, r: Array, n: Array, link: LinkName, center: float, half: float
) -> tuple[Array, ...]:
    a, b = theta
    p, slope = LINKS[link].both(a + b * u[:, None])
    p = np.minimum(np.maximum(p, 1e-300), 1 - 1e-16)
    information = powers @ (n * slope * slope / (p * (1 - p)))
    determinant = information[0] * information[2] - information[1] ** 2
    va, vb, vab = information[2] / determinant, information[0] / determinant, -information[1] / determinant
    expected = n * p
    pearson = np.square(r - expected) / np.maximum(expected * (1 - p), 1e-300)
    deviance = special.xlogy(r, r / expected) + special.xlogy(n - r, (n - r) / (n - expected))
    partial = (p > STEP) & (p < 1 - STEP) & (n > 0)
    good = done & (partial.sum(axis=0) >= NO_PARTIAL) & (r.sum(axis=0) > 0) & ((n - r).sum(axis=0) > 0)
    keep = np.where(good, 1.0, np.nan)
    shift = center / half
    v0 = va - 2 * shift * vab + shift * shift * vb
    v01 = (vab - shift * vb) / half
    return (
        (a - b * shift) * keep, b / half * keep, np.stack((v0, vb / half**2, v01)) * keep,
        2 * np.where(n > 0, deviance, 0.0).sum(axis=0) * keep, pearson.sum(axis=0) * keep, good,
    )  # fmt: skip
