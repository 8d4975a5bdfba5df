"""The area under a fitted curve or under the readings themselves."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.inference.fitted import Fitted
from dosis.core.inference.variances import with_degrees
from dosis.core.places import places

PANELS, ORDER = 64, 8
CHUNK = 64  # curves at a time


@dataclass(frozen=True, slots=True)
class Area:
    """An area in units of y times x (or times decades of x), with its interval; None without a spread."""

    estimate: float
    standard_error: float | None
    lower: float | None
    upper: float | None


def area_under(fit: Fitted, low: float, high: float, logarithmic: bool, level: float) -> Area:
    """∫ y dx of the fitted curve by Gauss–Legendre in panels; its variance is that of the integrated gradient.

    Raises
    ------
    ValueError : for limits in the wrong order, or not above zero on a logarithm.
    """
    return areas_under([fit], low, high, level, logarithmic=logarithmic)[0]


def areas_under(
    fits: Sequence[Fitted], low: float, high: float, level: float, *, logarithmic: bool = False
) -> list[Area]:  # fmt: skip
    """The same areas of fits of one model at once.

    Raises
    ------
    ValueError : as `area_under`.
    """
    at, share = _nodes(low, high, logarithmic)
    found: list[Area] = []
    for some in (fits[i : i + CHUNK] for i in range(0, len(fits), CHUNK)):
        value, jacobian = some[0].model.value_and_derivative(at, np.array([fit.values for fit in some]))
        pull = np.einsum("n,cnp->cp", share, jacobian)
        variances, degrees = with_degrees(some, pull)
        errors = np.sqrt(variances).tolist()
        for estimate, error, df in zip((value @ share).tolist(), errors, degrees, strict=True):
            if not math.isfinite(error):
                found.append(Area(estimate, None, None, None))
                continue
            half = t_quantile((1 + level) / 2, df) * error
            found.append(Area(estimate, error, estimate - half, estimate + half))
    return found


def _nodes(low: float, high: float, logarithmic: bool) -> tuple[Array, Array]:
    """x and weights of Gauss and Legendre's rule in every panel."""
    if not low < high or (logarithmic and low <= 0):
        raise ValueError(f"An area goes from a lower to a higher x, above zero on a logarithm; here {low:g}, {high:g}.")
    ends = (math.log10(low), math.log10(high)) if logarithmic else (low, high)
    nodes, weights = _gauss()
    edges = np.linspace(*ends, PANELS + 1)
    half = np.diff(edges) / 2
    at = ((edges[:-1] + edges[1:])[:, None] / 2 + half[:, None] * nodes).ravel()
    return 10.0**at if logarithmic else at, (half[:, None] * weights).ravel()


@cache
def _gauss() -> tuple[Array, Array]:
    """Nodes and weights of Gauss and Legendre, which cost more than a curve's whole area."""
    return np.polynomial.legendre.leggauss(ORDER)


def area_of_readings(x: Array, y: Array, *, logarithmic: bool = False) -> float:
    """Area under the means at each x by trapezoids (common practice, no source).

    Raises
    ------
    ValueError : for fewer than 2 different x, or one not above zero on a logarithm.
    """
    at = places(x)
    if at.levels.size < 2 or (logarithmic and at.levels[0] <= 0):
        raise ValueError("An area needs at least 2 different x, above zero on a logarithm.")
    mean = at.means(y)
    t = np.log10(at.levels) if logarithmic else at.levels
    return float((np.diff(t) * (mean[1:] + mean[:-1])).sum() / 2)
