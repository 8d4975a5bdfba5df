"""Uncertainty budgets: what beside the readings makes an answer uncertain, combined with them (GUM; EURACHEM QUAM)."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from dosis.core.distributions import t_quantile
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit

Distribution = Literal["standard", "expanded", "rectangular", "triangular"]
DIVISORS: dict[str, float] = {
    "standard": 1.0, "expanded": 2.0, "rectangular": math.sqrt(3.0), "triangular": math.sqrt(6.0)
}  # fmt: skip
MOST_DF = 1e6
STEP = 1e-3  # share of a level by which it is moved to see what leans on it


def standard_uncertainty(size: float, distribution: Distribution) -> float:
    """The standard uncertainty of what is given as one, as an expanded one (k = 2), or as a tolerance ± size, all
    values within it alike (rectangular) or those near the middle likelier (triangular); EURACHEM/CITAC QUAM, 8.1.

    Example
    -------
    >>> round(standard_uncertainty(0.0001, "rectangular"), 6)  # a purity of 0.9999 ± 0.0001
    5.8e-05
    """
    return size / DIVISORS[distribution]


@dataclass(frozen=True, slots=True)
class Part:
    """A contribution: its standard uncertainty in the unit of the answer, and its degrees of freedom."""

    name: str
    uncertainty: float
    degrees_of_freedom: float = math.inf


@dataclass(frozen=True, slots=True)
class Budget:
    """combined : standard uncertainty. expanded : factor · combined. shares : of the variance, adding up to 1."""

    parts: tuple[Part, ...]
    combined: float
    degrees_of_freedom: float
    factor: float
    expanded: float
    shares: tuple[float, ...]


def budget(parts: Sequence[Part], *, factor: float | None = 2.0, level: float = 0.95) -> Budget:
    """Contributions that are independent, combined: u² = Σ u_i² (GUM, JCGM 100:2008, 5.1.2).

    factor : k of the expanded uncertainty; None takes t of that level on the effective degrees of freedom of Welch and
    Satterthwaite, u⁴/Σ(u_i⁴/ν_i) (GUM, G.4).

    Raises
    ------
    ValueError : without any contribution above zero.

    Example
    -------
    >>> budget([Part("balance", 3.0), Part("flask", 4.0)]).combined
    5.0
    """
    variances = [part.uncertainty**2 for part in parts]
    total = math.fsum(variances)
    if not total > 0 or not math.isfinite(total):
        raise ValueError("A budget needs a contribution that is above zero.")
    below = math.fsum(v * v / part.degrees_of_freedom for v, part in zip(variances, parts, strict=True))
    df = min(total * total / below, MOST_DF) if below > 0 else math.inf
    k = factor if factor is not None else t_quantile((1 + level) / 2, min(df, MOST_DF))
    combined = math.sqrt(total)
    return Budget(tuple(parts), combined, df, k, k * combined, tuple(v / total for v in variances))


Leaning = Callable[[float, float | None], float]


def leaning_on_levels(curve: Fit) -> Leaning:
    """By how much a read-back is uncertain when every standard's level is, each by itself, by a share of one of itself.

    Each different level is moved by a thousandth and the curve fitted anew, once; of a signal it is then
    √Σ(∂x/∂level · level)², in the unit of x, NaN where a curve cannot be fitted or read. Times the share, it is the
    standard uncertainty. With a level beside the signal it is of that level alone, zero where there is no such.
    """
    fixed = {name: curve.named[name] for name in curve.fixed} or None

    def refitted(x: np.ndarray) -> Fit | None:
        try:
            return fit(curve.model, x, curve.y, weights=curve.weights, fixed=fixed)
        except ValueError:
            return None

    still = refitted(curve.x)
    levels = sorted(set(curve.x.tolist()) - {0.0})
    moved = [refitted(np.where(curve.x == level, (1 + STEP) * curve.x, curve.x)) for level in levels]

    def leaning(signal: float, only: float | None = None) -> float:
        which = [each for level, each in zip(levels, moved, strict=True) if only is None or level == only]
        read = [None if each is None else each.estimates([signal])[0] for each in (still, *which)]
        if None in read:
            return math.nan
        first, *others = (each for each in read if each is not None)
        return math.sqrt(sum(((other - first) / STEP) ** 2 for other in others))

    return leaning
