"""Newton's method for many sigmoids at once: exact second derivatives, a radius a curve, finished curves leave."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from dosis.core.arrays import Array, Flags, Rows
from dosis.core.fitting.sigmoids.asymmetry import moved, turned
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.state import State, dot, look, lowest_and_largest, slopes, solve_shifted
from dosis.core.models.shapes import ShapeOf

NEAR = 0.1  # promise against the sum of squares at which Gauss and Newton's step, safe from afar, gives way to Newton's
CLOSE = 1e-10  # the same at which the last step is taken
EXACT = 1e-26  # the same against the curve's whole variation, for readings that lie on the curve
STEEPEST, FLATTEST = 2000.0, 1e-3  # |b|: the range of x holds 2·b units of u
FAR = 28.0  # u at the nearest reading beyond which a midpoint outside the readings changes nothing
CROWD = 0.75  # share of unfinished curves below which the finished ones are put aside
WIDE = 3.0  # most that a step may change the half point in units of u, the log slope or the log power
LONGEST = 16.0  # most a step is stretched
SHORTEST, WIDEST = 1e-6, 1e3  # radii that say that rounding rules, and that there is no limit
HIDDEN = 1e-6  # promise against the sum of squares that rounding may hide
POWERS = (-12.0, 20.0)  # ln g


@dataclass(slots=True)
class Descent:
    """Where curves stand: θ (k, curves), ½ Σ w·r², half the fall the next step promises, and whether at a minimum."""

    theta: Array
    half_sse: Array
    promise: Array
    converged: Flags

    @classmethod
    def start(cls, theta: Array) -> "Descent":
        """Before the first step."""
        count = theta.shape[1]
        endless = np.full(count, np.inf)
        return cls(within(theta), endless, endless.copy(), np.zeros(count, dtype=bool))

    def take(self, rows: Any) -> "Descent":
        """Some of the curves."""
        return Descent(self.theta[:, rows], self.half_sse[rows], self.promise[rows], self.converged[rows])

    def joined(self, other: "Descent") -> "Descent":
        """These and others."""
        return Descent(
            np.concatenate((self.theta, other.theta), axis=1), np.concatenate((self.half_sse, other.half_sse)),
            np.concatenate((self.promise, other.promise)), np.concatenate((self.converged, other.converged)),
        )  # fmt: skip

    def put(self, rows: Any, other: "Descent") -> None:
        """Write those curves' state over."""
        self.theta[:, rows], self.half_sse[rows] = other.theta, other.half_sse
        self.promise[rows], self.converged[rows] = other.promise, other.converged


def within(theta: Array) -> Array:
    """θ brought into the box that holds every curve that can be told from a limit."""
    held = theta.copy()
    np.clip(held[1], FLATTEST, STEEPEST, out=held[1])
    reach = held[1] + FAR
    np.minimum(held[0], reach, out=held[0])
    np.maximum(held[0], -reach, out=held[0])
    if len(theta) == 3:
        np.clip(held[2], *POWERS, out=held[2])
    return held


def descend(curves: Curves, begun: Descent, shape_of: ShapeOf, most: int, leave: float = 0.0) -> Descent:
    """Minimize the sum of squares of every curve from where it stands, in at most so many steps.

    Each step is Gauss and Newton's far from the minimum and Newton's, with the exact Hessian, near it, within a radius
    that follows how well its promises are kept. A curve is done when its next step promises less than rounding; that
    step is still taken, which squares the precision. With `leave`, the descent stops when no more than that share is
    unfinished. What concerns few curves is done to those few: choosing elementwise costs more than the arithmetic.
    """
    count = begun.theta.shape[1]
    end = begun.take(np.arange(count))
    rows, open_rows, radius, last = np.arange(count), np.ones(count, dtype=bool), np.full(count, np.inf), begun.promise
    exact = (begun.promise <= NEAR * (begun.half_sse + 0.5 * curves.pure)).astype(float)
    state, stretch = look(curves, begun.theta, shape_of), np.ones(count)
    for turn in range(most + 1):
        step, promise, length = _step(curves, state, exact, radius)
        level = state.half_sse + 0.5 * curves.pure
        # Where rounding hides any further fall, the step that promises it counts as the last.
        finished = (promise <= CLOSE * level + EXACT * curves.total) | (
            (radius < SHORTEST) & (promise <= HIDDEN * level)
        )
        now = np.flatnonzero(finished & open_rows)
        if now.size:
            final = within(_moved(state.theta[:, now], step[:, now]))
            end.put(rows[now], Descent(final, state.half_sse[now], promise[now], np.ones(now.size, dtype=bool)))
            open_rows[now] = False
        left = np.count_nonzero(open_rows)
        if turn == most or left <= leave * count:
            out = np.flatnonzero(open_rows)
            unfinished = np.zeros(out.size, dtype=bool)
            end.put(rows[out], Descent(state.theta[:, out], state.half_sse[out], promise[out], unfinished))
            break
        if left < CROWD * open_rows.size:
            stay = np.flatnonzero(open_rows)
            rows, curves, state, step = rows[stay], curves.take(stay), _some(state, stay), step[:, stay]
            exact, radius, stretch, last = exact[stay], radius[stay], stretch[stay], last[stay]
            promise, level, length, open_rows = promise[stay], level[stay], length[stay], np.ones(left, dtype=bool)
        # Towards a minimum at infinity each Newton step takes the rest down by e: such steps are doubled.
        crawling = np.flatnonzero((exact > 0) & (length < 0.99 * radius) & (promise > 0.3 * np.exp(-stretch) * last))
        longer = np.minimum(2 * stretch[crawling], LONGEST)
        if crawling.size or (stretch != 1).any():
            stretch = np.ones(rows.size)
            stretch[crawling] = longer
            step = step * stretch
        tried = look(curves, within(_moved(state.theta, step)), shape_of)
        gain = (state.half_sse - tried.half_sse) / promise
        exact, last = (promise <= NEAR * level).astype(float), promise.copy()
        # A bad quarter of what was promised shortens the next step, three good ones lengthen it.
        bad = np.flatnonzero(~(gain >= 0.25) & (stretch == 1))
        radius[bad] = 0.25 * length[bad]
        good = np.flatnonzero((gain > 0.75) & (length > 0.9 * radius))
        radius[good] *= 2.5
        radius[radius > WIDEST] = np.inf
        worse = np.flatnonzero(~(gain > 0))
        last[worse] = np.inf
        if worse.size:
            _keep(state, tried, worse)
        state = tried
    return end


