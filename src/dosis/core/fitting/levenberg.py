"""Levenberg–Marquardt: nonlinear least squares from one start, judged by the gradient as well as by the SSE."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array

OFFSET = 1e-9  # relative offset (Bates & Watts 1988, 2.2.3) at which a fit counts as converged
ROUNDING = 1e-6  # the same where rounding lets nothing better be reached
PERFECT = 1e-28  # share of the data's own sum of squares below which a fit is exact

Evaluate = Callable[[Array], tuple[Array, Array] | None]


@dataclass(frozen=True, slots=True)
class Minimum:
    """Where a descent ended: parameters, weighted residuals and their Jacobian there, and whether it is a minimum."""

    parameters: Array
    residuals: Array
    jacobian: Array
    sse: float
    converged: bool
    message: str


def descend(
    evaluate: Evaluate, start: Array, lower: Array, upper: Array, scale: float, most: int = 300
) -> Minimum | None:
    """Minimize Σ r² from `start`; None when the model has no value there.

    Steps are damped in units of the Jacobian's columns (Moré 1978, Lecture Notes in Mathematics 630, 105) and solved
    by QR; the damping follows the gain ratio (Nielsen 1999, IMM-REP-1999-05). Parameters stay within their bounds: one
    that the gradient pushes against its bound is held there for the step.

    Parameters
    ----------
    evaluate : parameters (p,) -> weighted residuals (n,) and the model's weighted Jacobian (n, p), or None.
    scale : sum of squares of the weighted data, against which a fit is called exact.
    """
    theta = np.clip(start, lower, upper)
    now = evaluate(theta)
    if now is None:
        return None
    residuals, jacobian = now
    sse = float(residuals @ residuals)
    damping, growth = 1e-3, 2.0
    columns = np.zeros(theta.size)
    for _ in range(most):
        if sse <= PERFECT * scale:
            return Minimum(theta, residuals, jacobian, sse, True, "The curve goes through every reading.")
        columns = np.maximum(columns, np.sqrt(np.einsum("ij,ij->j", jacobian, jacobian)))
        safe = np.where(columns > 0, columns, 1.0)
        pull = jacobian.T @ residuals
        free = ~(((theta <= lower) & (pull < 0)) | ((theta >= upper) & (pull > 0)))
        if not free.any():
            return Minimum(theta, residuals, jacobian, sse, True, "Every parameter is at its bound.")
        q, r = np.linalg.qr(jacobian[:, free] / safe[free])
        along = q.T @ residuals
        reach = float(along @ along)
        offset = _offset(reach, sse, residuals.size, theta.size)
        # The step that is too small to be worth a look is still taken: it costs nothing and adds digits.
        last = theta.copy()
        if offset <= ROUNDING and (np.abs(np.diag(r)) > 1e-10).all():
            last[free] += np.linalg.solve(r, along) / safe[free]
            last = np.clip(last, lower, upper)
        if offset <= OFFSET:
            return Minimum(last, residuals, jacobian, sse, True, "Converged.")
        while True:
            step = _damped(r, along, damping)
            candidate = theta.copy()
            candidate[free] += step / safe[free]
            candidate = np.clip(candidate, lower, upper)
            rest = along - r @ step
            promised = reach - float(rest @ rest)
            tried = evaluate(candidate) if (candidate != theta).any() else None
            if tried is not None and promised > 0:
                new = float(tried[0] @ tried[0])
                gain = (sse - new) / promised
                if new < sse and gain > 1e-4:
                    theta, (residuals, jacobian), sse = candidate, tried, new
                    damping *= max(1 / 3, 1 - (2 * gain - 1) ** 3)
                    growth = 2.0
                    break
            damping *= growth
            growth *= 2.0
            if damping > 1e20:
                done = offset <= ROUNDING
                said = "Converged." if done else "No step makes the fit better, but the gradient is not zero."
                return Minimum(last, residuals, jacobian, sse, done, said)
    runs = "the curve can still be made a little better by parameters that run away"
    return Minimum(theta, residuals, jacobian, sse, False, f"Not converged after {most} steps: {runs}.")


def _offset(reach: float, sse: float, n: int, p: int) -> float:
    """Length of the residual in the tangent plane against that across it, each by its degrees of freedom."""
    across = max(sse - reach, 0.0)
    if across <= 1e-12 * sse:  # (nearly) as many parameters as readings: judge by the size of the reachable part
        return float(np.sqrt(reach / sse)) if n > p else 1.0
    return float(np.sqrt((reach / p) / (across / max(n - p, 1))))


def _damped(r: Array, along: Array, damping: float) -> Array:
    p = r.shape[1]
    stacked = np.vstack((r, np.sqrt(damping) * np.eye(p)))
    target = np.concatenate((along, np.zeros(p)))
    q2, r2 = np.linalg.qr(stacked)
    return np.linalg.solve(r2, q2.T @ target)
