"""Fitting a nonlinear model: scales of its parameters, bounds, several starts, the best minimum kept."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.levenberg import Minimum, descend
from dosis.core.fitting.scale import SMALL, from_scale, to_scale
from dosis.core.models.model import Model

SHORT, LONG = 40, 300  # steps from one start among many, and from the best of them
ASIDE = np.log(2.0)  # how far from a minimum another is looked for, in each positive parameter
Bounds = Mapping[str, tuple[float | None, float | None]]


def _around(theta: Array, logarithmic: Array) -> list[Array]:
    """Half and double each positive parameter in turn."""
    found = []
    for i in np.flatnonzero(logarithmic):
        for side in (-ASIDE, ASIDE):
            other = theta.copy()
            other[i] += side
            found.append(other)
    return found


@dataclass(frozen=True)
class Problem:
    """A model on data, with the parameters that are free. The scale `theta` is logarithmic for positive parameters."""

    model: Model
    x: Array
    y: Array
    w: Array
    fixed: Mapping[str, float]
    bounds: Bounds

    @property
    def free(self) -> list[int]:
        """Places of the free parameters in the model's order."""
        return [i for i, name in enumerate(self.model.names) if name not in self.fixed]

    def solve(self, starts: Sequence[Array], *, thorough: bool = True) -> tuple[Array, Minimum] | None:
        """All parameters (p,) and the minimum over the free ones, the best over the starts; None without one.

        The first start is enough when it converges to a good fit, unless the model is one of many minima.
        """
        best: Minimum | None = None
        # Three shape parameters or more make several minima, and the best start need not lead to the best of them.
        many = thorough and len(self.model.names) - len(self.model.linear_in) >= 3
        root = np.sqrt(self.w)
        scale = float((self.w * self.y * self.y).sum())
        spread = float((self.w * (self.y - np.average(self.y, weights=self.w)) ** 2).sum())
        free = self.free
        logarithmic = np.array([self.model.parameters[i].positive for i in free])
        lower, upper = self._limits(free, logarithmic)
        full = np.array([self.fixed.get(name, 0.0) for name in self.model.names], dtype=float)

        def unfold(theta: Array) -> Array:
            p = full.copy()
            p[free] = from_scale(theta, logarithmic)
            return p

        def evaluate(theta: Array) -> tuple[Array, Array] | None:
            p = unfold(theta)
            value, jacobian = self.model.value_and_derivative(self.x, p)
            jacobian = jacobian[:, free]
            jacobian = jacobian * np.where(logarithmic, p[free], 1.0)
            if not (np.isfinite(value).all() and np.isfinite(jacobian).all()):
                return None
            return root * (self.y - value), root[:, None] * jacobian

        def descended(theta: Array, most: int) -> Minimum | None:
            with np.errstate(all="ignore"):
                found = descend(evaluate, theta, lower, upper, scale, most)
            if found is None or not np.isfinite(found.sse) or not self._way_round(unfold(found.parameters)):
                return None
            return found

        def keep(found: Minimum | None) -> None:
            nonlocal best
            if found is not None and (best is None or found.sse < best.sse):
                best = found

        for start in starts:
            with np.errstate(all="ignore"):
                theta = to_scale(start[free], logarithmic)
            # Where there are several minima, no start is followed far before it is the best of them.
            keep(descended(theta, SHORT if many else LONG))
            if best is not None and best.converged and not many and (not thorough or best.sse < 0.1 * spread):
                break
        if best is None or not many:
            return None if best is None else (unfold(best.parameters), best)
        keep(descended(best.parameters, LONG))
        for theta in _around(best.parameters, logarithmic):
            keep(descended(theta, SHORT))
        if not best.converged:
            keep(descended(best.parameters, LONG))
        return unfold(best.parameters), best

    def _way_round(self, values: Array) -> bool:
        """Whether lower is below upper, where a model is another curve otherwise and neither is held."""
        names = self.model.names
        if not self.model.ordered or {"lower", "upper"} & self.fixed.keys():
            return True
        return bool(values[names.index("lower")] <= values[names.index("upper")])

    def _limits(self, free: list[int], logarithmic: Array) -> tuple[Array, Array]:
        lower, upper = np.full(len(free), -np.inf), np.full(len(free), np.inf)
        for at, i in enumerate(free):
            low, high = self.bounds.get(self.model.names[i], (None, None))
            if low is not None:
                lower[at] = np.log(max(low, SMALL)) if logarithmic[at] else low
            if high is not None:
                upper[at] = np.log(max(high, SMALL)) if logarithmic[at] else high
        return lower, upper
