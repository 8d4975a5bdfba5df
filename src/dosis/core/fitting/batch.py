"""`fit_many`: thousands of independent curves at once, with the same numbers as `fit`."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core import special
from dosis.core.arrays import Array, Flags
from dosis.core.expressions import parse
from dosis.core.fitting.batch_descent import Batch, descend_all
from dosis.core.fitting.batch_starts import best_starts
from dosis.core.fitting.fit import fit
from dosis.core.fitting.readings import LARGEST
from dosis.core.fitting.turned_over import turned_values
from dosis.core.fitting.weights import WeightRule, resolve_weights
from dosis.core.models import Model, model
from dosis.core.models.model import Twin
from dosis.core.places import places

STARTS = 3  # tried for a curve whose first fit is poor; all of them for a model of many minima
AGREE = 3  # starts that have come to the same minimum, after which no other is tried
SAME = 1e-6  # relative difference of sums of squares of one minimum
POOR = 0.1  # share of the spread left unexplained at which a fit is called poor
CHUNK = 4096  # curves worked on at a time: small enough for the cache, large enough to forget the overhead


@dataclass(frozen=True)
class BatchFit:
    """Fits of many curves; every array has one row a curve, parameters in the order of `names`.

    standard_errors are NaN where a curve's readings do not determine a parameter, r_squared where they do not vary;
    `converged` says which curves to believe, and `n` how many readings each had.
    """

    model: Model
    names: tuple[str, ...]
    values: Array
    standard_errors: Array
    sse: Array
    rmse: Array
    r_squared: Array
    n: Array
    converged: Flags
    readings: tuple[Array, Array, Array] = field(repr=False)  # x (n,), y and weights (curves, n)

    def estimate(self, name: str) -> Array:
        """One parameter of every curve, (curves,)."""
        return self.values[:, self.names.index(name)]

    def derived(self, name: str) -> tuple[Array, Array]:
        """What follows from the parameters of every curve, such as a half-life, and its standard error; NaN for none.

        Raises
        ------
        StopIteration : when the model has no such quantity.
        """
        quantity = next(each for each in self.model.derived if each.name == name)
        at = {each: self.values[:, i] for i, each in enumerate(self.names)}
        with np.errstate(all="ignore"):
            value, slopes = parse(quantity.expression).dual(at, self.names)
            gradient = np.stack([np.broadcast_to(0.0 if s is None else s, len(self.values)) for s in slopes], axis=-1)
            x, y, w = self.readings
            known = np.where(w > 0, y, 0.0)
            unit = Batch(self.model, x, known, w).unit_covariances(self.values)
            variance = np.einsum("bp,bpq,bq->b", gradient, unit, gradient)
            return np.broadcast_to(value, len(self.values)).astype(float), self.rmse * np.sqrt(variance)

    def interval(
        self, name: str, level: float = 0.95, method: Literal["wald", "profile"] = "wald"
    ) -> tuple[Array, Array]:
        """Both ends of a parameter's interval, (curves,) each; NaN where there is none or a side is open.

        "profile" is made for all curves at once for the midpoint of a 4-parameter logistic or a Boltzmann sigmoid, and
        curve by curve otherwise.

        Raises
        ------
        ValueError : for another method or an unknown parameter.
        """
        if method not in ("wald", "profile") or name not in self.names:
            raise ValueError(f"There is no “{method}” interval of “{name}” here; parameters: {', '.join(self.names)}.")
        place = self.names.index(name)
        t = special.stdtrit(np.maximum(self.n - len(self.names), 1), (1 + level) / 2)
        estimate, half = self.values[:, place], t * self.standard_errors[:, place]
        if method == "profile":
            return self._profile(name, level, t)
        if self.model.parameters[place].positive:
            factor = np.exp(np.minimum(half / estimate, 700.0))
            return estimate / factor, estimate * factor
        return estimate - half, estimate + half

    def _profile(self, name: str, level: float, t: Array) -> tuple[Array, Array]:
        x, y, w = self.readings
        lower, upper = np.full(len(y), np.nan), np.full(len(y), np.nan)
        left = np.flatnonzero(self.converged & np.isfinite(self.standard_errors).all(axis=1))
        form = self.model.sigmoid
        if form is not None and form.symmetric and name == form.place:
            from dosis.core.fitting.sigmoids.model import midpoint_profiles

            found = midpoint_profiles(
                self.model, *_means(x, y[left], w[left]), self.values[left], self.rmse[left], t[left]
            )
            lower[left[found.good]], upper[left[found.good]] = found.lower[found.good], found.upper[found.good]
            left = left[~found.good]
        for i in left:
            there = w[i] > 0
            ends = fit(self.model, x[there], y[i, there], weights=w[i, there]).profile(name, level)
            lower[i], upper[i] = (np.nan if end is None else end for end in ends)
        return lower, upper


def fit_many(
    curve: str | Model, x: ArrayLike, y: ArrayLike, *, weights: WeightRule | ArrayLike | None = None
) -> BatchFit:
    """Fit one model to every row of y.

    Parameters
    ----------
    curve : id of a model with start values of its own, or the model.
    x : (n,), the same for all curves.
    y : (curves, n); NaN where a reading is missing.
    weights : a rule (see `fit`) or positive weights of shape (n,) or (curves, n).

    Returns
    -------
    BatchFit : arrays of the same quantities that `fit` gives for each curve on its own.

    Raises
    ------
    ValueError : for shapes that do not fit, an x that is missing or negative where the model takes a dose, or a model
        that needs start values.

    Notes
    -----
    Readings at one x are replaced by their weighted mean and their summed weight, which changes neither the best
    parameters nor, once the spread about the means is added back, the sum of squares. Sigmoids are fitted by compiled
    loops, other models without a loop over curves.
    """
    chosen = curve if isinstance(curve, Model) else model(curve)
    xs, ys = np.asarray(x, dtype=float), np.atleast_2d(np.asarray(y, dtype=float))
    if xs.ndim != 1 or ys.ndim != 2 or ys.shape[1] != xs.size:
        raise ValueError(f"x has shape {xs.shape} and y {np.shape(y)}; x must be (n,) and y (curves, n).")
    if not np.isfinite(xs).all() or (chosen.positive_x and (xs < 0).any()):
        raise ValueError("x must be finite for every reading, and not below zero where the model takes a dose.")
    if chosen.kinked:
        raise ValueError(f"{chosen.name} has corners; fit its curves one by one.")
    if chosen.grid is None and not chosen.linear:
        raise ValueError(f"{chosen.name} needs start values; fit its curves one by one.")
    if np.isinf(ys).any():
        raise ValueError("Readings must be finite; put NaN where one is missing.")
    # The squares of what is left must be numbers; a curve beyond that is not fitted.
    size = np.nanmax(np.abs(ys), axis=1, initial=0.0)
    ys = np.where(((size > LARGEST) | ((size > 0) & (size < 1 / LARGEST)))[:, None], np.nan, ys)
    w = _weights(weights, xs, ys)
    parts = [_chunk(chosen, xs, ys[i : i + CHUNK], w[i : i + CHUNK]) for i in range(0, len(ys), CHUNK)]
    joined = [np.concatenate(columns) for columns in zip(*parts, strict=True)]
    values, errors, sse, total, n, converged = joined
    df = n - len(chosen.names)
    with np.errstate(all="ignore"):
        rmse = np.where(df > 0, np.sqrt(sse / np.maximum(df, 1)), np.nan)
        errors = np.where((df > 0)[:, None], errors * rmse[:, None], np.nan)
        r_squared = np.where(total > 0, 1 - sse / total, np.nan)
    return BatchFit(chosen, chosen.names, values, errors, sse, rmse, r_squared, n, converged.astype(bool), (xs, ys, w))


def _weights(weights: WeightRule | ArrayLike | None, x: Array, y: Array) -> Array:
    """(curves, n), zero where a reading is missing."""
    there = np.isfinite(y)
    if weights is None or (isinstance(weights, str) and weights == "none"):
        return there.astype(float)
    flat = np.broadcast_to(x, y.shape)[there]
    given = weights
    if not isinstance(weights, str):
        given = np.broadcast_to(np.asarray(weights, dtype=float), y.shape)[there]
    w = np.zeros(y.shape)
    w[there] = resolve_weights(given, flat, y[there], None)
    return w


def _means(x: Array, y: Array, w: Array) -> tuple[Array, Array, Array, Array]:
    """Distinct x (k,), weighted means and summed weights there (curves, k), and the pure sum of squares (curves,)."""
    there = w > 0
    readings = y if there.all() else np.where(there, y, 0.0)
    if (x[1:] > x[:-1]).all():
        return x, readings, w, np.zeros(len(y))
    at = places(x)
    member = (at.group[:, None] == np.arange(at.levels.size)).astype(float)
    weight = w @ member
    with np.errstate(all="ignore"):
        mean = np.where(weight > 0, (w * readings) @ member / weight, 0.0)
    # A product is quicker than picking the mean of every reading, and what it adds to it is zero.
    apart = readings - mean @ member.T
    return at.levels, mean, weight, np.einsum("cn,cn,cn->c", w, apart, apart)


def _chunk(chosen: Model, x: Array, y: Array, w: Array) -> tuple[Array, ...]:
    levels, mean, weight, pure = _means(x, y, w)
    total = np.maximum(weight.sum(axis=1), 1e-300)
    center = (weight * mean).sum(axis=1) / total if chosen.intercept else np.zeros(len(y))
    spread = (weight * np.square(mean - center[:, None])).sum(axis=1)
    n = (w > 0).sum(axis=1)
    enough = (weight > 0).sum(axis=1) >= len(chosen.names)
    if chosen.sigmoid is not None or chosen.turned_over:
        from dosis.core.fitting.sigmoids.model import fit_sigmoids

        if chosen.turned_over:
            found = fit_sigmoids(model(chosen.turned_over), levels, -mean, weight, pure)
            found = replace(found, values=turned_values(found.values), errors=np.abs(turned_values(found.errors)))
        else:
            found = fit_sigmoids(chosen, levels, mean, weight, pure)
        values, errors, sse, converged = found.values, found.errors, found.sse, found.converged
    elif chosen.twin is not None:
        values, errors, sse, converged = _by_twin(
            chosen, chosen.twin, Batch(chosen, levels, mean, weight), spread, enough
        )
    else:
        values, errors, sse, converged = _general(chosen, Batch(chosen, levels, mean, weight), spread, enough)
    values[~enough], errors[~enough] = np.nan, np.nan
    return values, errors, sse + pure, spread + pure, n, converged & enough


def _by_twin(
    chosen: Model, twin: Twin, batch: Batch, spread: Array, enough: Flags
) -> tuple[Array, Array, Array, Flags]:
    """As the sigmoid that the model is; curves that are none of this model's are looked for on their own."""
    from dosis.core.fitting.sigmoids.model import fit_sigmoids

    found = fit_sigmoids(model(twin.id), batch.x, batch.y, batch.w, np.zeros(len(batch.y)), errors=False)
    sse, converged = found.sse, found.converged
    with np.errstate(all="ignore"):
        values = twin.values(found.values)
    errors = batch.unit_errors(values)
    none = ~(converged & np.isfinite(values).all(axis=1) & np.isfinite(errors).all(axis=1))
    if (rest := np.flatnonzero(none & enough)).size:
        values[rest], errors[rest], sse[rest], converged[rest] = _general(
            chosen, batch.rows(rest), spread[rest], enough[rest]
        )
    return values, errors, sse, converged


