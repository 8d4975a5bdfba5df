"""From a model's declaration to its sigmoid and back: parameters and standard errors in the model's own terms."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.fitting.sigmoids.curves import Curves
from dosis.core.fitting.sigmoids.limits import at_limits, open_at
from dosis.core.fitting.sigmoids.profile import profile_midpoints
from dosis.core.fitting.sigmoids.shape import FORMS, LOGISTIC, POWERED
from dosis.core.fitting.sigmoids.solve import FURTHEST, Ends, descend_from, solve_sigmoids
from dosis.core.fitting.sigmoids.spread import AA, AB, BB, COLUMNS, GG, HEIGHT, LOWER, RISE, UPPER, spread_all
from dosis.core.fitting.sigmoids.starts import heights
from dosis.core.models.model import Sigmoid

if TYPE_CHECKING:
    from dosis.core.models.model import Model


Laid = tuple[int, bool, bool, Array]


@dataclass(frozen=True)
class Sigmoids:
    """Fitted sigmoids: values (curves, p) in the model's order, Σ w·r² between places, whether at a minimum (curves,).

    errors : (curves, p) standard errors for a residual variance of one; NaN where the readings do not determine the
        parameter; none where only the values were asked for.
    """

    values: Array
    sse: Array
    converged: Flags
    errors: Array


def fit_sigmoids(
    model: "Model", levels: Array, y: Array, w: Array, pure: Array, start: Array | None = None, *, errors: bool = True
) -> Sigmoids:
    """Fit a model that is a sigmoid between two free plateaus.

    Parameters
    ----------
    levels : (k,) distinct x, rising; y, w : (curves, k) means there and their summed weights.
    pure : (curves,) sum of squares about those means.
    start : (p,) or (curves, p) parameters from which to descend, instead of a search.
    errors : whether standard errors are wanted too.
    """
    form, curves = _form(model), _curves(model, levels, y, w, pure)
    with np.errstate(all="ignore"):
        if start is None:
            found = solve_sigmoids(curves, FORMS[form.shape], symmetric=form.symmetric)
        else:
            begun = np.broadcast_to(start, (curves.count, len(model.names))).T
            found = descend_from(
                curves, FORMS[form.shape], *_theta(form, curves, dict(zip(model.names, begun, strict=True)))
            )
            if FORMS[form.shape] == POWERED:
                _keep_way_round(curves, found)
        if form.logarithmic:
            _bring_back(curves, FORMS[form.shape], found)
        known = _known(FORMS[form.shape], curves, found)
        # y less its mean is rise·(h − its mean), so that the lower plateau is where h is zero.
        rise = curves.unit * known[:, RISE]
        named = _named(model, curves, curves.mean - rise * known[:, HEIGHT], rise, found)
        values = np.column_stack([named[name] for name in model.names])
        spread = _errors(model, curves, levels, found, known, values) if errors else np.empty((curves.count, 0))
        return Sigmoids(values, 2 * found.half_sse * curves.unit * curves.unit, found.converged, spread)


def _keep_way_round(curves: Curves, found: Ends) -> None:
    """Curves with a power that fell the other way round from their start are looked for anew."""
    rows = np.flatnonzero(_known(POWERED, curves, found)[:, RISE] < 0)
    if rows.size:
        found.put(rows, solve_sigmoids(curves.take(rows), POWERED, symmetric=False))


def laid_out(model: "Model", values: Array) -> Laid:
    """Form, logarithmic, inverse steepness and p (5,) of parameters (p,), as `minimum.curve_at` takes them."""
    form, p = _form(model), np.ones(5)
    p[: len(model.laid)] = values[model.laid]
    return FORMS[form.shape], form.logarithmic, form.inverse_steepness, p


def _form(model: "Model") -> Sigmoid:
    assert model.sigmoid is not None
    return model.sigmoid


def _curves(model: "Model", levels: Array, y: Array, w: Array, pure: Array) -> Curves:
    return Curves.of(levels, y, w, pure, logarithmic=_form(model).logarithmic)


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
        known = spread_all(LOGISTIC, curves.t, curves.y, curves.w, theta)
        middle = -theta[:, 0] / theta[:, 1]
        variance = np.square(rmse / curves.unit)
        error = _place_error(known, middle) / theta[:, 1] * np.sqrt(variance)
        found, good = profile_midpoints(curves.t, curves.y, curves.w, theta, 0.5 * variance * t * t, error, t)
        ends = [curves.center + curves.half * end for end in found.T]
        if form.logarithmic:
            ends = [np.exp(np.clip(end, -700, 700)) for end in ends]
    return Profiles(ends[0], ends[1], good & np.isfinite(ends[0]) & np.isfinite(ends[1]))


def _theta(form: Sigmoid, curves: Curves, p: dict[str, Array]) -> tuple[Array, Array]:
    """θ (curves, 3) of parameters, and −1 for curves that need the axis turned round, else 1."""
    steepness = 1 / p[form.steepness] if form.inverse_steepness else p[form.steepness]
    place = np.log(p[form.place]) if form.logarithmic else p[form.place]
    b, middle = steepness * curves.half, (place - curves.center) / curves.half
    turned = (b < 0) & (not form.symmetric)
    b, middle = np.abs(b), np.where(turned, -middle, middle)
    power = np.log(p[form.power]) if form.power else np.zeros_like(b)
    return np.column_stack((-b * middle, b, power)), np.where(turned, -1.0, 1.0)


def _bring_back(curves: Curves, form: int, found: Ends) -> None:
    """Bring midpoints on a logarithmic axis that no number holds as near as one does; the curve there hardly changes.

    Such a curve is all but an exponential. Its power, and if that is not enough its height, make up for it.
    """
    place = curves.center - found.side * found.theta[:, 0] / found.theta[:, 1] * curves.half
    nearest = np.minimum(np.maximum(place, -FURTHEST), FURTHEST)
    for i in np.flatnonzero(place != nearest).tolist():
        a, b, power = found.theta[i]
        nearer = found.side[i] * b * (curves.center - nearest[i]) / curves.half
        if form == POWERED and a > 0:
            power = max(power - (a - nearer), min(power, 0.0))
        found.theta[i] = nearer, b, power
        h = heights(form, curves.t * found.side[i], found.theta[i : i + 1])[0]
        y, w = curves.y[i], curves.w[i if len(curves.w) > 1 else 0]
        h = h - (w @ h) / w.sum()
        rise = (w * h) @ y / ((w * h) @ h)
        found.half_sse[i] = 0.5 * float(w @ np.square(y - rise * h))


def _known(form: int, curves: Curves, found: Ends) -> Array:
    """What `spread_all` finds, each curve on its side of the axis."""
    if (found.side > 0).all():
        return spread_all(form, curves.t, curves.y, curves.w, found.theta)
    known = np.empty((curves.count, COLUMNS))
    for sign in (1.0, -1.0):
        rows = np.flatnonzero(found.side == sign)
        if rows.size:
            side = curves.on(sign) if rows.size == curves.count else curves.take(rows).on(sign)
            known[rows] = spread_all(form, side.t, side.y, side.w, found.theta[rows])
    return known


def _named(model: "Model", curves: Curves, lower: Array, rise: Array, found: Ends) -> dict[str, Array]:
    form, (a, b, power) = _form(model), found.theta.T
    place, steepness = curves.center - found.side * a / b * curves.half, found.side * b / curves.half
    named = {
        "lower": lower,
        "upper": lower + rise,
        form.place: np.exp(np.minimum(np.maximum(place, -700.0), 700.0)) if form.logarithmic else place,
        form.steepness: 1 / steepness if form.inverse_steepness else steepness,
    }
    if model.canonical is not None:
        named = model.canonical(named)
    if form.power:
        named[form.power] = np.exp(power)
    return named


def _errors(model: "Model", curves: Curves, levels: Array, found: Ends, known: Array, values: Array) -> Array:
    form, (a, b, _), named = _form(model), found.theta.T, dict(zip(model.names, values.T, strict=True))
    # Where the canonical form has changed the plateaus over, so are their errors.
    over = (known[:, RISE] < 0) & (model.canonical is not None)
    lower, upper = np.sqrt(known[:, LOWER]), np.sqrt(known[:, UPPER])
    place, steep = _place_error(known, -a / b), np.sqrt(known[:, BB]) / curves.half
    errors = {
        "lower": np.where(over, upper, lower),
        "upper": np.where(over, lower, upper),
        form.place: curves.half / b * place * (named[form.place] if form.logarithmic else 1.0) / curves.unit,
        form.steepness: steep * (np.square(named[form.steepness]) if form.inverse_steepness else 1.0) / curves.unit,
    }
    if form.power:
        errors[form.power] = named[form.power] * np.sqrt(known[:, GG]) / curves.unit
    # The errors of what a curve at a limit leaves open are no numbers.
    for flags, bare in zip(at_limits(model, levels, values), (True, False), strict=True):
        for name in open_at(model, bare=bare):
            errors[name] = np.where(flags, np.nan, errors[name])
    return np.column_stack([errors[name] for name in model.names])


def _place_error(known: Array, middle: Array) -> Array:
    """Unit standard error of b·m, m being the midpoint −a/b."""
    error: Array = np.sqrt(known[:, AA] + 2 * middle * known[:, AB] + middle * middle * known[:, BB])
    return error
