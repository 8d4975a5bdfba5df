"""What a curve model is: one declaration from which fitting, read-back, documentation and pictures all work."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Parameter:
    """A model's parameter. `unit` is a rule in the units of the axes: "y", "x", "y/x"."""

    name: str
    meaning: str
    unit: str


@dataclass(frozen=True, slots=True)
class Model:
    """A curve y(x; parameters).

    value : (x of shape (n,), parameters of shape (p,)) -> (n,)
    derivative : dy/dparameters, (x, parameters) -> (n, p)
    gradient : dy/dx, (x, parameters) -> (n,)
    inverse : (y, parameters) -> x where closed; NaN where no x gives y.
    linear : the derivative does not depend on the parameters, so it is the design matrix.
    intercept : the model holds a free constant, so R² is about the mean; without one it is about zero.
    equation : for people, in x and y; `solved` is the same turned round for reading back.
    """

    id: str
    name: str
    shape: str
    equation: str
    solved: str
    parameters: tuple[Parameter, ...]
    value: Callable[[Array, Array], Array]
    derivative: Callable[[Array, Array], Array]
    gradient: Callable[[Array, Array], Array]
    inverse: Callable[[Any, Array], Any]
    linear: bool
    intercept: bool

    @property
    def names(self) -> tuple[str, ...]:
        """Parameter names, in the order of every array of parameters."""
        return tuple(parameter.name for parameter in self.parameters)
