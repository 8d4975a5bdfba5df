"""Cross-over assays: every animal is given several treatments, one in each period, and is compared with itself."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.distributions import t_quantile
from dosis.core.fitting.linear import solve
from dosis.core.inference.goodness import Test
from dosis.core.inference.ratio import fieller_ratio
from dosis.core.potency.assay import assay, dummies, f_test, indicators, left, pairs
from dosis.core.potency.lines import along_lines, is_flat
from dosis.core.potency.result import Equivalence, Potency
from dosis.core.potency.variance import Analysis, Source, source

WITHIN = "Non-parallelism within animals"


@dataclass(frozen=True, slots=True)
class CrossOver:
    """Potencies by preparation, the reference left out, and the analysis of variance, between animals and within.

    adjusted : responses less what animals and periods differ by, (n,). lost : degrees of freedom that this took.
    """

    potencies: dict[Hashable, Potency]
    analysis: Analysis
    adjusted: Array
    lost: int


@dataclass(frozen=True, slots=True)
class _Design:
    """Columns for the readings: (n, k) each. alike : one for each sequence of treatments over the periods."""

    member: Array
    t: Array
    animals: Array
    periods: Array
    treatments: Array
    each: Array
    alike: Array

    def within(self, *more: Array) -> Array:
        """Animals, and what is compared inside them."""
        return np.column_stack((self.animals, *more))

    def over_animals(self, columns: Array) -> Array:
        """The mean of columns over the readings of each animal, at each of its readings."""
        mean: Array = self.animals @ (self.animals.T @ columns / self.animals.sum(axis=0)[:, None])
        return mean


def cross_over(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], animal: Rows, period: Rows, *,
    reference: Hashable | None = None, level: float = 0.95, margins: tuple[float, float] = (0.80, 1.25),
) -> CrossOver:  # fmt: skip
    """Parallel lines on ln dose from what differs inside animals, periods taken off.

    Where animals have but one dose of each preparation, as in a twin cross-over, preparations and regression are
    compared within animals and non-parallelism between them, each against the error of its own (Ph. Eur. 5.3, 3.2.5;
    Finney 1978, chapter 10).

    Parameters
    ----------
    dose, response : (n,), doses above zero. preparation : a label for each; the first is the reference, or the named.
    animal, period : the number of each reading's animal and period, (n,).

    Raises
    ------
    ValueError : where no animal has both preparations at doses that tell them apart, where too few animals leave no
        error, or where the response does not change with dose.
    """
    x, y, labels, names = assay(dose, response, preparation, reference, positive=True)
    design = _design(x, labels, animal, period)
    at, fixed = len(names), (design.animals[:, 1:], design.periods)
    common = solve(np.column_stack((design.member, design.t, *fixed)), y, np.ones_like(y))
    if common.rank < at + 1 + sum(each.shape[1] for each in fixed):
        raise ValueError("Preparations and doses cannot be told from animals and periods: each animal needs both "
                         "preparations, at doses that differ.")  # fmt: skip
    if is_flat(common, at):
        raise ValueError("The response does not change with dose, so there is no potency.")
    analysis = _analysis(y, design)
    error = analysis.error
    if error.degrees_of_freedom <= 0:
        raise ValueError("There are too few animals to tell a spread within them from.")
    variance, df = error.sum_of_squares / error.degrees_of_freedom, error.degrees_of_freedom
    parallel = _parallel(analysis)
    slope, v_slope = float(common.parameters[at]), variance * float(common.unscaled_covariance[at, at])
    alike = _alike(y, design, slope, v_slope, df,
                   analysis, margins) if at == 2 else None  # fmt: skip
    found: dict[Hashable, Potency] = {}
    for i in range(1, at):
        line = along_lines(common, i, at, variance, df, level)
        found[names[i]] = Potency(
            names[i], names[0], line.estimate, line.lower, line.upper, line.log_error, None, line.g, variance, df,
            parallel, alike, Test(None, None, reason="Of a cross-over lines are not tested for being straight."),
            line.reason, parallel, () if alike is None else (alike,),
        )  # fmt: skip
    shift = np.column_stack(fixed) @ common.parameters[at + 1 :]
    return CrossOver(found, analysis, y - (shift - shift.mean()), sum(each.shape[1] for each in fixed))


def _design(x: Array, labels: Rows, animal: Rows, period: Rows) -> _Design:
    treatment = pairs(labels, x)
    given = {a: tuple(sorted(zip(period[animal == a].tolist(), treatment[animal == a].tolist(), strict=True)))
             for a in np.unique(animal).tolist()}  # fmt: skip
    order = {sequence: i for i, sequence in enumerate(dict.fromkeys(given.values()))}
    alike = np.array([order[given[a]] for a in animal.tolist()])
    return _Design(
        member=indicators(labels), t=np.log(x)[:, None], animals=indicators(animal), alike=indicators(alike),
        periods=dummies(period), treatments=indicators(treatment), each=indicators(pairs(treatment, period)),
    )  # fmt: skip


def _analysis(y: Array, design: _Design) -> Analysis:
    """Between animals, then within; each row is what it adds to those above it, against the error of its stratum."""
    apart = design.member * design.t
    one = np.ones((y.size, 1))
    base = np.column_stack((one, design.over_animals(np.column_stack((design.member, design.t)))))
    between = [
        ("", one), ("Between animals by preparation and dose", base),
        ("Non-parallelism", np.column_stack((base, design.over_animals(apart)))),
        ("Sequences", np.column_stack((base, design.over_animals(apart), design.alike))),
        ("Animals within sequences", design.animals),
    ]  # fmt: skip
    within = [
        ("", design.animals), ("Preparations", design.within(design.member)),
        ("Regression", design.within(design.member, design.t)),
        ("Periods", design.within(design.member, design.t, design.periods)),
        (WITHIN, design.within(design.member, apart, design.periods)),
        ("Non-linearity", design.within(design.treatments, design.periods)),
        ("Periods × treatments", design.within(design.each)), ("Residual error", np.eye(y.size)),
    ]  # fmt: skip
    rows = [*_rows(y, between), *_rows(y, within)]
    total = float(np.square(y - y.mean()).sum())
    return Analysis((*rows, Source("Total", total, y.size - 1, None, None, None)))


def _rows(y: Array, stages: Sequence[tuple[str, Array]]) -> list[Source]:
    fits = [(name, *left(columns, y)) for name, columns in stages]
    (_, before, rank), (error_name, after, whole) = fits[-2:]
    error, df_error = max(before - after, 0.0), whole - rank
    rows = []
    for (_, before, rank), (name, after, more) in pairwise(fits[:-1]):
        if more > rank:
            rows.append(source(name, before - after, more - rank, error, df_error, 0.0))
    mean = error / df_error if df_error > 0 else None
    return [*rows, Source(error_name, error, df_error, mean, None, None)]


def _of_slopes(analysis: Analysis) -> tuple[Source, Source] | None:
    """What slopes differ by and its error: within animals where they have doses enough for it, else between them."""
    named = {row.name: row for row in analysis.sources}
    for name, error in ((WITHIN, analysis.error), ("Non-parallelism", named["Animals within sequences"])):
        if name in named:
            return named[name], error
    return None


def _parallel(analysis: Analysis) -> Test:
    found = _of_slopes(analysis)
    if found is None:
        return Test(None, None, reason="Nothing in this design tells the slopes of the preparations apart.")
    row, error = found
    return f_test(row.sum_of_squares, row.degrees_of_freedom, error.sum_of_squares, error.degrees_of_freedom)


def _alike(
    y: Array, design: _Design, slope: float, v_slope: float, df: int, analysis: Analysis,
    margins: tuple[float, float],
) -> Equivalence:  # fmt: skip
    """The ratio of two slopes: what they have in common from within animals, their difference from where it is seen."""
    nothing, found = Equivalence(math.nan, None, None, margins, 0.90), _of_slopes(analysis)
    if found is None:
        return nothing
    row, error = found
    apart = (design.member * design.t)[:, 1:]
    if row.name == WITHIN:
        columns = design.within(design.member[:, 1:], design.t, design.periods)
    else:
        base = design.over_animals(np.column_stack((design.member[:, 1:], design.t)))
        columns, apart = np.column_stack((np.ones(y.size), base)), design.over_animals(apart)
    rest, own = _without(columns, apart[:, 0]), _without(columns, y)
    size = float(rest @ rest)
    if error.degrees_of_freedom <= 0 or size <= 1e-12 * float(apart[:, 0] @ apart[:, 0]):
        return nothing
    difference = float(rest @ own) / size
    v = error.sum_of_squares / error.degrees_of_freedom / size
    one, other = slope - difference / 2, slope + difference / 2
    quantile = t_quantile(0.95, min(df, error.degrees_of_freedom))
    low, high = fieller_ratio(other, one, v_slope + v / 4, v_slope - v / 4, v_slope + v / 4, quantile)
    return Equivalence(other / one if one else math.nan, low, high, margins, 0.90)


def _without(columns: Array, y: Array) -> Array:
    """What the columns leave of y."""
    found: Array = y - columns @ np.linalg.lstsq(columns, y, rcond=None)[0]
    return found
