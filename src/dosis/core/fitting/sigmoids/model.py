"""From a model's declaration to its sigmoid and back: parameters and standard errors in the model's own terms."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.descent import Descent, descend
from dosis.core.fitting.sigmoids.profile import profile_midpoints
from dosis.core.fitting.sigmoids.solve import solve_easily, solve_sigmoids
from dosis.core.fitting.sigmoids.state import State, look, unit_spread
from dosis.core.models.model import Sigmoid
from dosis.core.models.shapes import SHAPES, logistic

if TYPE_CHECKING:
    from dosis.core.models.model import Model

FLAT = 15.0  # |u| from which a reading lies on a plateau
MOST = 200  # steps from start values that were given


@dataclass(frozen=True)
class Sigmoids:
    """Fitted sigmoids: values and unit standard errors (curves, p) in the model's order, Σ w·r² between places.

    A unit standard error is for a residual variance of one; NaN where the readings do not determine the parameter.
    """

    values: Array
    errors: Array
    sse: Array
    converged: Flags


def fit_sigmoids(
    model: "Model", levels: Array, y: Array, w: Array, pure: Array, start: Array | None = None
) -> Sigmoids:
    """Fit a model that is a sigmoid between two free plateaus.

    Parameters
    ----------
    levels : (k,) distinct x, rising; y, w : (curves, k) means there and their summed weights.
    pure : (curves,) sum of squares about those means.
    start : (p,) or (curves, p) parameters from which to descend, instead of a search.
    """
    form, curves = _form(model), _curves(model, levels, y, w, pure)
    if start is not None:
        begun = np.broadcast_to(start, (curves.count, len(model.names)))
        return _with_limits(model, levels, _from(model, curves, begun))
    with np.errstate(all="ignore"):
        begin = mirror = None
        if form.power:
            # The best curve without a power; turned round it is the same with a changed in sign.
            easy = solve_easily(curves) if curves.count == 1 else None
            a, b = np.array([[easy.a], [easy.b]]) if easy else solve_sigmoids(curves, logistic).theta
            begin, mirror = np.stack((a, b, np.zeros_like(a))), np.stack((-a, b, np.zeros_like(a)))
        rising = _result(model, curves, solve_sigmoids(curves, SHAPES[form.shape], begin), 1.0)
        if form.symmetric:
            return _with_limits(model, levels, rising)
        side = curves.mirrored()
        falling = _result(model, side, solve_sigmoids(side, SHAPES[form.shape], mirror), -1.0)
    return _with_limits(model, levels, _chosen(falling.sse < rising.sse, falling, rising))


def sigmoid_values(model: "Model", levels: Array, y: Array, w: Array, pure: Array) -> tuple[Array, bool]:
    """Parameters (p,) of one curve, without their errors, and whether they are at a minimum."""
    form = _form(model)
    if not form.symmetric:
        found = fit_sigmoids(model, levels, y, w, pure)
        return found.values[0], bool(found.converged[0])
    with np.errstate(all="ignore"):
        curves = _curves(model, levels, y, w, pure)
        if easy := solve_easily(curves):
            lower = easy.lower * curves.unit + curves.mean
            named = _named(model, curves, lower, easy.rise * curves.unit, easy.a, easy.b)
            return np.array([float(np.ravel(named[name])[0]) for name in model.names]), True
        end = solve_sigmoids(curves, logistic)
        return _values(model, curves, end, look(curves, end.theta, logistic), 1.0)[0], bool(end.converged[0])


def _form(model: "Model") -> Sigmoid:
    assert model.sigmoid is not None
    return model.sigmoid


def _curves(model: "Model", levels: Array, y: Array, w: Array, pure: Array) -> Curves:
    shared = len(w) == 1 or bool((w == w[0]).all())
    columns = np.ascontiguousarray(y.T), np.ascontiguousarray((w[:1] if shared else w).T)
    return Curves.of(levels, *columns, pure, logarithmic=_form(model).logarithmic)


@dataclass(frozen=True)
class Profiles:
    """Profile intervals of midpoints, and which curves have both ends; the others need a closer look."""

    lower: Array
    upper: Array
    good: Flags


def midpoint_profiles(
    model: "Model", levels: Array, y: Array, w: Array, pure: Array, values: Array, rmse: Array, t: Array
) -> Profiles:
    """Profile intervals of the midpoint of symmetric sigmoids at their minimum.

    Parameters
    ----------
    levels, y, w, pure : as for `fit_sigmoids`; values : (curves, p) at the minimum; rmse and quantiles t
        (curves,).
    """
    form, curves = _form(model), _curves(model, levels, y, w, pure)
    theta, _ = _theta(form, curves, dict(zip(model.names, values.T, strict=True)))
    with np.errstate(all="ignore"):
        state = look(curves, theta, SHAPES[form.shape])
        spread = unit_spread(curves, state).theta
        middle = -theta[0] / theta[1]
        unit = np.sqrt(spread[0][0] + 2 * middle * spread[0][1] + middle * middle * spread[1][1]) / theta[1]
        variance = np.square(rmse / curves.unit)
        low, high, good = profile_midpoints(curves, theta, 0.5 * variance * t * t, unit * np.sqrt(variance), t)
        ends = [curves.centre + curves.half * end for end in (low, high)]
        if form.logarithmic:
            ends = [np.exp(np.clip(end, -700, 700)) for end in ends]
    return Profiles(ends[0], ends[1], good & np.isfinite(ends[0]) & np.isfinite(ends[1]))


def _from(model: "Model", curves: Curves, start: Array) -> Sigmoids:
    """From start values of each curve, on the side of the axis where they lie."""
    form, shape_of = _form(model), SHAPES[_form(model).shape]
    theta, turned = _theta(form, curves, dict(zip(model.names, start.T, strict=True)))
    with np.errstate(all="ignore"):
        ends = [
            _result(model, side, descend(side, Descent.start(theta), shape_of, MOST), sign)
            for side, sign, wanted in ((curves, 1.0, ~turned), (curves.mirrored(), -1.0, turned))
            if wanted.any()
        ]
    if len(ends) == 1:
        return ends[0]
    return _chosen(turned, ends[1], ends[0])


def _chosen(which: Flags, one: Sigmoids, other: Sigmoids) -> Sigmoids:
    return Sigmoids(
        np.where(which[:, None], one.values, other.values), np.where(which[:, None], one.errors, other.errors),
        np.where(which, one.sse, other.sse), np.where(which, one.converged, other.converged),
    )  # fmt: skip


def _theta(form: Sigmoid, curves: Curves, p: dict[str, Array]) -> tuple[Array, Flags]:
    """θ (k, curves) of parameters, and which curves need the axis turned round."""
    steepness = 1 / p[form.steepness] if form.inverse_steepness else p[form.steepness]
    place = np.log(p[form.place]) if form.logarithmic else p[form.place]
    b, middle = steepness * curves.half, (place - curves.centre) / curves.half
    turned = (b < 0) & (not form.symmetric)
    b, middle = np.abs(b), np.where(turned, -middle, middle)
    return np.stack((-b * middle, b, *([np.log(p[form.power])] if form.power else []))), turned


def _values(model: "Model", curves: Curves, found: Descent, state: State, side: float) -> Array:
    """Parameters (curves, p), in the canonical form."""
    form = _form(model)
    height = curves.moments(state.shape.h, 1)[0] / curves.weight + state.shape.shift
    # y less its mean is rise·(h − its mean), so that the lower plateau is where h is zero.
    lower = curves.mean - curves.unit * state.rise * height
    named = _named(model, curves, lower, curves.unit * state.rise, found.theta[0], found.theta[1], side)
    if form.power:
        named[form.power] = np.exp(found.theta[2])
    return np.stack([named[name] for name in model.names], axis=1)


def _named(
    model: "Model", curves: Curves, lower: Array, rise: Array, a: Any, b: Any, side: float = 1.0
) -> dict[str, Any]:
    form = _form(model)
    place, steepness = -side * a / b * curves.half + curves.centre, side * b / curves.half
    named = {
        "lower": lower,
        "upper": lower + rise,
        form.place: np.exp(np.minimum(np.maximum(place, -700.0), 700.0)) if form.logarithmic else place,
        form.steepness: 1 / steepness if form.inverse_steepness else steepness,
    }
    return model.canonical(named) if model.canonical is not None else named


def _result(model: "Model", curves: Curves, found: Descent, side: float) -> Sigmoids:
    form = _form(model)
    state = look(curves, found.theta, SHAPES[form.shape])
    values = _values(model, curves, found, state, side)
    spread = unit_spread(curves, state)
    covariance, b = spread.theta, found.theta[1]
    middle = -found.theta[0] / b
    named = dict(zip(model.names, values.T, strict=True))
    place = np.sqrt(covariance[0][0] + 2 * middle * covariance[0][1] + middle * middle * covariance[1][1])
    steep = np.sqrt(covariance[1][1]) / curves.half
    # Where the canonical form has changed the plateaus over, so are their errors.
    over = (state.rise < 0) & (model.canonical is not None)
    lower, upper = np.sqrt(spread.lower), np.sqrt(spread.upper)
    errors = {
        "lower": np.where(over, upper, lower),
        "upper": np.where(over, lower, upper),
        form.place: curves.half / b * place * (named[form.place] if form.logarithmic else 1.0) / curves.unit,
        form.steepness: steep * (np.square(named[form.steepness]) if form.inverse_steepness else 1.0) / curves.unit,
    }
    if form.power:
        errors[form.power] = named[form.power] * np.sqrt(covariance[2][2]) / curves.unit
    unit = np.stack([errors[name] for name in model.names], axis=1)
    return Sigmoids(values, unit, 2 * state.half_sse * np.square(curves.unit), found.converged)


def at_limits(model: "Model", levels: Array, values: Array) -> tuple[Flags, Flags]:
    """Which curves are only a bare end of a sigmoid, and which a step between two levels, (curves,) both.

    levels : (k,) distinct x; values : (curves, p).
    """
    form, named = _form(model), dict(zip(model.names, values.T, strict=True))
    t = np.log(levels[levels > 0]) if form.logarithmic else levels
    with np.errstate(all="ignore"):
        steepness = 1 / named[form.steepness] if form.inverse_steepness else named[form.steepness]
        place = np.log(named[form.place]) if form.logarithmic else named[form.place]
        u = steepness[:, None] * (t - place[:, None])
    bare = ((u < -FLAT).all(axis=1) | (u > FLAT).all(axis=1)) & (t.size == levels.size)
    between = (np.abs(u) < FLAT).sum(axis=1)
    step = (between <= 1) & (u < 0).any(axis=1) & (u > 0).any(axis=1)
    return bare, step


def undetermined(model: "Model", levels: Array, values: Array) -> tuple[frozenset[str], str]:
    """The parameters that one curve (p,) at a limit leaves open, and why."""
    bare, step = at_limits(model, levels, values[None])
    if bare[0]:
        return _open_at(model, bare=True), "Only one end of the curve lies within the doses."
    if step[0]:
        why = "The best curve is a step between two doses; where in between, and how steep, stays open."
        return _open_at(model, bare=False), why
    return frozenset(), ""


def _open_at(model: "Model", *, bare: bool) -> frozenset[str]:
    form = _form(model)
    ends = {"lower", "upper", form.place} if bare else {form.place, form.steepness}
    return frozenset(ends | ({form.power} if form.power else set()))


def _with_limits(model: "Model", levels: Array, found: Sigmoids) -> Sigmoids:
    """The errors of what a curve at a limit leaves open are no numbers."""
    for flags, bare in zip(at_limits(model, levels, found.values), (True, False), strict=True):
        for name in _open_at(model, bare=bare):
            found.errors[flags, model.names.index(name)] = np.nan
    return found
