"""Straight models and polynomials: linear in all their parameters."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.model import Model, Parameter

SLOPE = Parameter("slope", "change of the signal for one unit of x", "y/x")
INTERCEPT = Parameter("intercept", "signal at x = 0", "y")

LINE = Model(
    id="line",
    name="Line",
    shape="straight",
    equation="y = intercept + slope · x",
    solved="(y − intercept) ÷ slope",
    parameters=(SLOPE, INTERCEPT),
    linear_in=("slope", "intercept"),
    powers=(1, 0),
    contains=("line_through_zero",),
    example=((1.0, 0.2), (0.0, 1.0)),
)

LINE_THROUGH_ZERO = Model(
    id="line_through_zero",
    name="Line through zero",
    shape="straight",
    equation="y = slope · x",
    solved="y ÷ slope",
    parameters=(SLOPE,),
    linear_in=("slope",),
    powers=(1,),
    intercept=False,
    example=((1.0,), (0.0, 1.0)),
)


def _of_quadratic(y: Array, p: Array) -> Array:
    """Both x, (m, 2), without loss where one of them is small (Press et al., Numerical Recipes, 5.6)."""
    c0, c1, c2 = p
    half = -0.5 * (c1 + np.copysign(np.sqrt(c1 * c1 - 4 * c2 * (c0 - y)), c1))
    return np.stack((half / c2, (c0 - y) / half), axis=1)


def _polynomial(id: str, name: str, degree: int, contains: tuple[str, ...]) -> Model:
    names = tuple(f"c{power}" for power in range(degree + 1))
    terms = ["c0", "c1 · x", *(f"c{power} · x^{power}" for power in range(2, degree + 1))]
    return Model(
        id=id,
        name=name,
        shape="straight",
        equation="y = " + " + ".join(terms),
        parameters=tuple(
            Parameter(n, f"coefficient of x^{power}", f"y/x^{power}" if power else "y") for power, n in enumerate(names)
        ),
        linear_in=names,
        powers=tuple(range(degree + 1)),
        contains=contains,
        roots=_of_quadratic if degree == 2 else None,
        example=((0.0, 2.0, -1.2) if degree == 2 else (0.1, 3.0, -6.0, 4.0), (0.0, 1.0)),
    )


QUADRATIC = _polynomial("quadratic", "Quadratic", 2, ("line", "line_through_zero"))
CUBIC = _polynomial("cubic", "Cubic", 3, ("quadratic", "line", "line_through_zero"))
