"""The analysis of variance of an assay of potency: what preparations, regression, its shape and blocks account for."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.distributions import f_upper_p
from dosis.core.potency.assay import assay, cells, dummies, indicators, left

Kind = Literal["lines", "slopes"]
SETTLED = 1e-12  # share of the total below which a sum of squares is what arithmetic leaves


@dataclass(frozen=True, slots=True)
class Source:
    """A row of the table. f and p_value against the residual error; None where there is none to test against."""

    name: str
    sum_of_squares: float
    degrees_of_freedom: int
    mean_square: float | None
    f: float | None
    p_value: float | None


@dataclass(frozen=True, slots=True)
class Analysis:
    """All rows, the residual error and the total last; each is what it adds to those above it."""

    sources: tuple[Source, ...]

    def __getitem__(self, name: str) -> Source:
        """The row of that name. Raises KeyError."""
        for source in self.sources:
            if source.name == name:
                return source
        raise KeyError(name)

    @property
    def error(self) -> Source:
        """Between readings of the same dose, preparation and block: the residual error."""
        return self["Residual error"]


def analysis_of_variance(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], *, kind: Kind = "lines",
    blocks: Sequence[Rows] = (),
) -> Analysis:  # fmt: skip
    """Sums of squares by nested least squares, in the order of Ph. Eur. 5.3 (3.2.3, 3.3.3).

    Of parallel lines: blocks, preparations, regression, non-parallelism, non-linearity. Of slope ratios: blocks,
    regression, blanks, intersection, non-linearity. In balanced designs these are the pharmacopoeia's sums whatever
    their order; in others each is adjusted for those above it.

    Parameters
    ----------
    dose, response : (n,); doses above zero for lines. preparation : a label for each, the zero dose belonging to all.
    blocks : for each way in which readings are blocked (one of randomized blocks, rows and columns of a Latin square)
        the number of the block of every reading, (n,).

    Raises
    ------
    ValueError : as for the assay itself.

    Example
    -------
    >>> table = analysis_of_variance([1, 2, 1, 2, 1, 2, 1, 2], [3, 5, 4, 6, 3.2, 5.1, 4.1, 6.2], list("SSTTSSTT"))
    >>> [row.name for row in table.sources][:2]
    ['Preparations', 'Regression']
    """
    x, y, labels, _ = assay(dose, response, preparation, None, positive=kind == "lines")
    member = indicators(labels)
    stages: tuple[tuple[str, tuple[Array, ...]], ...]
    if kind == "lines":
        t = np.log(x)[:, None]
        stages = (("Preparations", (member,)), ("Regression", (member, t)), ("Non-parallelism", (member, member * t)))
    else:
        apart = member * x[:, None]
        blank = (x == 0).astype(float)[:, None]
        stages = (
            ("Regression", (apart,)), ("Blanks", (apart, blank)),
            ("Intersection", (apart, blank, member * (x > 0)[:, None])),
        )  # fmt: skip
        labels = np.where(x == 0, -1, labels)
    fits, blocked = _blocks(y, blocks)
    fits += [(name, left(np.column_stack((blocked, *columns)), y)) for name, columns in stages]
    fits.append(("Non-linearity", left(np.column_stack((blocked, cells(x, labels))), y)))
    return _table(y, fits)


def of_curves(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], models: Sequence[tuple[float, int]], *,
    blocks: Sequence[Rows] = (),
) -> Analysis:  # fmt: skip
    """The same table of curves: regression by parallel curves, non-parallelism by what each curve of its own adds.

    models : what the parallel curves, and the curves each on its own, leave unexplained once blocks are taken off, with
        the number of their parameters.
    """
    x, y, labels, _ = assay(dose, response, preparation, None, positive=False)
    fits, blocked = _blocks(y, blocks)
    member = indicators(labels)
    of_blocks = fits[-1][1][1] - 1
    fits.append(("Preparations", left(np.column_stack((blocked, member)), y)))
    named = zip(("Regression", "Non-parallelism"), models, strict=True)
    fits += [(name, (sse, parameters + of_blocks)) for name, (sse, parameters) in named]
    fits.append(("Non-linearity", left(np.column_stack((blocked, cells(x, labels))), y)))
    return _table(y, fits)


Fitted = tuple[str, tuple[float, int]]


def _blocks(y: Array, blocks: Sequence[Rows]) -> tuple[list[Fitted], Array]:
    """What the mean and each way of blocking leave, and the columns of all of them."""
    blocked = np.ones((y.size, 1))
    fits: list[Fitted] = [("", left(blocked, y))]
    for i, block in enumerate(blocks, start=1):
        blocked = np.column_stack((blocked, dummies(block)))
        fits.append((f"Blocks {i}" if len(blocks) > 1 else "Blocks", left(blocked, y)))
    return fits, blocked


def _table(y: Array, fits: Sequence[Fitted]) -> Analysis:
    (error, rank), total = fits[-1][1], fits[0][1][0]
    df_error = y.size - rank
    small = SETTLED * float(y @ y)
    rows = []
    for (_, (before, rank_before)), (name, (after, rank_after)) in pairwise(fits):
        df = rank_after - rank_before
        if df > 0:
            rows.append(source(name, before - after, df, error, df_error, small))
    treated = [row for row in rows if not row.name.startswith("Blocks")]
    if treated:
        rows.append(source("Treatments", sum(row.sum_of_squares for row in treated),
                        sum(row.degrees_of_freedom for row in treated), error, df_error, small))  # fmt: skip
    mean = error / df_error if df_error > 0 else None
    rows.append(Source("Residual error", max(error, 0.0), df_error, mean, None, None))
    rows.append(Source("Total", total, y.size - 1, None, None, None))
    return Analysis(tuple(rows))


def source(name: str, squares: float, df: int, error: float, df_error: int, small: float) -> Source:
    """A row, tested against an error unless that is too small to be one."""
    squares = max(squares, 0.0)
    mean = squares / df
    if df_error <= 0 or error <= small:
        return Source(name, squares, df, mean, None, None)
    f = mean / (error / df_error)
    return Source(name, squares, df, mean, f, f_upper_p(f, df, df_error))
