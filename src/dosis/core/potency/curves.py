"""Potency by parallel curves."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.distributions import t_quantile
from dosis.core.fitting.compare import extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.inference.goodness import Test
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.ratio import fieller_ratio
from dosis.core.inference.roots import outward
from dosis.core.models import Model
from dosis.core.potency.assay import assay
from dosis.core.potency.result import Equivalence, Potency


@dataclass(frozen=True, slots=True)
class CurvePotency:
    """Potencies from parallel curves, and both fits: with one shape, and each with its own."""

    potencies: dict[Hashable, Potency]
    parallel: SharedFit
    separate: SharedFit


def parallel_curves(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], *, reference: Hashable | None = None,
    model: str | Model = "logistic4", level: float = 0.95, method: Literal["wald", "profile"] = "wald",
    margins: tuple[float, float] = (0.80, 1.25),
) -> CurvePotency:  # fmt: skip
    """Parallel curves: all share their shape and differ in the midpoint alone; potency is the ratio of midpoints.

    Parallelism is tested by difference (extra sum of squares, USP <1032>) and by equivalence of the slopes, whose ratio
    must lie within the margins with 90 % confidence.

    Raises
    ------
    ValueError : for a model without a midpoint and a slope, or what `fit` refuses.
    """
    x, y, labels, names = assay(dose, response, preparation, reference, positive=False)
    series = [names[i] for i in labels]
    order = np.argsort(labels, kind="stable")
    x, y, series = x[order], y[order], [series[i] for i in order]
    separate = fit(model, x, y, series=series)
    chosen = separate.joint.model
    if not {"midpoint", "slope"} <= set(chosen.names):
        raise ValueError(f"{chosen.name} has no midpoint and slope to compare potencies by.")
    parallel = fit(model, x, y, series=series, share=[name for name in chosen.names if name != "midpoint"])
    test = extra_sum_of_squares(parallel, separate)
    found = {}
    for name in names[1:]:
        ratio = parallel.ratio("midpoint", names[0], name, level)
        lower, upper = ratio.lower, ratio.upper
        if method == "profile":
            lower, upper = profile_ratio(parallel, names[0], name, level)
        slopes = [separate.parameters[f"slope of {label}"] for label in (name, names[0])]
        found[name] = Potency(
            name, names[0], ratio.estimate, lower, upper, ratio.log_standard_error, None, None,
            (parallel.rmse or 0.0) ** 2, parallel.degrees_of_freedom, test,
            slopes_equivalent(slopes[0].estimate, slopes[1].estimate, slopes[0].standard_error,
                               slopes[1].standard_error, separate.degrees_of_freedom, margins),
            Test(None, None, reason="The curves need not be lines."),
        )  # fmt: skip
    return CurvePotency(found, parallel, separate)


def profile_ratio(
    parallel: SharedFit, reference: Hashable, preparation: Hashable, level: float
) -> tuple[float | None, float | None]:
    """Profile-likelihood interval of a ratio of midpoints: doses of the preparation are rescaled, so that the ratio
    becomes the factor by which the curves fall together (Bates & Watts 1988, 6.1)."""
    joint = parallel.joint
    share = joint.model.names
    if parallel.rmse is None:
        return None, None
    estimate = parallel.ratio("midpoint", reference, preparation, level)
    if estimate.log_standard_error is None:
        return None, None
    limit = parallel.rmse**2 * parallel.t(level) ** 2
    others = [label for label in joint.rows if label not in (reference, preparation)]
    shared = share if not others else [name for name in share if name != "midpoint"]
    merged: list[Hashable] = [reference] * joint.y.size
    for label in others:
        for row in joint.rows[label]:
            merged[row] = label
    scaled = np.isin(np.arange(joint.y.size), joint.rows[preparation])

    def excess(log_ratio: float) -> float:
        factor = np.where(scaled, math.exp(log_ratio), 1.0)
        again = fit(joint.model, joint.x * factor, joint.y, weights=joint.w, series=merged, share=shared)
        return again.sse - parallel.sse - limit

    low, high = outward(excess, math.log(estimate.estimate), estimate.log_standard_error, parallel.t(level))
    return None if low is None else math.exp(low), None if high is None else math.exp(high)


def slopes_equivalent(
    slope: float, reference: float, error: float | None, error_reference: float | None, df: int,
    margins: tuple[float, float] = (0.80, 1.25),
) -> Equivalence:  # fmt: skip
    """Whether the ratio of two slopes lies within the margins with 90 % confidence (USP <1032>), by Fieller's theorem.

    slope, reference : of independent curves, with their standard errors (None where there are none) and the degrees of
        freedom they share.
    """
    ratio = slope / reference
    if error is None or error_reference is None or df <= 0:
        return Equivalence(ratio, None, None, margins, 0.90)
    low, high = fieller_ratio(slope, reference, error**2, 0.0, error_reference**2, t_quantile(0.95, df))
    return Equivalence(ratio, low, high, margins, 0.90)
