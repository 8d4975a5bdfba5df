"""The area under a fitted curve or under the readings themselves."""

import math
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.arrays import Array
from dosis.core.places import places

if TYPE_CHECKING:
    from dosis.core.inference.result import Fit
    from dosis.core.models.model import Model

PANELS, ORDER = 64, 8
CHUNK = 256  # curves at a time


@dataclass(frozen=True, slots=True)
class Area:
    """An area in units of y times x (or times decades of x), with its interval; None without a spread."""

    estimate: float
    standard_error: float | None
    lower: float | None
    upper: float | None


def area_under(fit: "Fit", low: float, high: float, logarithmic: bool, level: float) -> Area:
    """∫ y dx of the fitted curve by Gauss–Legendre in panels; its variance is that of the integrated gradient.

    Raises
    ------
    ValueError : for limits in the wrong order, or not above zero on a logarithm.
    """
    at, share = _nodes(low, high, logarithmic)
    value, jacobian = fit.model.value_and_derivative(at, fit.values)
    estimate = float(share @ value)
    if fit.settled is None:
        return Area(estimate, None, None, None)
    pull = share @ jacobian
    variance = float(pull @ fit.settled @ pull)
    error = math.sqrt(max(variance, 0.0))
    return Area(estimate, error, estimate - fit.t(level) * error, estimate + fit.t(level) * error)


def areas_under(model: "Model", values: Array, low: float, high: float, *, logarithmic: bool = False) -> Array:
    """The same areas of many curves (curves, p), without intervals: (curves,).

    Raises
    ------
    ValueError : as `area_under`.
    """
    at, share = _nodes(low, high, logarithmic)
    parts = [model.value(at, values[i : i + CHUNK]) @ share for i in range(0, len(values), CHUNK)]
    return np.concatenate(parts) if parts else np.zeros(0)


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
    mean = np.bincount(at.group, y) / np.bincount(at.group)
    t = np.log10(at.levels) if logarithmic else at.levels
    return float((np.diff(t) * (mean[1:] + mean[:-1])).sum() / 2)
