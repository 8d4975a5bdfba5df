"""The spread a fit judges its parameters by, and their covariance for a residual variance of one."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.arrays import Array

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit

CANCELED = 1e-9  # share of its terms below which little of a sum is left but rounding


@dataclass(frozen=True, slots=True)
class Pool:
    """The spread of a curve fitted together with others: Σ w·r² and degrees of freedom of all."""

    sse: float
    degrees_of_freedom: int


def unit_covariance(design: Array) -> Array:
    """(JᵀJ)⁻¹ of weighted Jacobians (…, n, p), by QR with scaled columns; infinite where a parameter is lost."""
    scale = np.sqrt((design * design).sum(axis=-2, keepdims=True))
    safe = np.where((scale > 0) & np.isfinite(scale), scale, 1.0)
    r = np.asarray(np.linalg.qr(design / safe, mode="r"))
    p = design.shape[-1]
    if r.shape[-2] < p:
        return np.full((*design.shape[:-2], p, p), np.inf)
    diagonal = np.abs(np.diagonal(r, axis1=-2, axis2=-1))
    lost = ~(diagonal.min(axis=-1, initial=np.inf) > 1e-13 * diagonal.max(axis=-1, initial=0.0))
    lost = lost[..., None, None]
    inverse = np.linalg.solve(np.where(lost, np.eye(p), r), np.eye(p)) / np.swapaxes(safe, -1, -2)
    covariance: Array = np.where(lost, np.inf, inverse @ np.swapaxes(inverse, -1, -2))
    return covariance


def variances_along(fits: Sequence["Fit"], gradients: Array) -> Array:
    """gᵀ·C·g of each fit with the gradient (fits, p) of its own: (fits,); NaN for a fit that is not settled."""
    none = np.full((gradients.shape[1],) * 2, np.nan)
    covariance = np.stack([none if (each := fit.settled) is None else each for fit in fits])
    variance: Array = np.einsum("ci,cij,cj->c", gradients, covariance, gradients)
    size = np.einsum("ci,cij,cj->c", np.abs(gradients), np.abs(covariance), np.abs(gradients))
    for i in np.flatnonzero(variance < CANCELED * size).tolist():
        variance[i] = fits[i].variance_along(gradients[i : i + 1])[0]
    return variance


@dataclass(frozen=True, slots=True)
class Factor:
    """The triangular factor of a weighted Jacobian with scaled columns, of full rank."""

    scale: Array
    root: Array

    @classmethod
    def of(cls, design: Array) -> "Factor":
        """Of a design (n, p)."""
        scale: Array = np.sqrt((design * design).sum(axis=0))
        return cls(scale, np.asarray(np.linalg.qr(design / scale, mode="r")))

    @property
    def turned(self) -> Array:
        """(p, p) of which the squares of turned·g add up to gᵀ·(JᵀJ)⁻¹·g."""
        turned: Array = np.asarray(np.linalg.solve(self.root.T, np.diag(1.0 / self.scale)), dtype=float)
        return turned

    def unit_variance(self, gradients: Array) -> Array:
        """gᵀ·(JᵀJ)⁻¹·g for every row of gradients (k, p): (k,); squares are summed, so nothing cancels."""
        along = np.linalg.solve(self.root.T, (gradients / self.scale).T)
        variance: Array = (along * along).sum(axis=0)
        return variance
