"""From a model's declaration to its sigmoid and back: parameters and standard errors in the model's own terms."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.fitting.sigmoids import shapes
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.descent import Descent, descend
from dosis.core.fitting.sigmoids.solve import solve_sigmoids
from dosis.core.fitting.sigmoids.state import look, unit_spread
from dosis.core.models.model import Array, Flags, Sigmoid

if TYPE_CHECKING:
    from dosis.core.models.model import Model

SHAPES: dict[str, shapes.ShapeOf] = {
    "logistic": shapes.logistic,
    "weibull": shapes.weibull,
    "gompertz": shapes.gompertz,
    "powered": shapes.powered_logistic,
}
POWERS = (-2.0, 0.0, 1.5, 5.0)  # starts of ln g


@dataclass(frozen=True)
class Sigmoids:
    """Fitted sigmoids: values and unit standard errors (curves, p) in the model's order, Σ w·r² between places."""

    values: Array
    errors: Array
    sse: Array
    converged: Flags


def fit_sigmoids(model: "Model", levels: Array, y: Array, w: Array, pure: Array, start: Array | None = None) -> Sigmoids:
    """Fit a model that is a sigmoid between two free plateaus.

    Parameters
    ----------
    levels : (n,) distinct x, rising; y : (n, curves) means there; w : (n, 1) or (n, curves) summed weights.
    pure : (curves,) sum of squares about those means.
    start : (p,) parameters from which to descend, instead of a search.
    """
    form = model.sigmoid
    assert form is not None
    shape_of = SHAPES[form.shape]
    curves = Curves.of(levels, y, w, pure, logarithmic=form.logarithmic)
    powers = POWERS if form.shape == "powered" else None
    with np.errstate(all="ignore"):
        if start is not None:
            theta, turned = _theta(form, curves, dict(zip(model.names, start.tolist(), strict=True)))
            side = curves.mirrored() if turned else curves
            found = descend(side, Descent.start(np.tile(theta[:, None], curves.count)), shape_of, 200)
            return _result(model, side, found, shape_of, -1.0 if turned else 1.0)
        rising = _result(model, curves, solve_sigmoids(curves, shape_of, powers), shape_of, 1.0)
        if form.symmetric:
            return rising
        side = curves.mirrored()
        falling = _result(model, side, solve_sigmoids(side, shape_of, powers), shape_of, -1.0)
    better = falling.sse < rising.sse
    return Sigmoids(
        np.where(better[:, None], falling.values, rising.values),
        np.where(better[:, None], falling.errors, rising.errors),
        np.where(better, falling.sse, rising.sse),
        np.where(better, falling.converged, rising.converged),
    )


def _theta(form: Sigmoid, curves: Curves, p: dict[str, float]) -> tuple[Array, bool]:
    steepness = p[form.steepness] if not form.inverse_steepness else 1 / p[form.steepness]
    place = np.log(p[form.place]) if form.logarithmic else p[form.place]
    b, middle = steepness * curves.half, (place - curves.centre) / curves.half
    turned = b < 0 and not form.symmetric
    b, middle = (-b, -middle) if turned else (abs(b), middle)
    rest = [np.log(p[form.power])] if form.power else []
    return np.array([-b * middle, b, *rest]), bool(turned)


def _result(model: "Model", curves: Curves, found: Descent, shape_of: shapes.ShapeOf, side: float) -> Sigmoids:
    form = model.sigmoid
    assert form is not None
    state = look(curves, found.theta, shape_of)
    spread = unit_spread(curves, state)
    a, b = found.theta[0], found.theta[1]
    middle = -a / b
    height = curves.moments(state.shape.h, 1)[0] / curves.weight + state.shape.shift
    # y less its mean is rise·(h − its mean), so that the lower plateau is where h is zero.
    lower = curves.mean - curves.unit * state.rise * height
    upper = lower + curves.unit * state.rise
    covariance = spread.theta
    place = side * middle * curves.half + curves.centre
    place_error = curves.half / b * np.sqrt(
        covariance[0][0] + 2 * middle * covariance[0][1] + middle * middle * covariance[1][1]
    )
    steepness, steepness_error = side * b / curves.half, np.sqrt(covariance[1][1]) / curves.half
    if form.inverse_steepness:
        steepness, steepness_error = 1 / steepness, steepness_error / np.square(steepness)
    if form.logarithmic:
        place = np.exp(np.clip(place, -700, 700))
        place_error = place_error * place
    columns = {
        "lower": (lower, curves.unit * np.sqrt(spread.lower)),
        "upper": (upper, curves.unit * np.sqrt(spread.upper)),
        form.place: (place, place_error),
        form.steepness: (steepness, steepness_error),
    }
    if form.power:
        power = np.exp(found.theta[2])
        columns[form.power] = (power, power * np.sqrt(covariance[2][2]))
    values = np.stack([columns[name][0] for name in model.names], axis=1)
    errors = np.stack([columns[name][1] for name in model.names], axis=1)
    if model.canonical is not None:
        given = dict(zip(model.names, values.T, strict=True))
        turned = model.canonical(given)
        swap = turned["lower"] != given["lower"]
        low, high = model.names.index("lower"), model.names.index("upper")
        errors[swap, low], errors[swap, high] = errors[swap, high], errors[swap, low]
        values = np.stack([turned[name] for name in model.names], axis=1)
    # The unit of y was taken out of the sum of squares the spread is measured by, too.
    return Sigmoids(values, errors / curves.unit[:, None], 2 * state.half_sse * np.square(curves.unit), found.converged)
