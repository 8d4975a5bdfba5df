"""Kinds of enzyme inhibition, told apart on a family of curves: rate against substrate at several inhibitor levels."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.distributions import t_quantile
from dosis.core.fitting.levenberg import descend
from dosis.core.inference.criteria import aicc, minus_two_log_likelihood

OPEN = 14.0  # half an interval on the log scale, a factor of a million, from which a constant is not determined


@dataclass(frozen=True)
class Inhibition:
    """One way an inhibitor acts: v = maximum·s/(half·(1 + i/ki) + s·(1 + i/ki′)), with one of the factors or both.

    constants : names of its constants; `on_half` acts against the substrate, `on_rate` on the bound enzyme.
    """

    id: str
    name: str
    equation: str
    constants: tuple[str, ...]
    on_half: str = ""
    on_rate: str = ""


INHIBITIONS: dict[str, Inhibition] = {
    each.id: each
    for each in (
        Inhibition("competitive", "Competitive", "v = maximum·s/(half·(1 + i/ki) + s)", ("ki",), on_half="ki"),
        Inhibition("uncompetitive", "Uncompetitive", "v = maximum·s/(half + s·(1 + i/ki))", ("ki",), on_rate="ki"),
        Inhibition("noncompetitive", "Noncompetitive", "v = maximum·s/((half + s)·(1 + i/ki))", ("ki",), "ki", "ki"),
        Inhibition(
            "mixed", "Mixed", "v = maximum·s/(half·(1 + i/ki_free) + s·(1 + i/ki_bound))", ("ki_free", "ki_bound"),
            "ki_free", "ki_bound",
        ),
    )
}  # fmt: skip


@dataclass(frozen=True)
class InhibitionFit:
    """Maximum, half and the constants of one kind of inhibition, by least squares over the whole family at once.

    All are above zero and fitted on the logarithmic scale; `log_errors` are their standard errors there.
    """

    kind: Inhibition
    substrate: Array
    inhibitor: Array
    rate: Array
    values: Array
    sse: float
    log_errors: Array | None
    converged: bool
    message: str

    @property
    def names(self) -> tuple[str, ...]:
        """Names of the parameters, in the order of `values`."""
        return ("maximum", "half", *self.kind.constants)

    @property
    def named(self) -> dict[str, float]:
        """Parameters by name."""
        return dict(zip(self.names, self.values.tolist(), strict=True))

    @property
    def degrees_of_freedom(self) -> int:
        """Readings less parameters."""
        return self.rate.size - self.values.size

    @property
    def rmse(self) -> float | None:
        """√(SSE/df); None without degrees of freedom."""
        return math.sqrt(self.sse / self.degrees_of_freedom) if self.degrees_of_freedom > 0 else None

    @cached_property
    def aicc(self) -> float | None:
        """Akaike's criterion, corrected, as for every curve."""
        return aicc(minus_two_log_likelihood(self.sse, np.ones(self.rate.size)), self.rate.size, self.values.size)

    def interval(self, name: str, level: float = 0.95) -> tuple[float, float] | None:
        """Estimate ×⁄÷ e^(t · standard error on the log scale); None where the readings do not determine it."""
        at = self.names.index(name)
        if self.log_errors is None or not math.isfinite(self.log_errors[at]) or self.degrees_of_freedom < 1:
            return None
        half = t_quantile((1 + level) / 2, self.degrees_of_freedom) * float(self.log_errors[at])
        if half > OPEN:
            return None
        factor = math.exp(half)
        return float(self.values[at]) / factor, float(self.values[at]) * factor

    def predict(self, substrate: ArrayLike, inhibitor: ArrayLike) -> Array:
        """The rate at these levels."""
        s, i = np.broadcast_arrays(np.asarray(substrate, dtype=float), np.asarray(inhibitor, dtype=float))
        return _value(self.kind, np.log(self.values), s, i)[0]


