"""Own equations: what is linear in them is solved for directly, and the search is over the rest from several starts.

Golub & Pereyra (1973, SIAM J. Numer. Anal. 10, 413), with Kaufman's derivative (1975, BIT 15, 49).
"""

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


def projected_starts(model: Model, x: Array, y: Array, w: Array, start: Array) -> list[Array]:
    """Minima over the parameters that are not linear, with the others solved for, the best first; (p,) each.

    start : all parameters; what it says of the linear ones does not matter. The start itself is always tried.
    """
    linear = [i for i, name in enumerate(model.names) if name in model.linear_in]
    rest = [i for i in range(len(model.names)) if i not in linear]
    root = np.sqrt(w)

    def filled(alpha: Array) -> Array | None:
        """All parameters with these, the linear ones at their best."""
        p = np.zeros(len(model.names))
        p[rest] = alpha
        offset, jacobian = model.value_and_derivative(x, p)
        design = jacobian[:, linear]
        if not (np.isfinite(offset).all() and np.isfinite(design).all()):
            return None
        solution = solve(design, y - offset, w)
        if solution.rank < len(linear) or not np.isfinite(solution.parameters).all():
            return None
        p[linear] = solution.parameters
        return p

    def evaluate(alpha: Array) -> tuple[Array, Array] | None:
        p = filled(alpha)
        if p is None:
            return None
        value, jacobian = model.value_and_derivative(x, p)
        weighted = root[:, None] * jacobian
        if not (np.isfinite(value).all() and np.isfinite(weighted).all()):
            return None
        basis = np.linalg.qr(weighted[:, linear])[0]
        along = weighted[:, rest]
        return root * (y - value), along - basis @ (basis.T @ along)

    def sse(alpha: Array) -> float:
        looked = evaluate(alpha)
        return np.inf if looked is None else float(looked[0] @ looked[0])

    with np.errstate(all="ignore"):
        given = start[rest]
        many = product(FACTORS, repeat=len(rest)) if len(rest) <= ALONE else ((f,) * len(rest) for f in FACTORS)
        tried = [given * np.array(factors) for factors in many]
        ranked = sorted(tried[1:], key=sse)[: TRIED - 1]
        scale, open_end = float((w * y * y).sum()), np.full(len(rest), np.inf)
        ends = [descend(evaluate, alpha, -open_end, open_end, scale) for alpha in (tried[0], *ranked)]
        found = sorted((end for end in ends if end is not None and np.isfinite(end.sse)), key=lambda end: end.sse)
        # Of minima that are one, such as of two terms that may change places, the one nearest to what was given.
        alike = [end for end in found if end.sse <= found[0].sse * (1 + ALIKE) + ALIKE * scale * ALIKE]
        found = sorted(alike, key=lambda end: _away(end.parameters, given)) + found[len(alike) :]
        return [p for end in found if (p := filled(end.parameters)) is not None]


def _away(alpha: Array, given: Array) -> float:
    """How far parameters are from those given: in their logarithms where that can be."""
    ratio = alpha / given
    if (ratio > 0).all() and np.isfinite(ratio).all():
        return float(np.square(np.log(ratio)).sum())
    return 1e6 + float(np.square(alpha - given).sum())
