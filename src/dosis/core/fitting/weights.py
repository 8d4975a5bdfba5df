"""Weights of a fit: how much each reading counts, by the rules laboratories use."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array

WeightRule = Literal["none", "1/y", "1/y^2", "1/x", "1/x^2", "1/sd^2", "1/yhat^2"]


@dataclass(frozen=True, slots=True)
class Rising:
    """Weights 1/(1 + (m/turn)²): of a spread that is steady where readings are low and grows with them from there.

    m : mean of a reading's level. turn : the signal at which both parts are alike, in the unit of y (Rocke & Lorenzato
    1995, Technometrics 37, 176).
    """

    turn: float

    def at(self, signal: Array) -> Array:
        """The weight of a reading where the signal is about that."""
        weight: Array = 1 / (1 + np.square(signal / self.turn))
        return weight


def inverse_square(fitted: Array) -> Array:
    """Weights 1/ŷ², where the curve is `fitted`; a curve that touches zero does not take everything."""
    level = np.abs(fitted)
    weight: Array = 1 / np.square(np.maximum(level, 1e-8 * level.max(initial=0.0)))
    return weight


def resolve_weights(weights: WeightRule | ArrayLike | None, x: Array, y: Array, sd: Array | None) -> Array:
    """One positive weight a reading, shape (n,).

    Weights are used as they are, not scaled to mean 1: with "1/y^2" the RMSE is a relative error.

    Raises
    ------
    ValueError : when a rule cannot be used with these numbers (1/x² with a zero standard), saying which and where.
    """
    if weights is None or (isinstance(weights, str) and weights == "none"):
        return np.ones_like(y)
    if isinstance(weights, str):
        if weights == "1/sd^2":
            if sd is None:
                raise ValueError("Weights 1/sd² need the standard deviation of every reading (sd=…).")
            with np.errstate(divide="ignore", over="ignore"):
                return _checked(1.0 / _square(sd), "1/sd²", sd)
        base = {"x": x, "y": np.abs(y)}.get(weights[2:3])
        if base is None or weights not in ("1/y", "1/y^2", "1/x", "1/x^2"):
            raise ValueError(
                f"There is no weighting “{weights}”. Known: none, 1/y, 1/y^2, 1/x, 1/x^2, 1/sd^2, 1/yhat^2."
            )
        with np.errstate(divide="ignore", over="ignore"):
            return _checked(1.0 / (_square(base) if weights.endswith("^2") else base), weights, base)
    column = np.asarray(weights, dtype=float)
    if column.shape != y.shape:
        raise ValueError(f"There are {column.size} weights for {y.size} readings; one for each is needed.")
    return _checked(column, "the given weights", column)


def _square(values: Array) -> Array:
    with np.errstate(divide="ignore", over="ignore", under="ignore"):
        return values * values


def _checked(weights: Array, rule: str, base: Array) -> Array:
    bad = ~(np.isfinite(weights) & (weights > 0))
    if bad.any():
        at = int(np.flatnonzero(bad)[0])
        raise ValueError(
            f"The weighting {rule} has no weight for {base[at]:g} (reading {at + 1} of {base.size}): "
            "every weight must be a positive, finite number. Choose another weighting or leave that reading out."
        )
    return weights