def _general(chosen: Model, batch: Batch, spread: Array, enough: Flags) -> tuple[Array, Array, Array, Flags]:
    thorough = len(chosen.names) - len(chosen.linear_in) >= 3
    starts = best_starts(chosen, batch.x, batch.y, batch.w, 8 if thorough else STARTS)
    values, sse, converged = descend_all(batch, starts[0])
    met = converged.astype(int)
    for start in starts[1:]:
        again = enough & (met < AGREE) if thorough else enough & (~converged | (sse > POOR * spread))
        if not again.any():
            break
        rows = np.flatnonzero(again)
        other, other_sse, other_converged = descend_all(batch.rows(rows), start[rows])
        alike = other_converged & (np.abs(other_sse - sse[rows]) <= SAME * sse[rows])
        met[rows] = np.where(alike, met[rows] + 1, np.where(other_sse < sse[rows], other_converged, met[rows]))
        better = (other_sse < sse[rows] * (1 - 1e-12)) | (other_converged & ~converged[rows] & (other_sse <= sse[rows]))
        take = rows[better]
        values[take], sse[take], converged[take] = other[better], other_sse[better], other_converged[better]
    values = _canonical(chosen, values)
    return values, batch.unit_errors(values), sse, converged


def _canonical(chosen: Model, values: Array) -> Array:
    if chosen.canonical is None:
        return values
    form = chosen.canonical(dict(zip(chosen.names, values.T, strict=True)))
    return np.stack([form[name] for name in chosen.names], axis=1)
