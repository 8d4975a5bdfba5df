"""The spread a fit judges its parameters by, and their covariance for a residual variance of one."""

from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array


@dataclass(frozen=True, slots=True)
class Pool:
    """The spread of a curve fitted together with others: Σ w·r² and degrees of freedom of all."""

    sse: float
    degrees_of_freedom: int


def unit_covariance(design: Array) -> Array:
    """(JᵀJ)⁻¹ of a weighted Jacobian (n, p), by QR with scaled columns; infinite where a parameter is lost."""
    scale = np.sqrt((design * design).sum(axis=0))
    safe = np.where((scale > 0) & np.isfinite(scale), scale, 1.0)
    r = np.asarray(np.linalg.qr(design / safe, mode="r"))
    diagonal = np.abs(np.diag(r))
    p = design.shape[1]
    if r.shape[0] < p or diagonal.min(initial=np.inf) <= 1e-13 * diagonal.max(initial=0.0):
        return np.full((p, p), np.inf)
    inverse = np.linalg.solve(r, np.eye(p)) / safe[:, None]
    covariance: Array = inverse @ inverse.T
    return covariance
