"""The spread a fit judges its parameters by, and their covariance for a residual variance of one."""

from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array


@dataclass(frozen=True, slots=True)
class Pool:
    """A spread that more than a curve's own readings tell of: Σ w·r² and degrees of freedom of all.

    Those of the curves it was fitted with, or of samples that scatter alike.
    """

    sse: float
    degrees_of_freedom: int


def unit_covariance(design: Array) -> Array:
    """(JᵀJ)⁻¹ of weighted Jacobians (…, n, p), by QR with scaled columns; infinite where a parameter is lost."""
    with np.errstate(over="ignore"):  # a parameter that nothing determines
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
    with np.errstate(over="ignore"):
        covariance: Array = np.where(lost, np.inf, inverse @ np.swapaxes(inverse, -1, -2))
    return covariance


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
