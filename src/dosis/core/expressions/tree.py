"""The tree of an expression: each node gives its value and, by forward differentiation, its exact derivatives.

A node's `dual` returns the value and one derivative for each name asked for; a derivative that is zero everywhere is
None, which keeps the work to what depends on anything.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from dosis.core import special

Values = Mapping[str, Any]
Derivatives = list[Any]
Dual = tuple[Any, Derivatives]


class Node(Protocol):
    """A part of an expression."""

    def value(self, at: Values) -> Any:
        """Its value where the names have these values."""

    def dual(self, at: Values, wrt: Sequence[str]) -> Dual:
        """Its value and its derivatives with respect to those names."""

    def names(self) -> frozenset[str]:
        """The names in it."""


def _times(factor: Any, derivative: Any) -> Any:
    """factor · derivative, where a factor of zero wins: a saturated sigmoid does not care that ln 0 is infinite."""
    product = factor * derivative
    if np.isfinite(product).all():
        return product
    return np.where(np.asarray(factor) == 0, 0.0, product)


def _chain(factor: Any, derivatives: Derivatives) -> Derivatives:
    return [None if d is None else _times(factor, d) for d in derivatives]


def _sum(a: Derivatives, b: Derivatives, sign: float = 1.0) -> Derivatives:
    return [
        (None if q is None else sign * q) if p is None else p if q is None else p + sign * q
        for p, q in zip(a, b, strict=True)
    ]


@dataclass(frozen=True, slots=True)
class Number:
    """A constant."""

    number: float

    def value(self, at: Values) -> Any:
        return self.number

    def dual(self, at: Values, wrt: Sequence[str]) -> Dual:
        return self.number, [None] * len(wrt)

    def names(self) -> frozenset[str]:
        return frozenset()


@dataclass(frozen=True, slots=True)
class Name:
    """A variable, parameter or column."""

    name: str

    def value(self, at: Values) -> Any:
        return at[self.name]

    def dual(self, at: Values, wrt: Sequence[str]) -> Dual:
        return at[self.name], [1.0 if name == self.name else None for name in wrt]

    def names(self) -> frozenset[str]:
        return frozenset((self.name,))


@dataclass(frozen=True, slots=True)
class Binary:
    """left operator right, for + − * / ^ and the comparisons, which are 1 or 0."""

    operator: str
    left: Node
    right: Node

    def value(self, at: Values) -> Any:
        return _OPERATORS[self.operator](self.left.value(at), self.right.value(at))

    def dual(self, at: Values, wrt: Sequence[str]) -> Dual:
        a, da = self.left.dual(at, wrt)
        b, db = self.right.dual(at, wrt)
        value = _OPERATORS[self.operator](a, b)
        match self.operator:
            case "+":
                derivatives = _sum(da, db)
            case "-":
                derivatives = _sum(da, db, -1.0)
            case "*":
                derivatives = _sum(_chain(b, da), _chain(a, db))
            case "/":
                derivatives = _sum(_chain(np.divide(1.0, b), da), _chain(np.divide(value, b), db), -1.0)
            case "^":
                derivatives = _chain(b * _power(a, np.subtract(b, 1.0)), da)
                if any(d is not None for d in db):
                    # x^p·ln x tends to 0 with x for p > 0, which is the value at a zero dose.
                    above = np.asarray(a) > 0
                    slope = np.where(above, value * np.log(np.where(above, a, 1.0)), 0.0)
                    derivatives = _sum(derivatives, _chain(slope, db))
            case _:
                derivatives = [None] * len(wrt)
        return value, derivatives

    def names(self) -> frozenset[str]:
        return self.left.names() | self.right.names()


@dataclass(frozen=True, slots=True)
class Call:
    """A function of one argument, or min, max and if() of several; `column` for one of a whole column."""

    function: str
    arguments: tuple[Node, ...]
    column: bool = False

    def value(self, at: Values) -> Any:
        return self._function.value(*(argument.value(at) for argument in self.arguments))

    @property
    def _function(self) -> "Function":
        return (COLUMN_FUNCTIONS if self.column else FUNCTIONS)[self.function]

    def dual(self, at: Values, wrt: Sequence[str]) -> Dual:
        duals = [argument.dual(at, wrt) for argument in self.arguments]
        values = [value for value, _ in duals]
        function = self._function
        value = function.value(*values)
        total: Derivatives = [None] * len(wrt)
        for factor, (_, derivatives) in zip(function.slopes(value, *values), duals, strict=True):
            if factor is not None and any(d is not None for d in derivatives):
                total = _sum(total, _chain(factor, derivatives))
        return value, total

    def names(self) -> frozenset[str]:
        return frozenset().union(*(argument.names() for argument in self.arguments))


def _power(base: Any, exponent: Any) -> Any:
    """base ^ exponent; 0 ^ 0 is 1, and a negative base with a broken exponent is not a number."""
    return np.power(np.asarray(base, dtype=float), exponent)


_OPERATORS: dict[str, Callable[[Any, Any], Any]] = {
    "+": np.add,
    "-": np.subtract,
    "*": np.multiply,
    "/": np.divide,
    "^": _power,
    "<": lambda a, b: np.less(a, b) * 1.0,
    "<=": lambda a, b: np.less_equal(a, b) * 1.0,
    ">": lambda a, b: np.greater(a, b) * 1.0,
    ">=": lambda a, b: np.greater_equal(a, b) * 1.0,
    "=": lambda a, b: np.equal(a, b) * 1.0,
}


@dataclass(frozen=True, slots=True)
class Function:
    """A function: its value, and its slope in each argument given value and arguments (None: no slope)."""

    arity: int
    value: Callable[..., Any]
    slopes: Callable[..., tuple[Any, ...]]


FUNCTIONS: dict[str, Function] = {
    "ln": Function(1, np.log, lambda v, x: (np.divide(1.0, x),)),
    "log10": Function(1, np.log10, lambda v, x: (np.divide(1.0, x) / np.log(10),)),
    "log2": Function(1, np.log2, lambda v, x: (np.divide(1.0, x) / np.log(2),)),
    "exp": Function(1, np.exp, lambda v, x: (v,)),
    "sqrt": Function(1, np.sqrt, lambda v, x: (np.divide(0.5, v),)),
    "abs": Function(1, np.abs, lambda v, x: (np.sign(x),)),
    "sin": Function(1, np.sin, lambda v, x: (np.cos(x),)),
    "cos": Function(1, np.cos, lambda v, x: (-np.sin(x),)),
    "tan": Function(1, np.tan, lambda v, x: (1 + v * v,)),
    "atan": Function(1, np.arctan, lambda v, x: (1 / (1 + np.square(x)),)),
    "tanh": Function(1, np.tanh, lambda v, x: (1 - v * v,)),
    "erf": Function(1, special.erf, lambda v, x: (2 / np.sqrt(np.pi) * np.exp(-np.square(x)),)),
    "sigmoid": Function(1, special.expit, lambda v, x: (v * special.expit(-np.asarray(x)),)),
    "min": Function(2, np.minimum, lambda v, a, b: (np.less_equal(a, b) * 1.0, np.less(b, a) * 1.0)),
    "max": Function(2, np.maximum, lambda v, a, b: (np.greater_equal(a, b) * 1.0, np.greater(b, a) * 1.0)),
    "if": Function(
        3,
        lambda test, a, b: np.where(np.asarray(test) != 0, a, b),
        lambda v, test, a, b: (None, (np.asarray(test) != 0) * 1.0, (np.asarray(test) == 0) * 1.0),
    ),
}


def _present(values: Any) -> Any:
    """The values that are there; a column function leaves missing ones out."""
    column = np.atleast_1d(np.asarray(values, dtype=float))
    there = column[np.isfinite(column)]
    return there if there.size else np.array([np.nan])


# Of a whole column, in derived columns only: a curve has no columns, so these have no slopes.
COLUMN_FUNCTIONS: dict[str, Function] = {
    "mean": Function(1, lambda x: _present(x).mean(), lambda v, x: (None,)),
    "min": Function(1, lambda x: _present(x).min(), lambda v, x: (None,)),
    "max": Function(1, lambda x: _present(x).max(), lambda v, x: (None,)),
    "first": Function(1, lambda x: np.atleast_1d(x)[0], lambda v, x: (None,)),
    "last": Function(1, lambda x: np.atleast_1d(x)[-1], lambda v, x: (None,)),
    "lookup": Function(2, lambda table, x: table.forward(x), lambda v, table, x: (None, None)),
    "lookback": Function(2, lambda table, y: table.inverse(y), lambda v, table, y: (None, None)),
}
ALIASES = {"arctan": "atan", "log": "log10"}


@dataclass(frozen=True)
class Expression:
    """A parsed expression."""

    text: str
    root: Node

    @property
    def names(self) -> frozenset[str]:
        """Every name in it."""
        return self.root.names()

    def value(self, at: Values) -> Any:
        """Its value; names may be numbers or arrays of any shapes that broadcast. Not defined gives NaN, no warning."""
        with np.errstate(all="ignore"):
            return self.root.value(at)

    def dual(self, at: Values, wrt: Sequence[str]) -> Dual:
        """Its value and exact derivatives with respect to the names `wrt`; None stands for zero."""
        with np.errstate(all="ignore"):
            return self.root.dual(at, wrt)