def inhibition(kind: str, substrate: ArrayLike, inhibitor: ArrayLike, rate: ArrayLike) -> InhibitionFit:
    """Fit one kind of inhibition (a key of `INHIBITIONS`) to rates at levels of substrate and inhibitor.

    Parameters
    ----------
    substrate, inhibitor, rate : (n,), in any units, which the results share; levels zero or above.

    Raises
    ------
    ValueError : for unequal lengths, fewer readings than parameters, or no two levels of the inhibitor.

    Notes
    -----
    Segel, Enzyme Kinetics (1975), chapters 3 and 4, for the equations (from memory); least squares on the rates, not on
    their reciprocals, by Levenberg–Marquardt from several starts.
    """
    of = INHIBITIONS[kind]
    s, i, v = (np.atleast_1d(np.asarray(each, dtype=float)) for each in (substrate, inhibitor, rate))
    if not s.shape == i.shape == v.shape:
        raise ValueError(f"There are {s.size} substrate levels, {i.size} inhibitor levels and {v.size} rates.")
    count = 2 + len(of.constants)
    if v.size < count or np.unique(i).size < 2 or np.unique(s[s > 0]).size < 2:
        raise ValueError(
            f"{of.name} inhibition needs at least {count} rates, at two substrate and two inhibitor levels or more; "
            f"there are {v.size} rates at {np.unique(s).size} and {np.unique(i).size} levels."
        )

    def residuals(theta: Array) -> tuple[Array, Array] | None:
        with np.errstate(all="ignore"):
            value, jacobian = _value(of, theta, s, i)
        return (v - value, jacobian) if np.isfinite(value).all() and np.isfinite(jacobian).all() else None

    best = None
    scale, span = float(v @ v) or 1.0, 40.0
    middle_s, middle_i, top = float(np.median(s[s > 0])), float(np.median(i[i > 0])), float(np.abs(v).max()) or 1.0
    for half in (0.3, 1.0, 3.0):
        for ki in (0.1, 1.0, 10.0):
            start = np.log([1.3 * top, half * middle_s, *[ki * middle_i] * len(of.constants)])
            found = descend(residuals, start, start - span, start + span, scale)
            if found is not None and (best is None or found.sse < best.sse):
                best = found
    assert best is not None
    return InhibitionFit(
        of, s, i, v, np.exp(best.parameters), best.sse, _log_errors(best.jacobian, best.sse, v.size - count),
        best.converged, best.message,
    )  # fmt: skip


def _value(of: Inhibition, theta: Array, s: Array, i: Array) -> tuple[Array, Array]:
    """The rate and its derivatives by the logarithms of the parameters."""
    maximum, half = np.exp(theta[:2])
    constants = dict(zip(of.constants, np.exp(theta[2:]), strict=True))
    against = i / constants[of.on_half] if of.on_half else np.zeros_like(s)
    bound = i / constants[of.on_rate] if of.on_rate else np.zeros_like(s)
    below = half * (1 + against) + s * (1 + bound)
    value = maximum * s / below
    columns = [value, -value * half * (1 + against) / below]
    for name in of.constants:
        pull = (half * against if name == of.on_half else 0.0) + (s * bound if name == of.on_rate else 0.0)
        columns.append(value * pull / below)
    return value, np.stack(columns, axis=-1)


def _log_errors(jacobian: Array, sse: float, df: int) -> Array | None:
    if df < 1:
        return None
    size = np.sqrt(np.square(jacobian).sum(axis=0))
    with np.errstate(all="ignore"):
        r = np.linalg.qr(jacobian / size)[1]
        diagonal = np.abs(np.diag(r))
        if not (np.isfinite(diagonal).all() and diagonal.min() > 1e-8 * diagonal.max()):
            return None
        inverse = np.linalg.inv(r)
        errors: Array = np.sqrt(np.square(inverse).sum(axis=1) * sse / df) / size
    return errors