def _step(curves: Curves, state: State, exact: Array, radius: Array) -> tuple[Array, Array, Array]:
    """The step (k, curves) within its radius, the fall of ½ SSE it promises, and its length."""
    found = slopes(curves, state, exact)
    if len(state.theta) == 3:
        found = turned(found, state.theta)
    scale = np.maximum(found.scale, 1e-300)
    matrix = [[entry / scale for entry in row] for row in found.matrix]
    right = [-entry / scale for entry in found.gradient]
    solution, least = solve_shifted(matrix, right)
    square = dot(solution, solution)
    most = np.minimum(radius, 3.0 + 0.5 * state.theta[1] if len(state.theta) == 2 else WIDE)
    outside = np.flatnonzero((least < 1e-9) | ~(square <= most * most))
    if outside.size:
        some = [[entry[outside] for entry in row] for row in matrix]
        for whole, part in zip(solution, shortened(some, [e[outside] for e in right], most[outside]), strict=True):
            whole[outside] = part
        square = dot(solution, solution)
    bent = matrix[0][0] * solution[0] * solution[0]
    for i in range(1, len(solution)):
        for j in range(i):
            bent = bent + 2.0 * (matrix[i][j] * solution[i] * solution[j])
        bent = bent + matrix[i][i] * solution[i] * solution[i]
    promise = scale * (dot(solution, right) - 0.5 * bent)
    promise[~np.isfinite(promise)] = 0.0
    return np.stack(solution), promise, np.sqrt(square)


def _moved(theta: Array, step: Array) -> Array:
    return theta + step if len(theta) == 2 else moved(theta, step)


def shortened(matrix: list[list[Array]], right: list[Array], radius: Array) -> list[Array]:
    """A step within a radius: (matrix + λ·I)·s = right with λ from one Newton step (Moré & Sorensen 1983), then cut."""
    lowest, largest = lowest_and_largest(matrix)
    shift = np.maximum(-2.0 * lowest, 0.0) + 1e-9 * largest + 1e-12
    step, _ = solve_shifted(matrix, right, shift)
    again, _ = solve_shifted(matrix, step, shift)
    square = dot(step, step)
    excess = np.maximum(np.sqrt(square) / radius - 1, 0.0)
    step, _ = solve_shifted(matrix, right, shift + excess * square / np.maximum(dot(step, again), 1e-300))
    factor = np.minimum(radius / np.maximum(np.sqrt(dot(step, step)), 1e-300), 1.0)
    return [s * factor for s in step]


def _some(state: State, rows: Rows) -> State:
    return State(state.theta[:, rows], state.half_sse[rows], state.rise[rows], state.shape.at(rows),
                 state.centred[:, rows], state.size[rows], state.residual[:, rows])  # fmt: skip


def _keep(old: State, new: State, rows: Rows) -> None:
    """Write the old state of some curves back over the new one."""
    mask = np.zeros(new.rise.size, dtype=bool)
    mask[rows] = True
    for name in ("half_sse", "rise", "size", "theta", "centred", "residual"):
        np.copyto(getattr(new, name), getattr(old, name), where=mask)
    new.shape.keep(old.shape, mask)


def leap(curves: Curves, tries: Descent, shape_of: ShapeOf) -> Descent:
    """Those on their way to a limit taken there at once, where that is better: a step between readings, a bare end.

    A steep curve keeps its u at the nearest reading and becomes a step; one with its midpoint beyond the readings
    keeps its slope and goes all the way out.
    """
    a, b = tries.theta[0], tries.theta[1]
    middle = -a / b
    nearest = curves.inside[np.abs(curves.inside[:, None] - middle).argmin(axis=0)]
    steepest = min(60.0 / curves.closest, STEEPEST)
    outside = np.abs(middle) > 1
    far = np.where(middle > 1, -0.95 * FAR - b, 0.95 * FAR + b)
    rest = tries.theta[2:]
    theta = np.stack((np.where(outside, far, a + (b - steepest) * nearest), np.where(outside, b, steepest), *rest))
    tried = look(curves, theta, shape_of)
    better = (tried.half_sse < tries.half_sse) & ~tries.converged
    return Descent(np.where(better, theta, tries.theta), np.where(better, tried.half_sse, tries.half_sse),
                   np.where(better, 0.0, tries.promise), tries.converged)  # fmt: skip
