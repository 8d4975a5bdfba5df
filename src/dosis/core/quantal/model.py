"""Maximum likelihood for counts of affected out of exposed, with or without a background response."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.quantal.beta_binomial import fit_beta_binomial
from dosis.core.quantal.doses import LethalDose, Method, dose_for
from dosis.core.quantal.fitted import Background, FittedLine, Widened
from dosis.core.quantal.links import LINKS, LinkName
from dosis.core.quantal.scoring import NONE, scoring_step

STEP = 1e-7  # a fitted share this close to none or all counts as none or all
NO_PARTIAL = 2  # partial responses below which no finite slope is best


@dataclass(frozen=True)
class QuantalFit(FittedLine):
    """A fitted line, and the doses that are read off it."""

    def dose_for(self, share: float, level: float = 0.95, method: Method = "fieller") -> LethalDose:
        """The dose that affects a share of those exposed (above background); see `doses.dose_for`."""
        return dose_for(self, share, level, method)


def abbott(share: ArrayLike, control: float) -> Array:
    """Share affected by the dose alone, (p − c)/(1 − c), not below 0 (Abbott 1925, J. Econ. Entomol. 18, 265)."""
    return np.maximum((np.asarray(share, dtype=float) - control) / (1 - control), 0.0)


def fit(
    dose: ArrayLike,
    affected: ArrayLike,
    exposed: ArrayLike,
    *,
    link: LinkName = "probit",
    background: Background | None = None,
    control: tuple[float, float] | None = None,
    log_dose: bool = True,
    known_controls: bool = True,
    widened: Widened = "poor",
) -> QuantalFit:
    """Fit a dose–mortality line by maximum likelihood (Fisher scoring; Finney, Probit Analysis, 1971).

    Parameters
    ----------
    dose, affected, exposed : (k,), one entry for each group; affected may be fractional.
    link : probit, logit or complementary log-log.
    background : None for none; "abbott" corrects the counts by the share affected in the controls; "estimated" fits it
        together with the line, p = c + (1 − c)·F.
    control : (affected, exposed) of the controls; without it, groups of dose zero are the controls.
    log_dose : take log10 of the dose.
    known_controls : after Abbott's correction, whether the share of the controls counts as known, as handbooks take it;
        otherwise its variance is carried into the line's.
    widened : when intervals are widened by the scatter of the counts, see `FittedLine.widening`; "beta-binomial" fits
        that scatter with the line (Williams 1975).

    Raises
    ------
    ValueError : for unequal lengths, counts that make no sense, fewer than 2 doses, or controls that are missing.
    """
    doses, r, n = (np.atleast_1d(np.asarray(values, dtype=float)) for values in (dose, affected, exposed))
    _check(doses, r, n, link)
    is_control = doses == 0 if log_dose or background else np.zeros(doses.size, dtype=bool)
    c_affected, c_exposed = float(r[is_control].sum()), float(n[is_control].sum())
    if control is not None:
        c_affected, c_exposed = c_affected + control[0], c_exposed + control[1]
    if background and not c_exposed:
        raise ValueError("A background needs controls: a group of dose zero, or control=(affected, exposed).")
    doses, r, n = doses[~is_control], r[~is_control], n[~is_control]
    if np.unique(doses).size < 2:
        raise ValueError(f"A dose–response line needs 2 different doses above zero; there are {np.unique(doses).size}.")
    warnings = []
    share = c_affected / c_exposed if c_exposed else 0.0
    if c_affected and not background:
        warnings.append(
            f"{share:.1%} of the controls were affected; ask for a background, or the doses seem too strong."
        )
    if background and share >= 1:
        raise ValueError("All of the controls were affected, so nothing can be told of the doses.")
    counted = r
    if background == "abbott":
        r = abbott(r / n, share) * n
    x = np.log10(doses) if log_dose else doses
    controls = (c_affected, c_exposed) if background == "estimated" else None
    with np.errstate(all="ignore"):
        theta, covariance, converged, message = _score(x, r, n, link, controls)
        if background == "abbott" and converged and not known_controls:
            covariance = _with_controls(theta, x, counted, n, link, (c_affected, c_exposed))
        vessels = None
        if widened == "beta-binomial" and converged:
            vessels = fit_beta_binomial(theta, x, r, n, link, controls)
        if vessels is not None:
            theta, covariance = vessels.theta, vessels.covariance
    if background == "estimated":
        share = float(theta[2])
        doses, x = np.append(doses, 0.0), np.append(x, -np.inf)
        r, n = np.append(r, c_affected), np.append(n, c_exposed)
    return QuantalFit(
        dose=doses, x=x, affected=r, exposed=n, link=link, log_dose=log_dose, parameters=theta, covariance=covariance,
        background=share if background else 0.0, background_of=background, converged=converged, message=message,
        warnings=tuple(warnings), widened=widened, correlation=None if vessels is None else vessels.correlation,
    )  # fmt: skip


def _with_controls(
    theta: Array, x: Array, counted: Array, n: Array, link: LinkName, controls: tuple[float, float]
) -> Array:  # fmt: skip
    """Covariance of a line fitted to corrected counts, of which each varies as counted, and all with the controls.

    The line is fitted anew with every count, and that of the controls, one standard deviation up and down: what is
    corrected to less than nothing becomes nothing, so that a derivative would tell of changes there are not.
    """
    share = controls[0] / controls[1]
    p = share + (1 - share) * LINKS[link].share(theta[0] + theta[1] * x)
    counts, of = np.append(counted, controls[0]), np.append(n, controls[1])
    spread = np.sqrt(of * np.append(p, share) * (1 - np.append(p, share)))
    covariance = np.zeros((2, 2))
    for i in range(counts.size):
        ends = []
        for sign in (1, -1):
            moved = counts.copy()
            moved[i] = min(max(moved[i] + sign * spread[i], 0.0), of[i])
            again = abbott(moved[:-1] / n, min(float(moved[-1]) / controls[1], 0.999)) * n
            found, _, converged, _ = _score(x, again, n, link, None)
            ends.append(found if converged else theta)
        half = (ends[0] - ends[1]) / 2
        covariance += np.outer(half, half)
    return covariance


def _check(dose: Array, affected: Array, exposed: Array, link: str) -> None:
    if not dose.shape == affected.shape == exposed.shape or dose.ndim != 1:
        raise ValueError(f"dose, affected and exposed have {dose.size}, {affected.size} and {exposed.size} entries.")
    if link not in LINKS:
        raise ValueError(f"There is no link “{link}”. Known: {', '.join(LINKS)}.")
    for values, name in ((dose, "dose"), (affected, "affected"), (exposed, "exposed")):
        if not np.isfinite(values).all() or (values < 0).any():
            raise ValueError(f"Every number in {name} must be finite and not below zero.")
    bad = np.flatnonzero((exposed <= 0) | (affected > exposed))
    if bad.size:
        at = int(bad[0])
        raise ValueError(f"Group {at + 1} has {affected[at]:g} affected of {exposed[at]:g} exposed.")


def _score(
    x: Array, r: Array, n: Array, link: LinkName, controls: tuple[float, float] | None
) -> tuple[Array, Array, bool, str]:
    """Fisher scoring from the line through the empirical links; steps are halved until the likelihood rises."""
    # Centered and scaled, the two parameters are nearly independent.
    center, width = float(np.average(x, weights=n)), float(np.ptp(x))
    u = (x - center) / width
    if controls:
        u, r, n = np.append(u, 0.0), np.append(r, controls[0]), np.append(n, controls[1])
    dosed = np.ones(u.size)
    if controls:
        dosed[-1] = 0.0
    c = min(max(controls[0] / controls[1], 0.5 / controls[1]), 0.9) if controls else 0.0
    empirical = np.clip(((r + 0.5) / (n + 1) - c) / (1 - c), 0.02, 0.98)
    line = LINKS[link].line(empirical)
    counts, of = r[dosed > 0], n[dosed > 0]
    if not counts.any() or (counts >= of).all():
        said = "None was affected at any dose." if not counts.any() else "All were affected at every dose."
        nothing = np.full(3 if controls else 2, np.nan)
        return nothing, np.full((nothing.size, nothing.size), np.nan), False, said
    slope, height = np.polyfit(u[dosed > 0], line[dosed > 0], 1)
    theta = np.array([height, slope, c] if controls else [height, slope])
    message, converged = "Not converged.", False
    for _ in range(200):
        likelihood, gradient, information = _likelihood(theta, u, dosed, r, n, link)
        held = theta.size == 3 and theta[2] <= NONE and gradient[2] <= 0
        step = scoring_step(information, gradient, [0, 1] if held else list(range(theta.size)))
        if float(gradient @ step) <= 1e-20 * (1 + abs(likelihood)):
            message, converged = "Converged.", True
            break
        for _halving in range(40):
            candidate = theta + step
            if controls:
                # Never quite to none, where controls of which none died would hold it fast.
                candidate[2] = min(max(candidate[2], theta[2] / 10), 0.999)
            if _likelihood(candidate, u, dosed, r, n, link)[0] >= likelihood:
                break
            step = step / 2
        moved = float(np.abs(candidate - theta).max())
        theta = candidate
        if moved <= 1e-13 * (1 + float(np.abs(theta).max())):
            message, converged = "Converged.", True
            break
    fitted = LINKS[link].share(theta[0] + theta[1] * u)
    between = (fitted > STEP) & (fitted < 1 - STEP) & (dosed > 0)
    if np.unique(u[between]).size < NO_PARTIAL:
        # The likelihood still rises with the slope, by less than can be computed.
        message, converged = "Fewer than two doses show a partial response, so no finite slope is best.", False
    _, gradient, information = _likelihood(theta, u, dosed, r, n, link)
    back = np.eye(theta.size)
    back[0, 1], back[1, 1] = -center / width, 1 / width
    size = np.sqrt(np.maximum(np.diag(information), 1e-300)) if controls else np.ones(theta.size)
    inverse = np.linalg.pinv(information / np.outer(size, size)) / np.outer(size, size)
    if theta.size == 3 and theta[2] <= NONE and gradient[2] <= 0:
        # At the end of its range a background is none, and the line is as without one.
        theta[2], inverse = 0.0, np.zeros((3, 3))
        inverse[:2, :2] = np.linalg.pinv(information[:2, :2])
    covariance = back @ inverse @ back.T
    return back @ theta, covariance, converged, message


def _likelihood(theta: Array, u: Array, dosed: Array, r: Array, n: Array, link: LinkName) -> tuple[float, Array, Array]:
    c = float(theta[2]) if theta.size == 3 else 0.0
    line = theta[0] + theta[1] * u
    below, density = LINKS[link].share(line) * dosed, LINKS[link].density(line) * dosed
    p = np.clip(c + (1 - c) * below, 1e-300, 1 - 1e-16)
    columns = [(1 - c) * density, (1 - c) * density * u]
    if theta.size == 3:
        columns.append(1 - below)
    slopes = np.stack(columns, axis=1)
    variance = p * (1 - p)
    gradient = ((r - n * p) / variance) @ slopes
    information = (slopes * (n / variance)[:, None]).T @ slopes
    likelihood = float((special.xlogy(r, p) + special.xlogy(n - r, 1 - p)).sum())
    return (likelihood if math.isfinite(likelihood) else -math.inf), gradient, information
