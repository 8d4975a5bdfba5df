"""Many sigmoids from readings to minimum: a first descent for all, many starts for those that may have more minima."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array, Flags, Rows
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.kinks import begin_at_kinks, steepnesses
from dosis.core.fitting.sigmoids.search import ANEW, USUAL, Steps, begin_with_power, descend_all, finish
from dosis.core.fitting.sigmoids.shape import LOGISTIC, POWERED
from dosis.core.fitting.sigmoids.spread import RISE, spread_all
from dosis.core.fitting.sigmoids.starts import best, coarse, fine

CHUNK = 1000  # curves ranked at a time: few enough for the cache
MOST = 200  # steps from start values that were given
POOR = 0.03  # share of the variation left unexplained from which a curve may have several minima
STEEP = 8.0  # u between two neighboring places from which it may
POOR_POWERED, STEEP_POWERED, EXTREMES = 0.01, 4.0, (-1.5, 8.0)  # the same with a power, and ln g beyond which it may
WORSE, SLACK = 1.3, 0.02  # how much more than the best a start may leave unexplained, and of the whole
LOPSIDED = 8.0  # ln g of starts from the grid, where the shape has a power
SIDES = (1.0, -1.0)
FURTHEST = 700.0  # |ln x| of a midpoint that is still a number
KINKS = 2  # starts with a kink


@dataclass(slots=True)
class Ends:
    """Where curves stand: θ = (a, b, ln g) (curves, 3), ½ Σ w·r² and whether at a minimum (curves,).

    side : (curves,) −1 where θ is of the axis turned round, which makes a falling sigmoid a rising one, else 1.
    """

    theta: Array
    half_sse: Array
    converged: Flags
    side: Array

    @property
    def parts(self) -> tuple[Array, Array, Flags, Array]:
        """What every compiled search writes over."""
        return self.theta, self.half_sse, self.converged, self.side

    def take(self, rows: Rows) -> "Ends":
        """Some of the curves."""
        return Ends(self.theta[rows], self.half_sse[rows], self.converged[rows], self.side[rows])

    def put(self, rows: Rows, some: "Ends") -> None:
        """Write some of the curves over."""
        self.theta[rows], self.half_sse[rows] = some.theta, some.half_sse
        self.converged[rows], self.side[rows] = some.converged, some.side


def descend_from(curves: Curves, form: int, start: Array, side: Array) -> Ends:
    """From start values of each curve, (curves, 3), on their sides of the axis, as they are."""
    found = _nowhere(curves)
    for sign in SIDES:
        rows = np.flatnonzero(side == sign)
        if rows.size:
            some = curves.take(rows)
            part = _nowhere(some)
            _descend(some, form, sign, start[rows], (MOST, MOST, 0), part)
            found.put(rows, part)
    return found


def solve_sigmoids(curves: Curves, form: int, *, symmetric: bool) -> Ends:
    """The best sigmoid of every curve.

    A curve whose first descent, from the best of a coarse grid, ends poorly, steeply, beyond the readings or not at all
    may have several minima. It is begun anew from the best of a fine grid, and followed until it has an end.
    """
    if form == POWERED:
        return _powered(curves)
    sides = SIDES[:1] if symmetric else SIDES
    found = _nowhere(curves)
    for sign in sides:
        _descend(curves, form, sign, _coarsely(curves.on(sign), form), USUAL, found)
    for rows in _hard(curves, found, ~found.converged, POOR, STEEP):
        part, now = curves.take(rows), found.take(rows)
        for sign in sides:
            _from_grid(part, form, sign, 0.0, now, np.ones(rows.size, dtype=bool))
        for sign in sides:
            finish(*_on(part, form, sign), ANEW, *now.parts)
        found.put(rows, now)
    return found


def _powered(curves: Curves) -> Ends:
    """The same with a power, for which there are many more minima, such as those with kinks.

    Each curve stays on the side of the axis on which it rises from lower to upper; one that ends the other way round
    goes back to the curve without a power, which is the same either way.
    """
    found, start = _nowhere(curves), _coarsely(curves, LOGISTIC)
    begin_with_power(curves.t, curves.y, curves.w, curves.pure, curves.total, curves.closest, start, *found.parts)
    extreme = (found.theta[:, 2] < EXTREMES[0]) | (found.theta[:, 2] > EXTREMES[1])
    for rows in _hard(curves, found, ~found.converged | extreme, POOR_POWERED, STEEP_POWERED):
        for sign in SIDES:
            own = rows[found.side[rows] == sign]
            part, now = curves.take(own), found.take(own)
            begin_at_kinks(*_on(part, POWERED, sign), steepnesses(part), KINKS, ANEW, *now.parts)
            _from_grid(part, POWERED, sign, LOPSIDED, now, np.ones(own.size, dtype=bool))
            finish(*_on(part, POWERED, sign), ANEW, *now.parts)
            found.put(own, now)
    for sign in SIDES:
        own = np.flatnonzero(found.side == sign)
        if own.size:
            side = curves.take(own).on(sign)
            fallen = own[spread_all(POWERED, side.t, side.y, side.w, found.theta[own])[:, RISE] < 0]
            if fallen.size:
                _without_power(curves, start, fallen, found)
    return found


def _without_power(curves: Curves, start: Array, rows: Rows, found: Ends) -> None:
    some = curves.take(rows)
    plain = _nowhere(some)
    _descend(some, LOGISTIC, 1.0, start[rows], USUAL, plain)
    rising = spread_all(LOGISTIC, some.t, some.y, some.w, plain.theta)[:, RISE] >= 0
    plain.side = np.where(rising, 1.0, -1.0)
    plain.theta[:, 0] *= plain.side
    plain.theta[:, 2] = 0.0
    found.put(rows, plain)


def _hard(curves: Curves, found: Ends, also: Flags, poor: float, steep: float) -> Iterator[Rows]:
    """Curves that may have several minima, in spans: what fits them poorly, is steep or only an end, and others."""
    a, b, _ = found.theta.T
    hard = (2 * found.half_sse > poor * curves.total) | (b * curves.gap > steep) | (np.abs(a) > b) | also
    rows = np.flatnonzero(hard)
    return (rows[first : first + CHUNK] for first in range(0, rows.size, CHUNK))


def _from_grid(curves: Curves, form: int, sign: float, power: float, found: Ends, only: Flags) -> None:
    """From the best of a fine grid, where that is about as good as what there is."""
    start, left = best(curves.on(sign), fine(curves.on(sign), form, power))
    near = np.flatnonzero(only & (left <= WORSE * 2 * found.half_sse + SLACK * curves.total))
    some = found.take(near)
    _descend(curves.take(near), form, sign, start[near], ANEW, some)
    found.put(near, some)


def _coarsely(curves: Curves, form: int) -> Array:
    grid = coarse(curves, form)
    spans = (slice(first, first + CHUNK) for first in range(0, curves.count, CHUNK))
    return np.concatenate([best(curves.take(span), grid)[0] for span in spans])


def _nowhere(curves: Curves) -> Ends:
    count = curves.count
    return Ends(np.ones((count, 3)), np.full(count, np.inf), np.zeros(count, dtype=bool), np.ones(count))


def _descend(curves: Curves, form: int, sign: float, start: Array, steps: Steps, found: Ends) -> None:
    descend_all(*_on(curves, form, sign), np.ascontiguousarray(start), steps, *found.parts)


def _on(curves: Curves, form: int, sign: float) -> tuple[int, float, Array, Array, Array, Array, Array, float]:
    """What every compiled search is given of the readings, on one side of the axis."""
    t = curves.t if sign > 0 else -curves.t
    return form, sign, t, curves.y, curves.w, curves.pure, curves.total, curves.closest
