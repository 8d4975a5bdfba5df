"""Newton's method for many sigmoids at once: exact second derivatives, a shift a curve, finished curves leave."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from dosis.core.arrays import Array, Flags, Rows
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.state import State, dot, look, lowest_and_largest, slopes, solve_shifted
from dosis.core.models.shapes import ShapeOf

NEAR = 0.1  # the same at which Gauss and Newton's step, safe from afar, gives way to Newton's
CLOSE = 1e-10  # Newton decrement against the sum of squares at which the last step is taken
EXACT = 1e-26  # the same against the curve's whole variation, for readings that lie on the curve
STEEPEST, FLATTEST = 2000.0, 1e-3  # |b|: the range of x holds 2·b units of u
FAR = 28.0  # u at the nearest reading beyond which a midpoint outside the readings changes nothing
CROWD = 0.75  # share of unfinished curves below which the finished ones are put aside
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
    a, b = theta[0], theta[1]
    sign = np.where(b < 0, -1.0, 1.0)
    b = sign * np.minimum(np.maximum(np.abs(b), FLATTEST), STEEPEST)
    reach = np.abs(b)
    a = np.minimum(np.maximum(a, -FAR - reach), FAR + reach)
    rest = [np.minimum(np.maximum(theta[2], POWERS[0]), POWERS[1])] if len(theta) == 3 else []
    return np.stack((a, b, *rest))


def descend(curves: Curves, begun: Descent, shape_of: ShapeOf, most: int, leave: float = 0.0) -> Descent:
    """Minimize the sum of squares of every curve from where it stands, in at most so many steps.

    The step solves (H + λ·I)·s = −g with the exact Hessian; λ lifts it to positive definite where it is not, and
    grows when a step fails. A curve is done when its next step promises less than rounding; that step is still taken,
    which squares the precision. With `leave`, the descent stops when no more than that share is unfinished.
    """
    count = begun.theta.shape[1]
    end = begun.take(np.arange(count))
    rows, done, radius, last = np.arange(count), np.zeros(count, dtype=bool), np.full(count, np.inf), begun.promise
    exact = (begun.promise <= NEAR * (begun.half_sse + 0.5 * curves.pure)).astype(float)
    state = look(curves, begun.theta, shape_of)
    stretch, final = np.ones(count), state.theta
    for turn in range(most + 1):
        step, promise, length = _step(curves, state, exact, radius)
        level = state.half_sse + 0.5 * curves.pure
        # Where rounding hides any further fall, the step that promises it counts as the last.
        enough = np.where(radius < SHORTEST, HIDDEN * level, CLOSE * level + EXACT * curves.total)
        now = (promise <= enough) & ~done
        final = np.where(done, final, np.where(now, state.theta + step, state.theta))
        done |= now
        left = done.size - int(done.sum())
        over = turn == most or left <= leave * count
        if over or left < CROWD * done.size:
            out = np.arange(done.size) if over else np.flatnonzero(done)
            end.put(rows[out], Descent(within(final[:, out]), state.half_sse[out], promise[out], done[out]))
            if over:
                break
            stay = np.flatnonzero(~done)
            rows, curves, exact, radius, stretch = (
                rows[stay],
                curves.take(stay),
                exact[stay],
                radius[stay],
                stretch[stay],
            )
            step, promise, state, level = step[:, stay], promise[stay], _some(state, stay), level[stay]
            last, done, final, length = last[stay], np.zeros(left, dtype=bool), state.theta, length[stay]
        # Towards a minimum at infinity each Newton step takes the rest down by e: such steps are doubled.
        crawling = (exact > 0) & (length < 0.99 * radius) & (promise > 0.3 * np.exp(-stretch) * last)
        stretch = np.where(crawling, np.minimum(2 * stretch, LONGEST), 1.0)
        tried = look(curves, within(state.theta + step * stretch), shape_of)
        gain = (state.half_sse - tried.half_sse) / promise
        better = gain > 0
        exact = (promise <= NEAR * level).astype(float)
        last = np.where(better, promise, np.inf)
        # A bad quarter of what was promised shortens the next step, three good ones lengthen it.
        radius = np.where(gain < 0.25, np.where(stretch > 1, radius, 0.25 * length),
                          np.where((gain > 0.75) & (length > 0.9 * radius), 2.5 * radius, radius))  # fmt: skip
        radius = np.where(radius > WIDEST, np.inf, radius)
        state = tried if better.all() else _merge(better, tried, state)
    return end


def _step(curves: Curves, state: State, exact: Array, radius: Array) -> tuple[Array, Array, Array]:
    """The step (k, curves) within its radius, the fall of ½ SSE it promises, and its length."""
    found = slopes(curves, state, exact)
    scale = np.maximum(found.scale, 1e-300)
    matrix = [[entry / scale for entry in row] for row in found.matrix]
    right = [-entry / scale for entry in found.gradient]
    solution, least = solve_shifted(matrix, right)
    square = dot(solution, solution)
    most = np.minimum(radius, 3.0 + 0.5 * np.abs(state.theta[1]))
    long = (least < 1e-9) | ~(square <= radius * radius)
    if long.any():
        at = np.flatnonzero(long)
        some = [[entry[at] for entry in row] for row in matrix]
        inside = shortened(some, [e[at] for e in right], most[at])
        for i, part in enumerate(inside):
            solution[i][at] = part
        square = dot(solution, solution)
    if (square > most * most).any():
        factor = np.minimum(most / np.sqrt(np.maximum(square, 1e-300)), 1.0)
        solution, square = [s * factor for s in solution], square * factor * factor
    k = len(solution)
    bent = sum((matrix[i][j] * solution[i] * solution[j] * (1.0 if i == j else 2.0) for i in range(k)
                for j in range(i + 1)), np.zeros(1))  # fmt: skip
    promise = scale * (dot(solution, right) - 0.5 * bent)
    return np.stack(solution), np.where(np.isfinite(promise), promise, 0.0), np.sqrt(square)


def shortened(matrix: list[list[Array]], right: list[Array], radius: Array) -> list[Array]:
    """The step that promises most within a radius: (matrix + λ·I)·s = right (Moré & Sorensen 1983), λ by Newton."""
    lowest, largest = lowest_and_largest(matrix)
    shift = np.maximum(-lowest, 0.0) * (1 + 1e-6) + 1e-9 * largest + 1e-12
    step, _ = solve_shifted(matrix, right, shift)
    for _turn in range(2):
        again, _ = solve_shifted(matrix, step, shift)
        square, against = dot(step, step), dot(step, again)
        excess = np.maximum(np.sqrt(square) / radius - 1, 0.0)
        shift = shift + excess * square / np.maximum(against, 1e-300)
        step, _ = solve_shifted(matrix, right, shift)
    factor = np.minimum(radius / np.maximum(np.sqrt(dot(step, step)), 1e-300), 1.0)
    return [s * factor for s in step]


def _some(state: State, rows: Rows) -> State:
    return State(state.theta[:, rows], state.half_sse[rows], state.rise[rows], state.shape.at(rows),
                 state.centred[:, rows], state.size[rows], state.residual[:, rows])  # fmt: skip


def _merge(better: Flags, new: State, old: State) -> State:
    """The new state where it is better, the old one written back into it elsewhere."""
    worse = ~better
    for name in ("theta", "half_sse", "rise", "centred", "size", "residual"):
        np.copyto(getattr(new, name), getattr(old, name), where=worse)
    new.shape.restore(worse, old.shape)
    return new


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
