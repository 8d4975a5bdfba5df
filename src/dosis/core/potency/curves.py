"""Potency by parallel curves."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.distributions import f_noncentrality, f_upper_p, t_quantile
from dosis.core.fitting.compare import extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.fitting.linear import solve
from dosis.core.inference.goodness import Test
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.ratio import fieller_ratio
from dosis.core.inference.roots import outward
from dosis.core.models import Model
from dosis.core.potency.assay import assay, cells, dummies
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
    margins: tuple[float, float] = (0.80, 1.25), plateaus: float = 0.15, composite: float = 0.05,
    blocks: Sequence[Rows] = (),
) -> CurvePotency:  # fmt: skip
    """Parallel curves: all share their shape and differ in the midpoint alone; potency is the ratio of midpoints.

    Parallelism is tested by difference (extra sum of squares, USP <1032>) and by equivalence of the slopes, whose ratio
    must lie within the margins with 90 % confidence. So must the differences of plateaus, as a share of the reference's
    span (`plateaus`), and a composite, how far curves and parallel curves lie apart (`composite`, see `apart_from`).

    blocks : as for lines; what blocks differ by is estimated between readings of the same dose and preparation, taken
        off, and its degrees of freedom with it.

    Raises
    ------
    ValueError : for a model without a midpoint and a slope, or what `fit` refuses.
    """
    x, y, labels, names = assay(dose, response, preparation, reference, positive=False)
    series = [names[i] for i in labels]
    order = np.argsort(labels, kind="stable")
    x, y, series = x[order], y[order], [series[i] for i in order]
    y, lost = without_blocks(x, y, labels[order], [block[order] for block in blocks])
    separate = fit(model, x, y, series=series)
    chosen = separate.joint.model
    if not {"midpoint", "slope"} <= set(chosen.names):
        raise ValueError(f"{chosen.name} has no midpoint and slope to compare potencies by.")
    share = [name for name in chosen.names if name != "midpoint"]
    parallel = fit(model, x, y, series=series, share=share)
    test = _less(extra_sum_of_squares(parallel, separate), lost)
    if lost:
        if separate.degrees_of_freedom <= lost:
            raise ValueError("There are too few readings for blocks and curves at once.")
        parallel = parallel.but(scale=parallel.degrees_of_freedom / (parallel.degrees_of_freedom - lost))
        separate = separate.but(scale=separate.degrees_of_freedom / (separate.degrees_of_freedom - lost))
    found = {}
    for name in names[1:]:
        ratio = parallel.ratio("midpoint", names[0], name, level)
        lower, upper = ratio.lower, ratio.upper
        if method == "profile":
            lower, upper = profile_ratio(parallel, names[0], name, level)
        own, size = test, parallel
        if len(names) > 2:
            rows = np.array([label in (names[0], name) for label in series])
            pair = [label for label in series if label in (names[0], name)]
            size = fit(model, x[rows], y[rows], series=pair, share=share)
            own = _less(extra_sum_of_squares(size, fit(model, x[rows], y[rows], series=pair)), lost)
        alike = (*_shapes(separate, names[0], name, margins, plateaus),
                 apart_from(own, size, separate.series[names[0]].named, composite))  # fmt: skip
        found[name] = Potency(
            name, names[0], ratio.estimate, lower, upper, ratio.log_standard_error, None, None,
            (parallel.rmse or 0.0) ** 2, parallel.degrees_of_freedom - lost, test,
            alike[0], Test(None, None, reason="The curves need not be lines."), "", own, alike,
        )  # fmt: skip
    return CurvePotency(found, parallel, separate)


def without_blocks(x: Array, y: Array, labels: Rows, blocks: Sequence[Rows]) -> tuple[Array, int]:
    """Responses less what their blocks differ by, and the degrees of freedom that this takes."""
    if not blocks:
        return y, 0
    of_cells, blocked = cells(x, labels), np.column_stack([dummies(block) for block in blocks])
    solution = solve(np.column_stack((of_cells, blocked)), y, np.ones_like(y))
    if solution.rank < of_cells.shape[1] + blocked.shape[1]:
        raise ValueError("Doses and blocks cannot be told apart: some blocks hold one dose, or one preparation.")
    shift = blocked @ solution.parameters[of_cells.shape[1] :]
    return y - (shift - shift.mean()), blocked.shape[1]


def _less(test: Test, lost: int) -> Test:
    """The test with the degrees of freedom that blocks have taken from its error."""
    if not lost or test.statistic is None:
        return test
    df1, df2 = test.degrees_of_freedom
    if df2 <= lost:
        return Test(None, None, reason="There are too few readings for blocks and curves at once.")
    f = test.statistic * (df2 - lost) / df2
    return Test(f, f_upper_p(f, df1, df2 - lost), (df1, df2 - lost))


def _shapes(
    separate: SharedFit, reference: Hashable, name: Hashable, margins: tuple[float, float], plateaus: float
) -> list[Equivalence]:
    """Slopes by their ratio, plateaus by their difference; those that the model has."""
    found = separate.parameters
    pairs = {each: (found[f"{each} of {name}"], found[f"{each} of {reference}"]) for each in separate.joint.model.names}
    df, rows = separate.degrees_of_freedom, []
    slope, other = pairs["slope"]
    rows.append(slopes_equivalent(slope.estimate, other.estimate, slope.standard_error, other.standard_error, df,
                                  margins))  # fmt: skip
    if not {"lower", "upper"} <= set(pairs):
        return rows
    span = abs(pairs["upper"][1].estimate - pairs["lower"][1].estimate) or 1.0
    ends: tuple[Literal["lower", "upper"], ...] = ("lower", "upper")
    for end in ends:
        one, base = pairs[end]
        share = (one.estimate - base.estimate) / span
        if one.standard_error is None or base.standard_error is None or df <= 0:
            rows.append(Equivalence(share, None, None, (-plateaus, plateaus), 0.90, end))
            continue
        half = t_quantile(0.95, df) * math.hypot(one.standard_error, base.standard_error) / span
        rows.append(Equivalence(share, share - half, share + half, (-plateaus, plateaus), 0.90, end))
    return rows


def apart_from(test: Test, parallel: SharedFit, reference: dict[str, float], margin: float) -> Equivalence:
    """A composite of the whole shape: how far the curves lie from parallel ones, as a share of the reference's span.

    The root mean square distance between both fits at the readings, √((F − 1)·df₁·s²/n) ÷ span, with the bounds of the
    90 % interval of F's noncentrality (Steiger 2004, Psychological Methods 9, 164); the extra sum of squares is what
    USP <1032> names as a composite measure.
    """
    if test.statistic is None or "upper" not in reference or parallel.n == 0:
        return Equivalence(math.nan, None, None, (0.0, margin), 0.90, "composite")
    df1, df2 = test.degrees_of_freedom
    spread = (parallel.sse / parallel.degrees_of_freedom) / (1 + (test.statistic - 1) * df1 / (df1 + df2))
    span = abs(reference["upper"] - reference["lower"]) or 1.0
    sizes = (max((test.statistic - 1) * df1, 0.0), f_noncentrality(test.statistic, df1, df2, 0.95),
             f_noncentrality(test.statistic, df1, df2, 0.05))  # fmt: skip
    shares = [math.sqrt(size * spread / parallel.n) / span for size in sizes]
    return Equivalence(shares[0], shares[1], shares[2], (0.0, margin), 0.90, "composite")


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
