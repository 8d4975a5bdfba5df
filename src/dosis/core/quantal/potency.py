"""Relative potency of two preparations from quantal counts: parallel lines by maximum likelihood."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.inference.ratio import fieller_ratio, ratio_standard_error
from dosis.core.potency.preparations import preparations
from dosis.core.quantal.links import LINKS, LinkName

MOST = 200


@dataclass(frozen=True, slots=True)
class QuantalPotency:
    """How many times the dose of `preparation` the reference needs to do the same; lower, upper None where open.

    log_estimate and log_standard_error are of log10 of it. likelihood_ratio : chi-square of parallel against separate
    lines with its p-value; `reason` says why something is missing.
    """

    preparation: Hashable
    reference: Hashable
    estimate: float | None
    lower: float | None
    upper: float | None
    log_estimate: float | None
    log_standard_error: float | None
    slope: float | None
    deviance: float | None
    degrees_of_freedom: int
    likelihood_ratio: float | None
    p_value: float | None
    reason: str = ""


def relative_potency(
    dose: ArrayLike, affected: ArrayLike, exposed: ArrayLike, preparation: Sequence[Hashable], *,
    reference: Hashable | None = None, link: LinkName = "logit", level: float = 0.95, background: ArrayLike = 0.0,
) -> dict[Hashable, QuantalPotency]:  # fmt: skip
    """Parallel probit or logit lines on log10 dose: potency = 10^((intercept − intercept of the reference)/slope).

    Parameters
    ----------
    dose, affected, exposed : (k,), one entry a group, doses above zero; preparation : a label for each, the first
        being the reference unless one is named.
    background : share affected without any dose, of all or (k,), from 0 to below 1; taken as known.

    Returns
    -------
    QuantalPotency by preparation, with Fieller's interval at normal quantiles (Finney, Probit Analysis, 1971, ch. 6).

    Raises
    ------
    ValueError : for unequal lengths, counts or doses that make no sense, or fewer than 2 preparations.
    """
    x, r, n = (np.atleast_1d(np.asarray(values, dtype=float)) for values in (dose, affected, exposed))
    if not x.shape == r.shape == n.shape or len(preparation) != x.size:
        raise ValueError(f"There are {x.size} doses, {r.size} affected, {n.size} exposed, {len(preparation)} labels.")
    if not ((x > 0) & (n > 0) & (r >= 0) & (r <= n) & np.isfinite(x) & np.isfinite(n)).all():
        raise ValueError("Every dose must be above zero, every group exposed, and affected no more than exposed.")
    base = np.broadcast_to(np.asarray(background, dtype=float), x.shape)
    if not ((base >= 0) & (base < 1)).all():
        raise ValueError("A background is a share from 0 to below 1.")
    names = preparations(preparation, reference)
    first = names[0]
    t = np.log10(x)
    member = np.stack([[label == name for label in preparation] for name in names], axis=1).astype(float)
    common = _maximize(np.column_stack((member, t)), r, n, base, link)
    apart = _maximize(np.column_stack((member, member * t[:, None])), r, n, base, link)
    df = x.size - len(names) - 1
    if common is None:
        reason = "no finite line is best: there are too few partial responses"
        return {
            name: QuantalPotency(
                name, first, None, None, None, None, None, None, None, df, None, None, reason
            ) for name in names[1:]
        }  # fmt: skip
    theta, covariance, deviance = common
    ratio = None if apart is None else max(deviance - apart[2], 0.0)
    p_value = None if ratio is None else float(special.chdtrc(len(names) - 1, ratio))
    z, slope = float(special.ndtri((1 + level) / 2)), float(theta[-1])
    found = {}
    for i in range(1, len(names)):
        above = float(theta[i] - theta[0])
        v_above = float(covariance[i, i] + covariance[0, 0] - 2 * covariance[i, 0])
        v_both, v_below = float(covariance[i, -1] - covariance[0, -1]), float(covariance[-1, -1])
        log = above / slope
        error = ratio_standard_error(above, slope, v_above, v_both, v_below)
        low, high = fieller_ratio(above, slope, v_above, v_both, v_below, z)
        reason = "" if low is not None else "the common slope is not different from zero, so the interval has no end"
        found[names[i]] = QuantalPotency(
            names[i], first, 10**log, None if low is None else 10**low, None if high is None else 10**high, log, error,
            slope, deviance, df, ratio, p_value, reason,
        )  # fmt: skip
    return found


def _maximize(design: Array, r: Array, n: Array, base: Array, link: LinkName) -> tuple[Array, Array, float] | None:
    """Coefficients, their covariance and the deviance, by Fisher scoring; None where no finite ones are best."""
    if not r.any() or (r >= n).all():
        return None
    share, density, line = LINKS[link].share, LINKS[link].density, LINKS[link].line
    start = line(np.clip(((r + 0.5) / (n + 1) - base) / (1 - base), 0.02, 0.98))
    root = np.sqrt(n)
    theta = np.linalg.lstsq(design * root[:, None], start * root, rcond=None)[0].astype(float)
    for _ in range(MOST):
        p = np.clip(base + (1 - base) * share(design @ theta), 1e-300, 1 - 1e-16)
        slope = (1 - base) * density(design @ theta)
        gain = slope / (p * (1 - p))
        information = (design * (n * slope * gain)[:, None]).T @ design
        score = design.T @ ((r - n * p) * gain)
        try:
            step = np.linalg.solve(information, score)
        except np.linalg.LinAlgError:
            return None
        reach = float(np.abs(design @ step).max())
        theta = theta + step * min(1.0, 4.0 / max(reach, 1e-300))
        if not np.isfinite(theta).all() or np.abs(design @ theta).max() > 1e3:
            return None
        if float(score @ step) <= 1e-20:
            deviance = special.xlogy(r, r / (n * p)) + special.xlogy(n - r, (n - r) / (n * (1 - p)))
            covariance = np.linalg.inv(information).astype(float)
            return theta, covariance, float(2 * deviance.sum())
    return None
