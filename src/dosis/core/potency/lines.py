"""Parallel-line assays."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Rows
from dosis.core.distributions import t_quantile
from dosis.core.fitting.linear import LinearSolution, solve
from dosis.core.inference.goodness import Test
from dosis.core.inference.ratio import fieller_ratio, ratio_standard_error
from dosis.core.potency.assay import assay, dummies, f_test, indicators, pure_error
from dosis.core.potency.result import Equivalence, Potency

Error = Literal["residual", "pure"]
FARTHEST = 700.0  # ln potency; beyond it the exponential is no number


def parallel_lines(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], *, reference: Hashable | None = None,
    error: Error = "residual", level: float = 0.95, margins: tuple[float, float] = (0.80, 1.25),
    blocks: Sequence[Rows] = (),
) -> dict[Hashable, Potency]:  # fmt: skip
    """Parallel-line assay on ln dose: potency = exp((intercept − intercept of the reference)/common slope).

    Parameters
    ----------
    dose, response : (n,); preparation : a label for each. The first label is the reference unless one is named.
    error : the variance is that left by the parallel lines ("residual"), or that between readings of the same dose and
        preparation ("pure", the pharmacopoeial analysis of a completely randomized design).
    margins : for equivalence of the slopes, of the ratio's 90 % interval.
    blocks : for each way in which readings are blocked, the number of every reading's block, (n,); what blocks differ
        by is then no part of the variance.

    Returns
    -------
    Potency by preparation, the reference left out, with Fieller's interval (Finney, Statistical Method in Biological
    Assay, 1978, chapter 4; Ph. Eur. 5.3; USP <1034>).

    Raises
    ------
    ValueError : for doses not above zero, fewer than 2 preparations, or fewer than 2 doses of one.
    """
    x, y, labels, names = assay(dose, response, preparation, reference, positive=True)
    t = np.log(x)
    member = indicators(labels)
    blocked = [dummies(block) for block in blocks]
    common = solve(np.column_stack((member, t, *blocked)), y, np.ones_like(y))
    apart = solve(np.column_stack((member, member * t[:, None], *blocked)), y, np.ones_like(y))
    of_blocks = sum(each.shape[1] for each in blocked)
    at = len(names)  # where the common slope stands
    if common.rank < len(names) + 1 + of_blocks or apart.rank < 2 * len(names) + of_blocks:
        if of_blocks:
            raise ValueError("Doses and blocks cannot be told apart: some blocks hold one dose, or one preparation.")
        raise ValueError("Every preparation needs at least 2 different doses for a line of its own.")
    left, separate = float((common.residuals**2).sum()), float((apart.residuals**2).sum())
    df, df_apart = y.size - len(names) - 1 - of_blocks, y.size - 2 * len(names) - of_blocks
    pure, df_pure = pure_error(t, labels, y, blocks)
    variance, df_used = (pure / max(df_pure, 1), df_pure) if error == "pure" else (left / max(df, 1), df)
    if df_used <= 0 or df_apart <= 0:
        raise ValueError("There are too few readings to tell a spread from: repeat doses, or take error=“residual”.")
    base, df_base = (pure, df_pure) if error == "pure" else (separate, df_apart)
    alike = [_equivalent(apart, i, at, base / df_base, df_base, margins) for i in range(at)]
    own = [_own_parallel(apart, i, at, base, df_base) for i in range(at)]
    parallel = f_test(left - separate, df - df_apart, base, df_base)
    linear = f_test(separate - pure, df_apart - df_pure, pure, df_pure)
    if is_flat(common, at):
        flat = "the response does not change with dose, so there is no potency"
        return {
            name: Potency(name, names[0], math.nan, None, None, None, None, None, variance, df_used, parallel,
                          _equivalent(apart, i, len(names), 0.0, df_base, margins, flat=True), linear, flat)
            for i, name in enumerate(names) if i
        }  # fmt: skip
    found = {}
    for i in range(1, len(names)):
        line = along_lines(common, i, at, variance, df_used, level)
        found[names[i]] = Potency(
            names[i], names[0], line.estimate, line.lower, line.upper, line.log_error, None, line.g, variance, df_used,
            parallel, alike[i], linear, line.reason, own[i], (alike[i],),
        )  # fmt: skip
    return found


def is_flat(common: LinearSolution, at: int) -> bool:
    """Whether the common slope, at that place among the parameters, is none that a potency could be read off by."""
    slope, apart = float(common.parameters[at]), common.parameters[1:at] - common.parameters[0]
    return slope == 0 or float(np.abs(apart).max()) > FARTHEST * abs(slope)


@dataclass(frozen=True, slots=True)
class AlongLines:
    """A potency read off parallel lines, with Fieller's interval; see `Potency`."""

    estimate: float
    lower: float | None
    upper: float | None
    log_error: float
    g: float
    reason: str


def along_lines(common: LinearSolution, i: int, at: int, variance: float, df: int, level: float) -> AlongLines:
    """Preparation i beside the first; the intercepts stand first among the parameters, the slope at `at`."""
    quantile = t_quantile((1 + level) / 2, df)
    slope, covariance = float(common.parameters[at]), variance * common.unscaled_covariance
    difference = float(common.parameters[i] - common.parameters[0])
    v_difference = float(covariance[i, i] + covariance[0, 0] - 2 * covariance[i, 0])
    v_both, v_slope = float(covariance[i, at] - covariance[0, at]), float(covariance[at, at])
    low, high = fieller_ratio(difference, slope, v_difference, v_both, v_slope, quantile)
    return AlongLines(
        math.exp(difference / slope), _exp(low), _exp(high),
        ratio_standard_error(difference, slope, v_difference, v_both, v_slope), quantile**2 * v_slope / slope**2,
        "" if low is not None else "the common slope is not different from zero, so the interval has no end",
    )  # fmt: skip


def _exp(end: float | None) -> float | None:
    """An end of an interval of ln potency as one of potency; none where that is further off than numbers reach."""
    return math.exp(end) if end is not None and abs(end) < FARTHEST else None


def _own_parallel(apart: LinearSolution, i: int, count: int, left: float, df: int) -> Test:
    """F of the difference between one slope and the reference's."""
    v, own, other = apart.unscaled_covariance, count + i, count
    difference = float(apart.parameters[own] - apart.parameters[other])
    size = float(v[own, own] + v[other, other] - 2 * v[own, other])
    return f_test(difference**2 / size if size > 0 else 0.0, 1, left, df)


def _equivalent(
    apart: LinearSolution, i: int, count: int, variance: float, df: int, margins: tuple[float, float], *,
    flat: bool = False,
) -> Equivalence:  # fmt: skip
    parameters, covariance = apart.parameters, apart.unscaled_covariance
    own, other = count + i, count
    if flat or parameters[other] == 0:
        return Equivalence(math.nan, None, None, margins, 0.90)
    v = variance * covariance
    low, high = fieller_ratio(
        float(parameters[own]), float(parameters[other]), float(v[own, own]), float(v[own, other]),
        float(v[other, other]), t_quantile(0.95, df),
    )  # fmt: skip
    return Equivalence(float(parameters[own] / parameters[other]), low, high, margins, 0.90)
