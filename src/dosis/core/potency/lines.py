"""Parallel-line assays."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.distributions import t_quantile
from dosis.core.fitting.linear import LinearSolution, solve
from dosis.core.inference.ratio import fieller_ratio, ratio_standard_error
from dosis.core.potency.assay import assay, f_test, pure_error
from dosis.core.potency.result import Equivalence, Potency

Error = Literal["residual", "pure"]


def parallel_lines(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], *, reference: Hashable | None = None,
    error: Error = "residual", level: float = 0.95, margins: tuple[float, float] = (0.80, 1.25),
) -> dict[Hashable, Potency]:  # fmt: skip
    """Parallel-line assay on ln dose: potency = exp((intercept − intercept of the reference)/common slope).

    Parameters
    ----------
    dose, response : (n,); preparation : a label for each. The first label is the reference unless one is named.
    error : the variance is that left by the parallel lines ("residual"), or that between readings of the same dose and
        preparation ("pure", the pharmacopoeial analysis of a completely randomized design).
    margins : for equivalence of the slopes, of the ratio's 90 % interval.

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
    member = np.stack([labels == i for i in range(len(names))], axis=1).astype(float)
    common = solve(np.column_stack((member, t)), y, np.ones_like(y))
    apart = solve(np.column_stack((member, member * t[:, None])), y, np.ones_like(y))
    if common.rank < len(names) + 1 or apart.rank < 2 * len(names):
        raise ValueError("Every preparation needs at least 2 different doses for a line of its own.")
    left, separate = float((common.residuals**2).sum()), float((apart.residuals**2).sum())
    df, df_apart = y.size - len(names) - 1, y.size - 2 * len(names)
    pure, df_pure = pure_error(t, labels, y)
    variance, df_used = (pure / max(df_pure, 1), df_pure) if error == "pure" else (left / max(df, 1), df)
    if df_used <= 0 or df_apart <= 0:
        raise ValueError("There are too few readings to tell a spread from: repeat doses, or take error=“residual”.")
    base, df_base = (pure, df_pure) if error == "pure" else (separate, df_apart)
    parallel = f_test(left - separate, df - df_apart, base, df_base)
    linear = f_test(separate - pure, df_apart - df_pure, pure, df_pure)
    slope, covariance = float(common.parameters[-1]), variance * common.unscaled_covariance
    if slope == 0:
        flat = "the response does not change with dose, so there is no potency"
        return {
            name: Potency(name, names[0], math.nan, None, None, None, None, None, variance, df_used, parallel,
                          _equivalent(apart, i, len(names), 0.0, df_base, margins, flat=True), linear, flat)
            for i, name in enumerate(names) if i
        }  # fmt: skip
    quantile = t_quantile((1 + level) / 2, df_used)
    found = {}
    for i in range(1, len(names)):
        difference = float(common.parameters[i] - common.parameters[0])
        v_difference = float(covariance[i, i] + covariance[0, 0] - 2 * covariance[i, 0])
        v_both = float(covariance[i, -1] - covariance[0, -1])
        v_slope = float(covariance[-1, -1])
        log_potency = difference / slope
        error_of_log = ratio_standard_error(difference, slope, v_difference, v_both, v_slope)
        low, high = fieller_ratio(difference, slope, v_difference, v_both, v_slope, quantile)
        found[names[i]] = Potency(
            names[i], names[0], math.exp(log_potency), None if low is None else math.exp(low),
            None if high is None else math.exp(high), error_of_log, None, quantile**2 * v_slope / slope**2, variance,
            df_used, parallel, _equivalent(apart, i, len(names), base / df_base, df_base, margins), linear,
            "" if low is not None else "the common slope is not different from zero, so the interval has no end",
        )  # fmt: skip
    return found


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
