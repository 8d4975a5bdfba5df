"""Levenberg–Marquardt for many curves at once: one damping factor a curve, finished curves leave the batch."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dosis.core.arrays import Array, Flags
from dosis.core.fitting.levenberg import OFFSET, PERFECT, ROUNDING
from dosis.core.fitting.scale import from_scale, to_scale
from dosis.core.models.model import Model

Rows = NDArray[np.intp]

MOST = 150
STALL = 1e-12  # relative gain of a step that is not worth taking more than IDLE times: a minimum at infinity
IDLE = 4
CACHED = 12_000  # numbers of an array that is still worked on without a trip to the memory


@dataclass(frozen=True)
class Batch:
    """Curves of one model on the same x: y and w are (curves, n)."""

    model: Model
    x: Array
    y: Array
    w: Array

    def rows(self, rows: Rows | Flags | slice) -> "Batch":
        """Some of the curves."""
        return Batch(self.model, self.x, self.y[rows], self.w[rows])

    @property
    def logarithmic(self) -> Flags:
        """Which parameters are fitted on the logarithmic scale."""
        return np.array([parameter.positive for parameter in self.model.parameters])

    def evaluate(self, values: Array) -> tuple[Array, Array]:
        """Residuals (curves, n) and the Jacobian (p, curves, n) in the parameters themselves."""
        at = {"x": self.x, **{name: values[:, i, None] for i, name in enumerate(self.model.names)}}
        value, derivatives = self.model.expression.dual(at, self.model.names)
        jacobian = np.stack([np.broadcast_to(0.0 if d is None else d, self.y.shape) for d in derivatives])
        return self.y - value, jacobian

    def _normal(self, values: Array) -> Array:
        """JᵀWJ of every curve, (curves, p, p)."""
        _, jacobian = self.evaluate(values)
        rooted = (jacobian * np.sqrt(self.w)).transpose(1, 0, 2)
        product: Array = rooted @ rooted.transpose(0, 2, 1)
        return product

    def unit_errors(self, values: Array) -> Array:
        """Standard errors for a residual variance of one, (curves, p); NaN where a parameter is not determined."""
        with np.errstate(invalid="ignore"):
            errors: Array = np.sqrt(np.einsum("bpp->bp", self.unit_covariances(values)))
        return errors

    def unit_covariances(self, values: Array) -> Array:
        """Covariances for a residual variance of one, (curves, p, p); NaN where they are not determined."""
        with np.errstate(all="ignore"):
            size = max(CACHED // self.x.size, 1)
            parts = [slice(i, i + size) for i in range(0, len(values), size)]
            normal = np.concatenate([self.rows(part)._normal(values[part]) for part in parts])
            scale = np.sqrt(np.einsum("bpp->bp", normal))
            correlation = normal / (scale[:, :, None] * scale[:, None, :])
            good = np.isfinite(correlation).all(axis=(1, 2))
            correlation[~good] = np.eye(scale.shape[1])
            eigenvalues = np.linalg.eigvalsh(correlation)
            good &= eigenvalues[:, 0] > 1e-13
            correlation[~good] = np.eye(scale.shape[1])
            found = np.linalg.inv(correlation) / (scale[:, :, None] * scale[:, None, :])
        unit: Array = np.where(good[:, None, None], found, np.nan)
        return unit


def descend_all(batch: Batch, start: Array) -> tuple[Array, Array, Flags]:
    """Values (curves, p), sum of squares and whether converged, for every curve from its start."""
    if batch.model.linear:
        return _direct(batch)
    with np.errstate(all="ignore"):
        return _iterate(batch, start)


def _iterate(batch: Batch, start: Array) -> tuple[Array, Array, Flags]:
    log = batch.logarithmic
    count, p = start.shape
    values, sse, converged = start.copy(), np.full(count, np.inf), np.zeros(count, dtype=bool)
    scale = (batch.w * np.square(batch.y)).sum(axis=1)
    readings = (batch.w > 0).sum(axis=1)

    active, part = np.arange(count), batch
    theta = to_scale(start, log)
    residual, jacobian, now = _at(part, theta, log)
    fine = np.isfinite(now)
    active, part, theta = active[fine], part.rows(fine), theta[fine]
    residual, jacobian, now = residual[fine], jacobian[:, fine], now[fine]
    damping, growth = np.full(active.size, 1e-3), np.full(active.size, 2.0)
    idle = np.zeros(active.size, dtype=int)
    for _ in range(MOST):
        if not active.size:
            break
        normal, gradient = _normal_equations(part.w, residual, jacobian)
        size = np.sqrt(np.maximum(np.einsum("bpp->bp", normal), 1e-300))
        unit = normal / (size[:, :, None] * size[:, None, :])
        pull = gradient / size
        step = np.linalg.solve(unit + (damping[:, None] + 1e-15)[:, :, None] * np.eye(p), pull[..., None])[..., 0]
        full = np.linalg.solve(unit + 1e-14 * np.eye(p), pull[..., None])[..., 0]
        reach = np.maximum((full * pull).sum(axis=1), 0.0)
        across = np.maximum(now - reach, 0.0)
        degrees = np.maximum(readings[active] - p, 1)
        offset = np.sqrt((reach / p) / np.maximum(across / degrees, 1e-300))
        done = (offset <= OFFSET) | (now <= PERFECT * scale[active])

        promised = 2 * (step * pull).sum(axis=1) - np.einsum("bp,bpq,bq->b", step, unit, step)
        candidate = theta + step / size
        new_residual, new_jacobian, new = _at(part, candidate, log)
        gain = (now - new) / promised
        accept = ~done & np.isfinite(new) & (new < now) & (gain > 1e-4)
        damping = np.where(accept, damping * np.maximum(1 / 3, 1 - (2 * gain - 1) ** 3), damping * growth)
        growth = np.where(accept, 2.0, growth * 2.0)
        theta = np.where(accept[:, None], candidate, theta)
        residual = np.where(accept[:, None], new_residual, residual)
        jacobian = np.where(accept[None, :, None], new_jacobian, jacobian)
        before, now = now, np.where(accept, new, now)
        idle = np.where(accept & (before - now > STALL * before), 0, idle + 1)
        stuck = ~done & ((~accept & (damping > 1e16)) | (idle > IDLE + 12 * (damping > 1e-3)))
        leave = done | stuck
        if leave.any():
            out = active[leave]
            # As for a single curve, the step that is too small to be worth a look is still taken.
            last = np.where((offset <= ROUNDING)[:, None], full / size, 0.0)[leave]
            values[out], sse[out] = from_scale(theta[leave] + last, log), now[leave]
            converged[out] = done[leave] | (offset[leave] <= ROUNDING)
            stay = ~leave
            active, part, theta, now = active[stay], part.rows(stay), theta[stay], now[stay]
            residual, jacobian = residual[stay], jacobian[:, stay]
            damping, growth, idle = damping[stay], growth[stay], idle[stay]
    values[active], sse[active] = from_scale(theta, log), now
    return values, sse, converged


def _normal_equations(w: Array, residual: Array, jacobian: Array) -> tuple[Array, Array]:
    """JᵀWJ, (curves, p, p), and JᵀWr, (curves, p)."""
    p, count = jacobian.shape[:2]
    normal, gradient = np.empty((count, p, p)), np.empty((count, p))
    weighted = jacobian * w
    for a in range(p):
        gradient[:, a] = np.einsum("bn,bn->b", weighted[a], residual)
        for b in range(a + 1):
            normal[:, a, b] = normal[:, b, a] = np.einsum("bn,bn->b", weighted[a], jacobian[b])
    return normal, gradient


def _at(batch: Batch, theta: Array, log: Flags) -> tuple[Array, Array, Array]:
    values = from_scale(theta, log)
    residual, jacobian = batch.evaluate(values)
    for i in np.flatnonzero(log):
        jacobian[i] *= values[:, i, None]
    sse = np.einsum("bn,bn,bn->b", batch.w, residual, residual)
    return residual, jacobian, np.where(np.isfinite(jacobian).all(axis=(0, 2)), sse, np.inf)


def _direct(batch: Batch) -> tuple[Array, Array, Flags]:
    """A model linear in its parameters, by QR of each curve's weighted design."""
    count, p = len(batch.y), len(batch.model.names)
    _, jacobian = batch.evaluate(np.zeros((count, p)))
    root = np.sqrt(batch.w)
    design = np.moveaxis(jacobian, 0, -1) * root[:, :, None]
    q, r = np.linalg.qr(design)
    diagonal = np.abs(np.einsum("bpp->bp", r))
    good = diagonal.min(axis=1) > 1e-13 * np.maximum(diagonal.max(axis=1), 1e-300)
    r[~good] = np.eye(p)
    values = np.linalg.solve(r, np.einsum("bnp,bn->bp", q, root * batch.y)[..., None])[..., 0]
    values[~good] = np.nan
    residual, _ = batch.evaluate(values)
    return values, (batch.w * np.square(residual)).sum(axis=1), good
