"""How much of each component a scan of a mixture holds, from scans of the components alone."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile


@dataclass(frozen=True)
class Mixture:
    """amounts, standard_errors : (components,), the errors NaN where an amount is held at zero.

    rest : (n,), what of the scan is left. rmse : its standard deviation on `df` degrees of freedom.
    condition : by how much an error of the scan can be magnified; from some hundreds components look alike.
    """

    amounts: Array
    standard_errors: Array
    rest: Array
    rmse: float
    df: int
    condition: float

    def interval(self, level: float = 0.95) -> list[tuple[float, float] | None]:
        """amount ± t · standard error, for each; None where there is none."""
        t = t_quantile((1 + level) / 2, self.df) if self.df > 0 else math.nan
        return [
            (float(a - t * e), float(a + t * e)) if math.isfinite(e) and math.isfinite(t) else None
            for a, e in zip(self.amounts, self.standard_errors, strict=True)
        ]


def components(
    value: ArrayLike, references: Sequence[ArrayLike], known: Sequence[float] | None = None, *,
    not_negative: bool = False, constant: bool = False,
) -> Mixture:  # fmt: skip
    """Classical least squares: the scan as the sum of its components (Haaland & Thomas 1988, Anal. Chem. 60, 1193).

    Parameters
    ----------
    value : (n,), the scan in the window. references : (n,) of each component, at its `known` amount (1 when not given).
    not_negative : no amount below zero (Lawson & Hanson 1974). constant : a level that is the same everywhere as well.

    Raises
    ------
    ValueError : when there are fewer points than components, or components that cannot be told apart.
    """
    y = np.asarray(value, dtype=float)
    amounts = np.ones(len(references)) if known is None else np.asarray(known, dtype=float)
    if (amounts == 0).any():
        raise ValueError("A reference needs an amount that is not zero.")
    unit = np.array([np.asarray(each, dtype=float) / a for each, a in zip(references, amounts, strict=True)]).T
    design = np.column_stack([unit, np.ones(y.size)]) if constant else unit
    if y.size <= design.shape[1]:
        raise ValueError(f"{design.shape[1]} components need more points than that in the window; there are {y.size}.")
    scale = np.linalg.norm(design, axis=0)
    if (scale == 0).any() or np.linalg.matrix_rank(design / scale) < design.shape[1]:
        raise ValueError("These references cannot be told apart in the window: one is made up of the others.")
    condition = float(np.linalg.cond(design / scale))
    held = np.zeros(design.shape[1], dtype=bool)
    if not_negative:
        held[: len(amounts)] = _at_zero(y, design, len(amounts))
    free = design[:, ~held]
    found = np.zeros(design.shape[1])
    found[~held] = np.linalg.lstsq(free, y, rcond=None)[0]
    rest = y - design @ found
    df = y.size - free.shape[1]
    rmse = math.sqrt(float(rest @ rest) / df)
    errors = np.full(design.shape[1], np.nan)
    errors[~held] = rmse * np.sqrt(np.diag(np.linalg.inv(free.T @ free)))
    count = len(amounts)
    return Mixture(found[:count], errors[:count], rest, rmse, df, condition)


def _at_zero(y: Array, design: Array, count: int) -> Array:
    """Which components are held at zero so that none is below; a constant may be, and so stands there twice."""
    from scipy.optimize import nnls

    full = np.column_stack([design, -design[:, count:]])
    at_zero: Array = nnls(full, y)[0][:count] == 0
    return at_zero
