"""Own equations: what is linear in them is solved for directly, and the search is over the rest from several starts.

Golub & Pereyra (1973, SIAM J. Numer. Anal. 10, 413), with Kaufman's derivative (1975, BIT 15, 49).
"""

from collections.abc import Mapping
from itertools import product

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.levenberg import descend
from dosis.core.fitting.linear import solve
from dosis.core.models.model import Model

FACTORS = (1.0, 0.1, 10.0, 0.01, 100.0, 0.001, 1000.0)  # of what was given as a start
ALONE = 3  # parameters up to which every combination of factors is looked at; of more all take the same
ALIKE = 1e-9  # share by which two sums of squares may differ that are of one minimum
TRIED = 4  # starts from which the search is made


class Projected:
    """Residuals and derivative over the parameters that are not linear, the linear ones at their best.

    fixed : parameters held at a value. rest : positions of those that are searched for.
    """

    def __init__(
        self, model: Model, x: Array, y: Array, w: Array, fixed: Mapping[str, float] | None = None
    ) -> None:  # fmt: skip
        fixed = fixed or {}
        self.model, self.x, self.y, self.w = model, x, y, w
        self.held = np.array([fixed.get(name, 0.0) for name in model.names], dtype=float)
        self.linear = [i for i, name in enumerate(model.names) if name in model.linear_in and name not in fixed]
        self.rest = [i for i, name in enumerate(model.names) if i not in self.linear and name not in fixed]
        self.root = np.sqrt(w)
        self.scale = float((w * y * y).sum())

    def filled(self, alpha: Array) -> Array | None:
        """All parameters with these, the linear ones at their best; None where there are none."""
        p = self.held.copy()
        p[self.rest] = alpha
        if not self.linear:
            return p
        offset, jacobian = self.model.value_and_derivative(self.x, p)
        design = jacobian[:, self.linear]
        if not (np.isfinite(offset).all() and np.isfinite(design).all()):
            return None
        solution = solve(design, self.y - offset, self.w)
        if solution.rank < len(self.linear) or not np.isfinite(solution.parameters).all():
            return None
        p[self.linear] = solution.parameters
        return p

    def sse(self, alpha: Array) -> float:
        """The weighted sum of squares there; infinite where the equation has no value."""
        p = self.filled(alpha)
        if p is None:
            return np.inf
        value = self.model.value_and_derivative(self.x, p)[0]
        sse = float((self.w * np.square(self.y - value)).sum())
        return sse if np.isfinite(sse) else np.inf

    def evaluate(self, alpha: Array) -> tuple[Array, Array] | None:
        """Weighted residuals and their derivative, as `descend` wants them."""
        p = self.filled(alpha)
        if p is None:
            return None
        value, jacobian = self.model.value_and_derivative(self.x, p)
        weighted = self.root[:, None] * jacobian
        if not (np.isfinite(value).all() and np.isfinite(weighted).all()):
            return None
        along = weighted[:, self.rest]
        if self.linear:
            basis = np.linalg.qr(weighted[:, self.linear])[0]
            along = along - basis @ (basis.T @ along)
        return self.root * (self.y - value), along


def projected_starts(model: Model, x: Array, y: Array, w: Array, start: Array) -> list[Array]:
    """Minima over the parameters that are not linear, with the others solved for, the best first; (p,) each.

    start : all parameters; what it says of the linear ones does not matter. The start itself is always tried.
    """
    at = Projected(model, x, y, w)

    def sse(alpha: Array) -> float:
        """Infinite also where the search could not go on from there."""
        looked = at.evaluate(alpha)
        return np.inf if looked is None else float(looked[0] @ looked[0])

    with np.errstate(all="ignore"):
        given = start[at.rest]
        many = product(FACTORS, repeat=len(given)) if len(given) <= ALONE else ((f,) * len(given) for f in FACTORS)
        tried = [given * np.array(factors) for factors in many]
        ranked = sorted(tried[1:], key=sse)[: TRIED - 1]
        open_end = np.full(len(given), np.inf)
        ends = [descend(at.evaluate, alpha, -open_end, open_end, at.scale) for alpha in (tried[0], *ranked)]
        found = sorted((end for end in ends if end is not None and np.isfinite(end.sse)), key=lambda end: end.sse)
        # Of minima that are one, such as of two terms that may change places, the one nearest to what was given.
        alike = [end for end in found if end.sse <= found[0].sse * (1 + ALIKE) + ALIKE * at.scale * ALIKE]
        found = sorted(alike, key=lambda end: _away(end.parameters, given)) + found[len(alike) :]
        return [p for end in found if (p := at.filled(end.parameters)) is not None]


def _away(alpha: Array, given: Array) -> float:
    """How far parameters are from those given: in their logarithms where that can be."""
    ratio = alpha / given
    if (ratio > 0).all() and np.isfinite(ratio).all():
        return float(np.square(np.log(ratio)).sum())
    return 1e6 + float(np.square(alpha - given).sum())
