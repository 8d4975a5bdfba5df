"""The shapes a sigmoid takes between its plateaus, with their derivatives.

A shape is h(u), from 0 to 1 as u = a + b·t goes from −∞ to ∞, t being ln x or x; u of any form.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from dosis.core.arrays import Array

EDGE = 500.0  # |u| beyond which every shape without a power is flat
POWERED_EDGE = 1e15  # the same with one, as small as e^−26


def logistic(u: Array) -> tuple[Array, Array]:
    """1/(1 + e^−u), and its derivative."""
    h = 1.0 / (1.0 + np.exp(-u))
    return h, h * (1.0 - h)


def weibull(u: Array) -> tuple[Array, Array]:
    """1 − exp(−e^u), and its derivative."""
    e = np.exp(np.minimum(u, 6.5))  # beyond, exp(−e^u) is zero
    return -np.expm1(-e), e * np.exp(-e)


def gompertz(u: Array) -> tuple[Array, Array]:
    """exp(−e^−u), and its derivative."""
    e = np.exp(np.minimum(-u, 6.5))
    h = np.exp(-e)
    return h, e * h


def powered_logistic(u: Array, power: Any) -> tuple[Array, Array, Array]:
    """(1 + e^−u)^−g, its derivative, and that in ln g; `power` is g of every curve."""
    # With a small power the curve goes on far below where a logistic one is level.
    e = np.exp(-np.abs(u))
    rest = np.where(u > 0, e, 1.0) / (1.0 + e)
    logarithm = -power * (np.log1p(e) + np.maximum(-u, 0.0))
    h = np.exp(logarithm)
    return h, power * h * rest, h * logarithm


SHAPES: dict[str, Callable[[Array], tuple[Array, Array]]] = {
    "logistic": logistic,
    "weibull": weibull,
    "gompertz": gompertz,
}
