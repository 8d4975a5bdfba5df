"""Starts of an own equation: looked for over orders of magnitude, and every descent from them told.

Parameters in which the equation is linear are solved for at each start (Golub & Pereyra 1973), so that the search is
over the others alone. It is the same search every time: nothing in it is left to chance.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import product, zip_longest

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.levenberg import descend
from dosis.core.fitting.projected import Projected
from dosis.core.models.model import Model

GRID = 2  # parameters up to which every combination is looked at
SEED = 20  # of those that are scattered, the same every time
SCATTERED = 1500  # starts looked at where there are more
FOLLOWED = 12  # the best of them, from which the search goes down
APART = 0.5  # how far two starts are from each other at least, in natural logarithms of a parameter
REACH = 3  # powers of ten around 1/x and around x over which magnitudes are looked for


@dataclass(frozen=True)
class Tried:
    """A start, where the search ended from it, and the weighted sum of squares there; (p,) each.

    sse is infinite where the equation has no value at the start.
    """

    start: Array
    end: Array
    sse: float
    converged: bool


def search(
    model: Model, x: Array, y: Array, w: Array, given: Mapping[str, float] | None = None,
    fixed: Mapping[str, float] | None = None,
) -> list[Tried]:  # fmt: skip
    """Descents from the best of many starts, and from the given one where there is one; the best first.

    fixed : parameters held at a value.

    Example: ``search(custom("a*exp(-b*x)"), x, y, np.ones_like(y))[0].end``.
    """
    at = Projected(model, x, y, w, fixed)
    with np.errstate(all="ignore"):
        looked = [
            (sse, alpha)
            for alpha in _magnitudes(len(at.rest), x, y, not at.linear)
            if np.isfinite(sse := at.sse(alpha))
        ]
        looked.sort(key=lambda pair: pair[0])
        chosen: list[Array] = []
        if given is not None and set(given) >= {model.names[i] for i in at.rest}:
            chosen.append(np.array([given[model.names[i]] for i in at.rest], dtype=float))
        # Of every pattern of signs the best, in turn: one valley without end must not take all descents.
        patterns: dict[tuple[float, ...], list[Array]] = {}
        for _, alpha in looked:
            own = patterns.setdefault(tuple(np.sign(alpha)), [])
            if len(own) < FOLLOWED and all(_apart(alpha, other) for other in own):
                own.append(alpha)
        in_turn = [alpha for some in zip_longest(*patterns.values()) for alpha in some if alpha is not None]
        chosen += in_turn[:FOLLOWED]
        tried = [_descended(at, alpha) for alpha in chosen]
        # Two terms of one kind start alike and part late: from the best of them, one parameter at a time is moved.
        best = min(tried, key=lambda each: each.sse, default=None)
        if best is not None and np.isfinite(best.sse) and len(at.rest) > 1:
            tried += [_descended(at, alpha) for alpha in _around(best.start[at.rest])]
    return sorted(tried, key=lambda each: each.sse)


def _descended(at: Projected, alpha: Array) -> Tried:
    start, bound = at.filled(alpha), np.full(len(alpha), np.inf)
    nowhere = np.full(len(at.model.names), np.nan)
    found = descend(at.evaluate, alpha, -bound, bound, at.scale)
    end = None if found is None or not np.isfinite(found.sse) else at.filled(found.parameters)
    if found is None or end is None:
        return Tried(nowhere if start is None else start, nowhere, np.inf, converged=False)
    return Tried(nowhere if start is None else start, end, found.sse, found.converged)


def _around(alpha: Array) -> list[Array]:
    """Each parameter three times as large, and a third of it, in turn."""
    moved = []
    for i in range(min(len(alpha), 4)):
        for factor in (3.0, 1 / 3):
            other = alpha.copy()
            other[i] *= factor
            moved.append(other)
    return moved


def _magnitudes(count: int, x: Array, y: Array, whole: bool) -> list[Array]:
    """Values of so many parameters over orders of magnitude of x, of 1/x and of places along x; of y where `whole`."""
    if count == 0:
        return [np.zeros(0)]
    size = float(np.abs(x).max()) or 1.0
    low, high = np.floor(np.log10(1 / size)) - REACH, np.ceil(np.log10(size)) + REACH
    low, high = min(low, -REACH), max(high, REACH)
    if whole:
        most = float(np.abs(y).max()) or 1.0
        low, high = min(low, np.floor(np.log10(most)) - 1), max(high, np.ceil(np.log10(most)) + 1)
    steps = 0.5 if count == GRID else 0.25
    sizes = 10.0 ** np.arange(low, high + steps / 2, steps)
    places = np.quantile(x, np.linspace(0.05, 0.95, 7))
    values = np.concatenate((sizes, -sizes, places[np.abs(places) > 0]))
    if count <= GRID:
        return [np.array(each) for each in product(values.tolist(), repeat=count)]
    generator = np.random.default_rng(SEED)
    scattered = [generator.choice(values, count) for _ in range(SCATTERED)]
    # Along the diagonal too, where parameters are of one size.
    return scattered + [np.array([value / 3**i for i in range(count)]) for value in values.tolist()]


def _apart(alpha: Array, other: Array) -> bool:
    same = np.sign(alpha) == np.sign(other)
    far = np.abs(np.log(np.abs(alpha) + 1e-300) - np.log(np.abs(other) + 1e-300)) > APART
    return bool((~same | far).any()) or alpha.size == 0
