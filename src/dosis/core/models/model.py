"""What a curve model is: one declaration from which fitting, read-back, documentation and pictures all work."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from dosis.core.arrays import Array
from dosis.core.expressions import Expression, parse
from dosis.core.models.shapes import EDGE, POWERED_EDGE, SHAPES, powered_logistic

Grid = Mapping[str, Array]


@dataclass(frozen=True, slots=True)
class Parameter:
    """A model's parameter.

    unit : a rule in the units of the axes: "y", "x", "y/x", "1/x", "".
    positive : above zero by its meaning; it is fitted, and its interval made, on the logarithmic scale.
    """

    name: str
    meaning: str
    unit: str
    positive: bool = False


def exchange(turned: Any, p: Mapping[str, Any], other: Mapping[str, Any]) -> dict[str, Any]:
    """The parameters with those of `other` in their place where `turned`, elementwise."""
    return {name: np.where(turned, other.get(name, value), value) for name, value in p.items()}


@dataclass(frozen=True, slots=True)
class Derived:
    """A quantity that follows from a model's parameters, by an expression in them; `positive` as for a parameter."""

    name: str
    meaning: str
    unit: str
    expression: str
    positive: bool = True


@dataclass(frozen=True, slots=True)
class Sigmoid:
    """Says of a model that it is lower + (upper − lower)·h(steepness·(t − place)), both plateaus free: fitted fast.

    shape : h, by the names of `fitting.sigmoids`; "powered" is the logistic to the power of the parameter `power`.
    logarithmic : t is ln x, and place a dose; else t is x.
    inverse_steepness : the parameter is the width, 1/steepness.
    symmetric : turned round, h is itself with the plateaus changed over, so one sign of the steepness is enough.
    """

    shape: str
    place: str
    steepness: str
    power: str = ""
    logarithmic: bool = True
    inverse_steepness: bool = False
    symmetric: bool = False

    @property
    def names(self) -> tuple[str, ...]:
        """Its parameters: both plateaus, place, steepness and, where it has one, power."""
        return ("lower", "upper", self.place, self.steepness, *((self.power,) if self.power else ()))


@dataclass(frozen=True, slots=True)
class Twin:
    """Says of a model that it is a sigmoid in other parameters, so that many curves of it are fitted as fast.

    id : of that sigmoid. values : (curves, p) of this model from those of the sigmoid; NaN where it has no such curve.
    """

    id: str
    values: Callable[[Array], Array]


