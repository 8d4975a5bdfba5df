"""Counts of vessels that differ by more than chance: the share affected varies between them as a beta variable.

Williams (1975), Biometrics 31, 949: with a correlation ρ between animals of a vessel the variance of a count is
n·p·(1 − p)·(1 + (n − 1)·ρ). Line, background and ρ are fitted together by maximum likelihood.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.quantal.links import LINKS, LinkName

FEW = 1e-7  # correlation below which there is none
STEP = 1e-4  # of each parameter's own scale, in the second derivatives
BEGIN = (0.01, 0.05, 0.2)  # correlations from which the search begins


@dataclass(frozen=True, slots=True)
class BetaBinomial:
    """Line (and background), their covariance, and the correlation between animals of a vessel."""

    theta: Array
    covariance: Array
    correlation: float


def fit_beta_binomial(
    theta: Array, x: Array, affected: Array, exposed: Array, link: LinkName, controls: tuple[float, float] | None
) -> BetaBinomial | None:
    """From the line that chance alone would have given; None where the vessels do not differ by more than chance.

    theta : (2,) or, with a background, (3,). x, affected, exposed : (k,). The covariance is the inverse of the observed
    information over line, background and logit of ρ.
    """
    from scipy import optimize

    r, n, dosed = affected, exposed, np.ones(x.size)
    u = x
    if controls:
        u, dosed = np.append(x, 0.0), np.append(dosed, 0.0)
        r, n = np.append(r, controls[0]), np.append(n, controls[1])
    center, width = float(x.mean()), float(np.ptp(x))
    u = (u - center) / width * dosed

    def minus(q: Array) -> float:
        c = float(special.expit(q[2])) if controls else 0.0
        rho = min(max(float(special.expit(q[-1])), 1e-9), 0.999)
        p = np.clip(c + (1 - c) * LINKS[link].share(q[0] + q[1] * u) * dosed, 1e-12, 1 - 1e-12)
        a, b = p * (1 - rho) / rho, (1 - p) * (1 - rho) / rho
        value = -float((special.betaln(r + a, n - r + b) - special.betaln(a, b)).sum())
        return value if np.isfinite(value) else 1e300

    line = [theta[0] + theta[1] * center, theta[1] * width]
    base = [float(special.logit(min(max(theta[2], 0.01), 0.9)))] if controls else []
    found = [
        optimize.minimize(minus, np.array([*line, *base, float(special.logit(rho))]), method="Nelder-Mead",
                          options={"xatol": 1e-8, "fatol": 1e-10, "maxiter": 8000, "maxfev": 8000})
        for rho in BEGIN
    ]  # fmt: skip
    best = min(found, key=lambda each: float(each.fun))
    rho = float(special.expit(best.x[-1]))
    if rho < FEW:
        return None
    q = np.asarray(best.x, dtype=float)
    inverse = np.linalg.pinv(_second(minus, q))
    size = 3 if controls else 2
    back = np.zeros((size, q.size))
    back[0, 0], back[0, 1], back[1, 1] = 1.0, -center / width, 1 / width
    values = [q[0] - q[1] * center / width, q[1] / width]
    if controls:
        c = float(special.expit(q[2]))
        back[2, 2] = c * (1 - c)
        values.append(c)
    return BetaBinomial(np.array(values), back @ inverse @ back.T, rho)


def _second(function: Callable[[Array], float], q: Array) -> Array:
    """Second derivatives by central differences."""
    k = q.size
    steps = STEP * np.maximum(np.abs(q), 1.0)
    found = np.zeros((k, k))
    for i in range(k):
        for j in range(i, k):
            total = 0.0
            for si, sj in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
                moved = q.copy()
                moved[i] += si * steps[i]
                moved[j] += sj * steps[j]
                total += si * sj * function(moved)
            found[i, j] = found[j, i] = total / (4 * steps[i] * steps[j])
    return found
