"""Slope-ratio assays."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Rows
from dosis.core.distributions import t_quantile
from dosis.core.fitting.linear import solve
from dosis.core.inference.goodness import Test
from dosis.core.inference.ratio import fieller_ratio, ratio_standard_error
from dosis.core.potency.assay import assay, dummies, f_test, pure_error
from dosis.core.potency.result import Potency


def slope_ratio(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], *, reference: Hashable | None = None,
    level: float = 0.95, blocks: Sequence[Rows] = (),
) -> dict[Hashable, Potency]:  # fmt: skip
    """Slope-ratio assay: lines on the dose itself from one common intercept; potency is the ratio of their slopes.

    Readings at dose zero belong to all (whatever their label); see `parallel_lines` for the rest. The variance is that
    left by the lines.

    Raises
    ------
    ValueError : for a dose below zero, or too few readings.
    """
    x, y, labels, names = assay(dose, response, preparation, reference, positive=False)
    member = np.stack([(labels == i) * x for i in range(len(names))], axis=1)
    used = np.asarray(member.any(axis=0))
    names, member = [name for name, use in zip(names, used.tolist(), strict=True) if use], member[:, used]
    if len(names) < 2:
        raise ValueError("A slope ratio needs at least 2 preparations with a dose above zero.")
    blocked = [dummies(block) for block in blocks]
    of_blocks = sum(each.shape[1] for each in blocked)
    together = solve(np.column_stack((np.ones_like(y), member, *blocked)), y, np.ones_like(y))
    df = y.size - len(names) - 1 - of_blocks
    if together.rank < len(names) + 1 + of_blocks or df <= 0:
        raise ValueError(f"{y.size} readings are too few for one intercept and {len(names)} slopes.")
    left = float((together.residuals**2).sum())
    variance, quantile = left / df, t_quantile((1 + level) / 2, df)
    pure, df_pure = pure_error(x, np.where(x == 0, -1, labels), y, blocks)
    covariance = variance * together.unscaled_covariance
    slope = together.parameters
    found = {}
    if slope[1] == 0:
        flat = "the reference does not respond to its dose, so there is no ratio"
        none = Test(None, None, reason=flat)
        return {
            name: Potency(name, names[0], math.nan, None, None, None, None, None, variance, df, none, None, none, flat)
            for name in names[1:]
        }
    for i in range(1, len(names)):
        ratio = float(slope[i + 1] / slope[1])
        v = covariance
        above, both, below = float(v[i + 1, i + 1]), float(v[i + 1, 1]), float(v[1, 1])
        low, high = fieller_ratio(float(slope[i + 1]), float(slope[1]), above, both, below, quantile)
        error = ratio_standard_error(float(slope[i + 1]), float(slope[1]), above, both, below)
        found[names[i]] = Potency(
            names[i], names[0], ratio, low, high, None, error, quantile**2 * below / float(slope[1]) ** 2, variance, df,
            Test(None, None, reason="Slope-ratio lines are not parallel; they meet at dose zero."), None,
            f_test(left - pure, df - df_pure, pure, df_pure),
            "" if low is not None else "the slope of the reference is not different from zero, so there is no interval",
        )  # fmt: skip
    return found