@dataclass(frozen=True)
class Model:
    """A curve y(x; parameters), declared by its equation; derivatives come from the equation, exactly.

    equation : for people; `form` the same for the program, where the two differ (x = 0 exact, no overflow).
    solved : turned round, x of y, as it is read back; for people. Empty where it is searched for.
    linear_in : parameters the model is linear in when the others are held.
    powers : of a polynomial, the power of x that each parameter goes with.
    grid : (x, y) -> candidate values of the other parameters, from which starts are chosen; None for a model linear
        in all of them, or one that needs start values from a person.
    canonical : brings equivalent parameter values to one form (lower below upper); of numbers or of arrays.
    mirrored : parameters whose sign turns an equivalent curve round; the grid holds one sign, and the other is tried
        where fixed or bounded parameters tell the two apart.
    intercept : the model holds a free constant, so R² is about the mean; without one it is about zero.
    positive_x : x is a dose, zero or above; zero itself is exact.
    roots : (y, parameters) -> every x at which it is y, where that is closed and not that of a sigmoid; see `inverse`.
    kinked : a parameter that the sum of squares has corners in, at every x; it is looked for between them in turn.
    sigmoid : how the model is a sigmoid between free plateaus, where it is one.
    derived : quantities that follow from the parameters, such as a half-life.
    example : parameters and the range of x of a typical curve, from which its picture is drawn.
    contains : ids of models that are special cases of this one.
    twin : the sigmoid that it is in other parameters.
    turned_over : id of the sigmoid that this one is of −y, with the plateaus changed over and the slope turned round.
    """

    id: str
    name: str
    shape: str
    equation: str
    parameters: tuple[Parameter, ...]
    form: str = ""
    solved: str = ""
    linear_in: tuple[str, ...] = ()
    powers: tuple[int, ...] = ()
    grid: Callable[[Array, Array], Grid] | None = None
    canonical: Callable[[Mapping[str, Any]], dict[str, Any]] | None = None
    mirrored: tuple[str, ...] = ()
    intercept: bool = True
    positive_x: bool = False
    roots: Callable[[Array, Array], Array] | None = None
    kinked: str = ""
    sigmoid: Sigmoid | None = None
    derived: tuple[Derived, ...] = ()
    example: tuple[tuple[float, ...], tuple[float, float]] = ((), (0.0, 1.0))
    contains: tuple[str, ...] = ()
    twin: Twin | None = None
    turned_over: str = ""
    source: str = ""
    expression: Expression = field(init=False, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "expression", parse(self.form or self.equation.partition("=")[2]))
        unknown = self.expression.names - {"x", *self.names}
        if unknown:
            raise ValueError(f"The equation of {self.id} names {sorted(unknown)}, which are not its parameters.")

    @cached_property
    def names(self) -> tuple[str, ...]:
        """Parameter names, in the order of every array of parameters."""
        return tuple(parameter.name for parameter in self.parameters)

    @property
    def ordered(self) -> bool:
        """Whether lower must stay below upper, since the other way round it would be a curve of another shape."""
        return bool(self.turned_over or (self.sigmoid and self.sigmoid.power))

    @cached_property
    def laid(self) -> list[int]:
        """Where lower, upper, place, steepness and power of a sigmoid stand among its parameters."""
        return [self.names.index(name) for name in self.sigmoid.names] if self.sigmoid else []

    @cached_property
    def linear(self) -> bool:
        """Whether the model is linear in all its parameters, so that it is solved directly."""
        return set(self.linear_in) == set(self.names)

    def value(self, x: Array, p: Array) -> Array:
        """y at x: (n,), (p,) -> (n,); of many curves (n,) or (curves, n), (curves, p) -> (curves, n)."""
        if self.sigmoid is not None and self.sigmoid.shape == "logistic":
            return self._logistic_at(self.sigmoid, np.asarray(x, dtype=float), p)
        if self.sigmoid is not None and self.sigmoid.power and np.size(x):
            return self._sigmoid_at(self.sigmoid, np.asarray(x, dtype=float), p)[0]
        if self.powers and p.ndim == 1:
            return self._polynomial_at(np.asarray(x, dtype=float), p)[0]
        return np.broadcast_to(self.expression.value(self._at(x, p)), _shape(x, p)).astype(float)

    def derivative(self, x: Array, p: Array) -> Array:
        """dy/dparameters: (n,), (p,) -> (n, p)."""
        return self.value_and_derivative(x, p)[1]

    def value_and_derivative(self, x: Array, p: Array) -> tuple[Array, Array]:
        """Both at once, which costs little more than the derivative alone; of many curves as `value`."""
        if self.sigmoid is not None and x.size:
            return self._sigmoid_at(self.sigmoid, x, p)[:2]
        if self.powers and p.ndim == 1:
            return self._polynomial_at(x, p)
        value, derivatives = self.expression.dual(self._at(x, p), self.names)
        jacobian = np.zeros((*_shape(x, p), len(self.names)))
        for column, derivative in enumerate(derivatives):
            if derivative is not None:
                jacobian[..., column] = derivative
        return np.broadcast_to(value, _shape(x, p)).astype(float), jacobian

    def _polynomial_at(self, x: Array, p: Array) -> tuple[Array, Array]:
        """The values and derivatives of a polynomial, without its expression."""
        jacobian = np.empty((*x.shape, len(self.powers)))
        for column, power in enumerate(self.powers):
            jacobian[..., column] = x**power if power > 1 else x if power else 1.0
        return jacobian @ p, jacobian

    def _logistic_at(self, form: Sigmoid, x: Array, p: Array) -> Array:
        """The values alone of a logistic, which is asked for most, without its derivatives."""
        named = self._named(p)
        steepness = 1 / named[form.steepness] if form.inverse_steepness else named[form.steepness]
        with np.errstate(all="ignore"):
            t = np.log(x) - np.log(named[form.place]) if form.logarithmic else x - named[form.place]
            y: Array = named["lower"] + (named["upper"] - named["lower"]) / (1.0 + np.exp(-steepness * t))
        return y

    def _sigmoid_at(self, form: Sigmoid, x: Array, p: Array) -> tuple[Array, Array, Array]:
        """y, dy/dparameters and dy/dx: the same numbers as the expression gives, in a tenth of the time."""
        named = self._named(p)
        lower, upper, place, steepness = named["lower"], named["upper"], named[form.place], named[form.steepness]
        power = named[form.power] if form.power else None
        with np.errstate(all="ignore"):
            slope = 1 / steepness if form.inverse_steepness else steepness
            t = np.log(x) - np.log(place) if form.logarithmic else x - place
            edge = EDGE if power is None else POWERED_EDGE
            u = np.clip(slope * t, -edge, edge)
            if power is None:
                h, first = SHAPES[form.shape](u)
            else:
                h, first, by_power = powered_logistic(u, power)
            first = (upper - lower) * first
            tilt = np.where(np.isfinite(t), first * t, 0.0)  # at a zero dose t is infinite, but nothing changes there
            columns = {"lower": 1.0 - h, "upper": h, form.place: -slope * first, form.steepness: tilt}
            if form.logarithmic:
                columns[form.place] = columns[form.place] / place
            if form.inverse_steepness:
                columns[form.steepness] = -tilt * slope * slope
            if power is not None:
                columns[form.power] = (upper - lower) * by_power / power
            gradient = slope * first / x if form.logarithmic else slope * first
        return lower + (upper - lower) * h, np.stack([columns[name] for name in self.names], axis=-1), gradient

    def inverse(self, y: Array, p: Array) -> Array | None:
        """Every x at which the curve is y: (m,), (p,) -> (m, k), NaN for none; None without `roots`."""
        if self.roots is None:
            return None
        with np.errstate(all="ignore"):
            return self.roots(y, p)

    def picture(self, points: int = 33) -> tuple[Array, Array]:
        """x and y of a small picture, both from 0 to 1: the example curve, on a logarithmic axis for a dose."""
        values, (low, high) = self.example
        x = np.geomspace(low, high, points) if self.positive_x and low > 0 else np.linspace(low, high, points)
        y = self.value(x, np.array(values))
        along = np.linspace(0.0, 1.0, points)
        return along, (y - y.min()) / (np.ptp(y) or 1.0)

    def gradient(self, x: Array, p: Array) -> Array:
        """dy/dx: (n,), (p,) -> (n,); of many curves as `value`."""
        if self.sigmoid is not None and x.size and (x > 0).all():
            return self._sigmoid_at(self.sigmoid, x, p)[2]
        _, (slope,) = self.expression.dual(self._at(x, p), ("x",))
        return np.broadcast_to(0.0 if slope is None else slope, _shape(x, p)).astype(float)

    def _at(self, x: Array, p: Array) -> dict[str, Any]:
        each = p if p.ndim == 1 else p.T[:, :, None]  # numpy's numbers, which overflow without an exception
        return {"x": x, **dict(zip(self.names, each, strict=True))}

    def _named(self, p: Array) -> dict[str, Any]:
        """Parameters by name: numbers of one curve (p,), columns (curves, 1) of many (curves, p)."""
        each = p.tolist() if p.ndim == 1 else p.T[:, :, None]
        return dict(zip(self.names, each, strict=True))


def _shape(x: Array, p: Array) -> tuple[int, ...]:
    return np.shape(x) if p.ndim == 1 else (len(p), np.shape(x)[-1])
