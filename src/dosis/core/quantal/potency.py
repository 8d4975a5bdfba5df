"""Relative potency of two preparations from quantal counts: parallel lines by maximum likelihood."""

from __future__ import annotations

import math
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.distributions import chi2_upper_p, f_upper_p, t_quantile
from dosis.core.inference.ratio import fieller_ratio, ratio_standard_error
from dosis.core.potency.preparations import preparations
from dosis.core.quantal.doses import FURTHEST
from dosis.core.quantal.fitted import CHANCE, scatter_of
from dosis.core.quantal.links import LINKS, LinkName
from dosis.core.quantal.scoring import NONE, deviance_of

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


@dataclass(frozen=True, slots=True)
class Controls:
    """What was affected of those exposed to no dose, of one preparation or of several that share their controls."""

    affected: float
    exposed: float


def relative_potency(
    dose: ArrayLike, affected: ArrayLike, exposed: ArrayLike, preparation: Sequence[Hashable], *,
    reference: Hashable | None = None, link: LinkName = "logit", level: float = 0.95, background: ArrayLike = 0.0,
    controls: Mapping[Hashable, Controls] | None = None, log_dose: bool = True, widened: bool = False,
) -> dict[Hashable, QuantalPotency]:  # fmt: skip
    """Parallel lines on log10 dose: potency = 10^((intercept − intercept of the reference)/slope).

    On the dose itself lines that differ in potency alone meet at dose zero: it is then the ratio of their slopes.

    Parameters
    ----------
    dose, affected, exposed : (k,), one entry a group, doses above zero; preparation : a label for each, the first
        being the reference unless one is named.
    background : share affected without any dose, of all or (k,), from 0 to below 1; taken as known.
    controls : of each preparation, to fit its background together with the lines; the same object where they share it.
    widened : whether variances are multiplied by the scatter of the counts where that is more than chance, with t.

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
    t = np.log10(x) if log_dose else x
    member = np.stack([[label == name for label in preparation] for name in names], axis=1).astype(float)
    lines, heights = member * t[:, None], np.ones((x.size, 1))
    counts = _Counts.of(r, n, base, list(preparation), controls or {}, link)
    common = counts.maximize(np.column_stack((member, t)) if log_dose else np.column_stack((heights, lines)))
    apart = counts.maximize(np.column_stack((member, lines)))
    size = len(names)
    df = counts.r.size - size - 1 - counts.pools
    if common is None:
        reason = "no finite line is best: there are too few partial responses"
        return {
            name: QuantalPotency(
                name, first, None, None, None, None, None, None, None, df, None, None, reason
            ) for name in names[1:]
        }  # fmt: skip
    factor, quantile = 1.0, float(special.ndtri((1 + level) / 2))
    if widened and df > 0:
        scatter = scatter_of(common.shares, counts.r, counts.n, df)
        if scatter > CHANCE:
            factor, quantile = scatter, t_quantile((1 + level) / 2, df)
    ratio = None if apart is None else max(common.deviance - apart.deviance, 0.0) / factor
    p_value = None
    if ratio is not None:
        free = size - 1
        p_value = chi2_upper_p(ratio, free) if factor == 1 else f_upper_p(ratio / free, free, df)
    made = _Fitted(
        common.theta, factor * common.covariance, size, log_dose, quantile, common.deviance, df, ratio, p_value
    )
    return {names[i]: made.of(names[i], first, i) for i in range(1, size)}


@dataclass(frozen=True, slots=True)
class _Fitted:
    """The common fit of `size` preparations, and what is the same of every potency that is read off it."""

    theta: Array
    covariance: Array
    size: int
    log_dose: bool
    quantile: float
    deviance: float
    df: int
    ratio: float | None
    p_value: float | None

    def of(self, name: Hashable, first: Hashable, i: int) -> QuantalPotency:
        """The potency of the i-th preparation."""
        theta, v, size = self.theta, self.covariance, self.size
        if self.log_dose:
            above, below = float(theta[i] - theta[0]), float(theta[size])
            v_above = float(v[i, i] + v[0, 0] - 2 * v[i, 0])
            v_both, v_below = float(v[i, size] - v[0, size]), float(v[size, size])
        else:
            above, below = float(theta[1 + i]), float(theta[1])
            v_above, v_both, v_below = float(v[1 + i, 1 + i]), float(v[1 + i, 1]), float(v[1, 1])
        quotient = above / below
        error = ratio_standard_error(above, below, v_above, v_both, v_below)
        ends = fieller_ratio(above, below, v_above, v_both, v_below, self.quantile)
        reason = "" if ends[0] is not None else "the slope is not different from zero, so the interval has no end"
        log: float | None = quotient
        if not self.log_dose:
            log = math.log10(quotient) if quotient > 0 else None
            error /= abs(quotient) * math.log(10)
        if log is None:
            reason = "the lines run in opposite directions, so one is no stronger form of the other"
        low, high = (_potency(end, self.log_dose) for end in ends)
        return QuantalPotency(
            name, first, None if log is None else 10**log, low, high, log, None if log is None else error, below,
            self.deviance, self.df, self.ratio, self.p_value, reason,
        )  # fmt: skip


def _potency(end: float | None, log_dose: bool) -> float | None:
    """The end of an interval as a potency; one beyond all measure, or not above zero, is none."""
    if end is None or (log_dose and abs(end) > FURTHEST) or (not log_dose and end <= 0):
        return None
    return 10**end if log_dose else end


@dataclass(frozen=True, slots=True)
class _Best:
    """Where the likelihood is greatest: coefficients and their covariance, without those of backgrounds."""

    theta: Array
    covariance: Array
    deviance: float
    shares: Array


@dataclass(frozen=True, slots=True)
class _Counts:
    """Counts with those of controls after them.

    member : (rows, pools) whose background a row has; base : (rows,) a known one.
    """

    r: Array
    n: Array
    base: Array
    dosed: Array
    member: Array
    link: LinkName

    @classmethod
    def of(
        cls, r: Array, n: Array, base: Array, labels: list[Hashable], controls: Mapping[Hashable, Controls],
        link: LinkName,
    ) -> _Counts:  # fmt: skip
        """With each preparation's controls, once where several share them."""
        pools = list({id(each): each for each in controls.values()}.values())
        rows = [[controls.get(label) is pool for pool in pools] for label in labels]
        rows += [[pool is other for other in pools] for pool in pools]
        return cls(
            np.append(r, [pool.affected for pool in pools]), np.append(n, [pool.exposed for pool in pools]),
            np.append(base, np.zeros(len(pools))), np.append(np.ones(r.size), np.zeros(len(pools))),
            np.array(rows, dtype=float).reshape(len(rows), len(pools)), link,
        )  # fmt: skip

    @property
    def pools(self) -> int:
        """How many backgrounds are fitted."""
        return int(self.member.shape[1])

    def maximize(self, design: Array) -> _Best | None:
        """By Fisher scoring; None where no finite coefficients are best."""
        counted, of = self.r[self.dosed > 0], self.n[self.dosed > 0]
        if not counted.any() or (counted >= of).all():
            return None
        design = np.vstack((design, np.zeros((self.pools, design.shape[1]))))
        q = design.shape[1]
        start = [max(r / n, 0.5 / n) for r, n in zip(self.r[self.dosed == 0], self.n[self.dosed == 0], strict=True)]
        c = np.minimum(np.array(start), 0.9)
        below = self.base + self.member @ c
        empirical = LINKS[self.link].line(np.clip(((self.r + 0.5) / (self.n + 1) - below) / (1 - below), 0.02, 0.98))
        root = np.sqrt(self.n) * self.dosed
        theta = np.linalg.lstsq(design * root[:, None], empirical * root, rcond=None)[0].astype(float)
        for _ in range(MOST):
            p, slopes = self._look(theta, c, design)
            variance = p * (1 - p)
            information = (slopes * (self.n / variance)[:, None]).T @ slopes
            score = ((self.r - self.n * p) / variance) @ slopes
            free = [*range(q), *(q + k for k in range(self.pools) if c[k] > NONE or score[q + k] > 0)]
            try:
                step = np.zeros(q + self.pools)
                step[free] = np.linalg.solve(information[np.ix_(free, free)], score[free])
            except np.linalg.LinAlgError:
                return None
            reach = float(np.abs(design @ step[:q]).max())
            step *= min(1.0, 4.0 / max(reach, 1e-300))
            theta = theta + step[:q]
            c = np.clip(c + step[q:], c / 10, 0.999)
            if not np.isfinite(theta).all() or np.abs(design @ theta).max() > 1e3:
                return None
            if float(score @ step) <= 1e-20:
                covariance = np.linalg.inv(information[np.ix_(free, free)])[:q, :q]
                return _Best(theta, covariance.astype(float), deviance_of(p, self.r, self.n), p)
        return None

    def _look(self, theta: Array, c: Array, design: Array) -> tuple[Array, Array]:
        """Shares affected, and how they change with every coefficient and background."""
        below, line = self.base + self.member @ c, design @ theta
        share = LINKS[self.link].share(line) * self.dosed
        p = np.clip(below + (1 - below) * share, 1e-300, 1 - 1e-16)
        by_line = ((1 - below) * LINKS[self.link].density(line) * self.dosed)[:, None] * design
        return p, np.column_stack((by_line, self.member * (1 - share)[:, None]))
