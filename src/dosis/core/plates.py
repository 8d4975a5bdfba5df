"""Whether a plate reads alike everywhere: its edge against its inside, and drifts along its rows and columns."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.distributions import t_two_sided_p
from dosis.core.fitting.fit import fit
from dosis.core.replicates import summarize

LEAST = 3  # wells on either side of a comparison


@dataclass(frozen=True, slots=True)
class Pattern:
    """One way for a plate to be uneven. size : by how much, in the unit of the deviations; p : against none.

    "edge" is the outermost wells less the inner ones; "rows" and "columns" what a straight trend gains from the first
    row or column to the last.
    """

    kind: Literal["edge", "rows", "columns"]
    size: float
    p_value: float


def plate_patterns(
    row: ArrayLike, column: ArrayLike, deviation: ArrayLike, rows: int, columns: int
) -> tuple[Pattern, ...]:
    """Edge effect by Welch's t test, drifts by the slope of a straight line over the row or the column.

    Parameters
    ----------
    row, column : (n,) from zero; deviation : (n,) of each well from what it should read, such as its group's mean or
        its curve. rows, columns : of the whole plate.

    Returns
    -------
    tuple : those patterns that these wells can show.

    Raises
    ------
    ValueError : for unequal lengths.
    """
    r, c, d = (np.asarray(each, dtype=float) for each in (row, column, deviation))
    if not r.shape == c.shape == d.shape:
        raise ValueError(f"Rows, columns and deviations must be equally many; here {r.size}, {c.size} and {d.size}.")
    outer = (r == 0) | (r == rows - 1) | (c == 0) | (c == columns - 1)
    found = [_edge(d[outer].tolist(), d[~outer].tolist())]
    found += [_drift("rows", r, d, rows), _drift("columns", c, d, columns)]
    return tuple(each for each in found if each is not None)


def _edge(outer: Sequence[float], inner: Sequence[float]) -> Pattern | None:
    """Welch (1947), Biometrika 34, 28."""
    if min(len(outer), len(inner)) < LEAST:
        return None
    one, other = summarize(outer), summarize(inner)
    a, b = ((each.sem or 0.0) ** 2 for each in (one, other))
    if a + b == 0:
        return None
    df = (a + b) ** 2 / (a * a / (one.n - 1) + b * b / (other.n - 1))
    size = one.mean - other.mean
    return Pattern("edge", size, t_two_sided_p(size / math.sqrt(a + b), df))


def _drift(kind: Literal["rows", "columns"], at: Array, deviation: Array, count: int) -> Pattern | None:
    if np.unique(at).size < LEAST:
        return None
    slope = fit("line", at, deviation).parameters["slope"]
    if slope.p_value is None:
        return None
    return Pattern(kind, slope.estimate * (count - 1), slope.p_value)
