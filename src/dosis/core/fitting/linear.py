"""Linear least squares by QR: the solver under every model that is linear in its parameters."""

from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array

SETTLED = 1e-8  # of the parameters, a step after which only the square of it is left


@dataclass(frozen=True, slots=True)
class LinearSolution:
    """Solution of min Σ w (y − X β)².

    parameters : (p,)
    residuals : y − X β, (n,), unweighted
    unscaled_covariance : (Xᵀ W X)⁻¹, (p, p); times SSE/df it is the covariance
    rank : number of parameters the data can tell apart
    """

    parameters: Array
    residuals: Array
    unscaled_covariance: Array
    rank: int


def solve(design: Array, y: Array, weights: Array) -> LinearSolution:
    """Weighted least squares by Householder QR with scaled columns and iterative refinement.

    The normal equations are never formed: they square the condition number. Residuals of the refinement are taken in
    extended precision (Björck 1967, BIT 7, 257, on the augmented system), which keeps the certified digits of
    polynomials.

    Parameters
    ----------
    design : (n, p); y, weights : (n,), weights positive.
    """
    a = design * np.sqrt(weights)[:, None]
    peak = np.abs(a).max(axis=0, initial=0.0)
    peak[peak == 0] = 1.0
    scale = peak * np.sqrt(np.square(a / peak).sum(axis=0))  # in two steps, so that 1e300 does not overflow
    scale[scale == 0] = 1.0
    a = a / scale
    q, r = np.linalg.qr(a)
    diagonal = np.abs(np.diag(r))
    tolerance = max(a.shape) * np.finfo(float).eps * (diagonal.max() if diagonal.size else 0.0)
    rank = int((diagonal > tolerance).sum())
    p = a.shape[1]
    if rank < p:
        nan = np.full((p, p), np.nan)
        return LinearSolution(np.full(p, np.nan), np.full(y.shape, np.nan), nan, rank)

    # Solve [I A; Aᵀ 0] [residual; β] = [b; 0], correcting both parts from residuals in long double.
    long_design, long_y = design.astype(np.longdouble), y.astype(np.longdouble)
    root = np.sqrt(weights.astype(np.longdouble))
    long_a, long_b = long_design * root[:, None] / scale, long_y * root
    inverse = _inverse(r)
    qf = q.T @ long_b.astype(float)
    beta = (inverse @ qf).astype(np.longdouble)
    residual = long_b - q @ qf
    for _ in range(2):
        f = (long_b - residual - long_a @ beta).astype(float)
        g = (-(long_a.T @ residual)).astype(float)
        h = g @ inverse
        qf = q.T @ f
        step = inverse @ (qf - h)
        beta = beta + step
        residual = residual + (f - q @ qf) + q @ h
        if max(map(abs, step.tolist())) <= SETTLED * max(map(abs, beta.tolist())):
            break

    beta /= scale
    inverse /= scale[:, None]
    return LinearSolution(beta.astype(float), (long_y - long_design @ beta).astype(float), inverse @ inverse.T, rank)


def _inverse(r: Array) -> Array:
    """Of an upper triangle (p, p) of full rank, by back substitution; in plain numbers, p being small."""
    rows, p = r.tolist(), len(r)
    found = [[0.0] * p for _ in range(p)]
    for column in range(p):
        for i in range(column, -1, -1):
            rest = sum(rows[i][k] * found[k][column] for k in range(i + 1, column + 1))
            found[i][column] = ((1.0 if i == column else 0.0) - rest) / rows[i][i]
    return np.array(found)
