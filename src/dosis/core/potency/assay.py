"""What all assays of potency share: preparations told apart, and the sums of squares their tests are made of."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array, Rows
from dosis.core.distributions import f_upper_p
from dosis.core.fitting.readings import readings
from dosis.core.inference.goodness import Test
from dosis.core.potency.preparations import preparations


def assay(
    dose: ArrayLike, response: ArrayLike, preparation: Sequence[Hashable], reference: Hashable | None, *, positive: bool
) -> tuple[Array, Array, Rows, list[Hashable]]:
    """Doses, responses and the number of each preparation, the reference being 0; and the names in that order."""
    data = readings(dose, response, None, None, series=preparation)
    names = preparations(data.series or (), reference)
    if (data.x <= 0).any() if positive else (data.x < 0).any():
        wrong = float(data.x.min())
        raise ValueError(f"Doses must be {'above' if positive else 'at least'} zero here; there is {wrong:g}.")
    return data.x, data.y, np.array([names.index(label) for label in data.series or ()], dtype=np.intp), names


def pure_error(x: Array, labels: Rows, y: Array, blocks: Sequence[Rows] = ()) -> tuple[float, int]:
    """Sum of squares between readings of the same dose, preparation and block, and its degrees of freedom."""
    error, rank = left(np.column_stack((cells(x, labels), *map(dummies, blocks))), y)
    return error, y.size - rank


def cells(x: Array, labels: Rows) -> Array:
    """A column for each dose of each preparation: (n, cells)."""
    return indicators(pairs(labels, x))


def pairs(one: Array | Rows, other: Array | Rows) -> Rows:
    """The number of every reading's pair of values, (n,)."""
    found: Rows = np.unique(np.column_stack((one, other)), axis=0, return_inverse=True)[1].ravel()
    return found


def indicators(number: Rows) -> Array:
    """A column for each different number: (n, k)."""
    found: Array = (number[:, None] == np.unique(number)[None, :]).astype(float)
    return found


def dummies(block: Rows) -> Array:
    """A column for each block but the first: (n, blocks − 1)."""
    return indicators(block)[:, 1:]


def left(design: Array, y: Array) -> tuple[float, int]:
    """What a linear model leaves unexplained, and its rank; columns that say the same twice count once."""
    u, size, _ = np.linalg.svd(design / np.sqrt((design**2).sum(axis=0).clip(min=1e-300)), full_matrices=False)
    rank = int((size > max(design.shape) * np.finfo(float).eps * size[0]).sum())
    basis = u[:, :rank]
    rest = y - basis @ (basis.T @ y)
    rest -= basis @ (basis.T @ rest)
    return float(rest @ rest), rank


def f_test(excess: float, df1: int, error: float, df2: int) -> Test:
    """F of a sum of squares against an error, or the reason why there is none."""
    if df1 <= 0:
        return Test(None, None, reason="Two doses of each preparation leave nothing to test.")
    if df2 <= 0:
        return Test(None, None, reason="There are no repeated doses to test against.")
    if error <= 0:
        return Test(None, None, (df1, df2), "The readings agree exactly, so there is no error to test against.")
    f = max(excess, 0.0) / df1 / (error / df2)
    return Test(f, f_upper_p(f, df1, df2), (df1, df2))
