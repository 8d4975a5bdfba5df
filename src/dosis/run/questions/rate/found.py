"""What is found of every course: its slope over the window, or the parameters of a model and what follows from them."""

from collections.abc import Mapping
from typing import Literal

import numpy as np

from dosis.core import special
from dosis.core.arrays import Array
from dosis.core.fitting.batch import BatchFit, fit_many
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.kinetics import start_slopes, steepest, straight_lines
from dosis.core.models import Model
from dosis.core.rounding import given
from dosis.run.curves.equation import put
from dosis.run.questions.rate.bench import Course, Found, RateBench, per

Scale = Literal["linear", "ln", "percent"]
TWO = 2  # points that a line takes
# What parameters and what follows from them are called in a table.
TITLES = {
    "rate": "Rate constant", "lag": "Lag", "plateau": "Plateau", "start": "Start", "amplitude": "Amplitude",
    "doubling_time": "Doubling time", "half_life": "Half-life", "fast_half_life": "Half-life, fast",
    "slow_half_life": "Half-life, slow", "fast_rate": "Rate constant, fast", "slow_rate": "Rate constant, slow",
    "midpoint": "Midpoint", "width": "Width", "lower": "Lower", "upper": "Upper", "fast": "Fast", "slow": "Slow",
    "offset": "Offset",
}  # fmt: skip


def find_straight(bench: RateBench, taken: Array) -> None:
    """The slope of a line through every course; `taken` (courses, n) is NaN where a point does not count."""
    lines = straight_lines(bench.x, taken)
    bench.lines = lines
    for course in bench.courses:
        if lines.n[course.index] < TWO or not np.isfinite(lines.slope[course.index]):
            bench.problems[course.id] = f"{int(lines.n[course.index])} points; a line needs two times at least."
    df = np.maximum(lines.n - 2, 0).astype(float)
    rate = Found("rate", "Rate", bench.rate_unit, lines.slope, lines.slope_error, df, per="rate", lead=True)
    none = np.full(len(df), np.nan)
    bench.found = [
        rate,
        Found("intercept", "Intercept", bench.quantity.unit, lines.intercept, none, df),
        Found("r_squared", "R²", "", lines.r_squared, none, df),
    ]
    bench.values = _values(bench, rate)
    for course in bench.courses:
        if not bench.writes(course.group) or course.id in bench.problems:
            continue
        i = course.index
        inside = bench.x[np.isfinite(taken[i])]
        how = (
            f"{course.key}: least squares through {int(lines.n[i])} points, {given(float(inside[0]))} to "
            f"{given(float(inside[-1]))} {bench.time.unit}; y = {put(float(lines.intercept[i]))} + slope·t, "
            f"R² {lines.r_squared[i]:.5f}, standard error {put(float(lines.slope_error[i]))}"
        )
        slope = float(lines.slope[i])
        bench.note(course.group, "course", "Slope", text=how, result=f"{put(slope)} {bench.rate_unit}", value=slope)


def find_start(bench: RateBench, taken: Array) -> None:
    """The slope where every course begins, of a parabola through the window."""
    found = tangents(bench, taken)
    rate = Found("rate", "Rate", found.unit, found.values, found.errors, found.df, per="rate", lead=True)
    line = next(each for each in bench.found if each.id == "rate")
    beside = Found("line_rate", "Slope of a line", line.unit, line.values, line.errors, line.df, per="rate")
    bench.found = [rate, beside]
    bench.values = _values(bench, rate)
    for course in bench.courses:
        if not np.isfinite(rate.values[course.index]):
            bench.problems[course.id] = "Fewer than 4 times; a slope at the start needs a parabola."
            continue
        slope = float(rate.values[course.index])
        error = put(float(rate.errors[course.index]))
        text = f"{course.key}: of a parabola through the same points, where it begins; standard error {error}"
        bench.note(
            course.group,
            "course",
            "Slope at the start",
            text=text,
            result=f"{put(slope)} {bench.rate_unit}",
            value=slope,
        )


def tangents(bench: RateBench, taken: Array) -> Found:
    """The slope of every course where it begins."""
    slope, error, df = start_slopes(bench.x, taken)
    return Found("start_rate", "Rate at the start", bench.rate_unit, slope, error, df, per="rate")


def find_whole(
    bench: RateBench, taken: Array, model: Model, scale: Scale, points: int, *, start: Mapping[str, float] | None,
    fixed: Mapping[str, float],
) -> None:  # fmt: skip
    """A model through every course, what follows from it, and beside it the steepest slope without a model."""
    y = _scaled(bench, taken, scale)
    own = model.id == "custom"
    bench.logged = scale == "ln"
    if own or fixed or not bench.many:
        _each(bench, y, model, start, fixed)
    else:
        bench.batch = fit_many(model, bench.x, y)
        for course in bench.courses:
            if not bench.batch.converged[course.index]:
                bench.problems[course.id] = (
                    f"{model.name} does not settle on its {int(bench.batch.n[course.index])} points."
                )
    with np.errstate(all="ignore"):
        net = np.array([_net(row) for row in y])
    falling = bool(np.nanmedian(net) < 0) if np.isfinite(net).any() else False
    bench.steep = steepest(bench.x, y, points, falling=falling)
    bench.found = _found(bench, model, scale, falling=falling)
    lead = bench.lead()
    bench.values = _values(bench, lead) if lead else {}


def _scaled(bench: RateBench, taken: Array, scale: Scale) -> Array:
    if scale == "ln":
        with np.errstate(all="ignore"):
            logged: Array = np.where(taken > 0, np.log(np.where(taken > 0, taken, 1.0)), np.nan)
        lost = int((np.isfinite(taken) & ~np.isfinite(logged)).sum())
        if lost:
            bench.lost_logs = lost
        return logged
    if scale == "percent":
        top: Array = np.max(np.where(np.isfinite(taken), taken, 0.0), axis=1)
        with np.errstate(all="ignore"):
            percent: Array = 100 * taken / np.asarray(np.where(top > 0, top, np.nan))[:, None]
        return percent
    return taken


def _each(
    bench: RateBench, y: Array, model: Model, start: Mapping[str, float] | None, fixed: Mapping[str, float]
) -> None:
    """Course by course; of an own equation each begins where the first one ended."""
    own = model.id == "custom"
    near = dict(start) if start and set(start) >= set(model.names) else None
    for course in bench.courses:
        row = y[course.index]
        use = np.isfinite(row)
        need = len(model.names) - len(fixed)
        if np.unique(bench.x[use]).size < need:
            bench.problems[course.id] = f"{int(use.sum())} points; {model.name.lower()} needs {need} times or more."
            continue
        try:
            found = fit(model, bench.x[use], row[use], start=near if own else None, fixed=fixed or None)
        except ValueError as error:
            bench.problems[course.id] = str(error)
            continue
        bench.fits[course.id] = found
        if not found.converged:
            bench.problems[course.id] = found.message
        elif own and near is None:
            near = dict(found.named)
        _write(bench, course, found)


def _write(bench: RateBench, course: Course, found: Fit) -> None:
    if not bench.writes(course.group):
        return
    named = ", ".join(f"{name} = {put(value)}" for name, value in found.named.items())
    y = "ln y" if bench.logged else "y"
    equation = found.model.equation.replace("y =", f"{y} =", 1)
    text = f"{course.key}: {equation}; {named}, by least squares on {found.n} points"
    bench.note(course.group, "course", found.model.name, text=text)


def _found(bench: RateBench, model: Model, scale: Scale, *, falling: bool) -> list[Found]:
    y_unit = {"linear": bench.quantity.unit, "ln": "", "percent": "%"}[scale]
    t = bench.time.unit
    units = {"y": y_unit, "x": t, "y/x": per(y_unit, t), "1/x": per("", t)}
    growing = {"rate", "lag", "amplitude", "start"} <= set(model.names)
    found = []
    for parameter in model.parameters:
        name = TITLES.get(parameter.name, parameter.name)
        if growing and parameter.name == "rate":
            name = "Greatest specific rate" if scale == "ln" else "Greatest rate"
            if model.id == "growth_baranyi":
                name = "Potential specific rate"  # what it would be without lag and plateau
        values, errors, df = _of(bench, parameter.name)
        slope = parameter.unit == "y/x" and scale == "linear"
        if scale == "ln" and parameter.name == "start":
            found.append(_delogged(Found("start", name, bench.quantity.unit, values, errors, df)))
            continue
        found.append(
            Found(parameter.name, name, units.get(parameter.unit, ""), values, errors, df,
                  per="rate" if slope else "", positive=parameter.positive)
        )  # fmt: skip
    for quantity in model.derived:
        if quantity.name == "doubling_time" and growing and scale != "ln":
            continue  # it is ln 2 over a specific rate, which is read off logarithms
        values, errors, df = _of(bench, quantity.name, derived=True)
        name = TITLES.get(quantity.name, quantity.name)
        if scale == "ln" and quantity.name == "plateau":
            found.append(_delogged(Found("plateau", name, bench.quantity.unit, values, errors, df)))
            continue
        found.append(Found(quantity.name, name, units.get(quantity.unit, ""), values, errors, df,
                           positive=quantity.positive))  # fmt: skip
    if model.id == "boltzmann":
        found += _of_sigmoid(found, units)
    order = ("rate", "half_life", "doubling_time", "lag", "plateau")
    lead = next((name for name in order if any(each.id == name for each in found)), found[0].id)
    found = [_leading(each) if each.id == lead else each for each in found]
    found.sort(key=lambda each: (not each.lead, order.index(each.id) if each.id in order else len(order)))
    return [*found, *_without_model(bench, y_unit, units, growing, falling=falling)]


def _without_model(
    bench: RateBench, y_unit: str, units: Mapping[str, str], growing: bool, *, falling: bool
) -> list[Found]:
    """The steepest slope over a few neighbors, and where it meets the level of the beginning."""
    steep = bench.steep
    assert steep is not None
    df, none = np.full(len(bench.courses), 3.0), np.full(len(bench.courses), np.nan)
    way = "fall" if falling else "slope"
    found = [Found("steepest", f"Steepest {way}, no model", units["y/x"], steep.slope, none, df)]
    if growing:
        found.append(Found("steepest_lag", "Lag, no model", units["x"], steep.lag, none, df))
    return found


def _of_sigmoid(found: list[Found], units: Mapping[str, str]) -> list[Found]:
    """Of a Boltzmann sigmoid the steepest slope and the lag, where its tangent meets the lower plateau."""
    at = {each.id: each for each in found}
    none = np.full(len(at["width"].values), np.nan)
    slope = (at["upper"].values - at["lower"].values) / (4 * at["width"].values)
    lag = at["midpoint"].values - 2 * at["width"].values
    df = at["width"].df
    return [
        Found("rate", "Greatest rate", units["y/x"], slope, none, df, per="rate"),
        Found("lag", "Lag", units["x"], lag, none, df),
    ]


def _delogged(each: Found) -> Found:
    """A level that was found as a logarithm, as it is read."""
    with np.errstate(all="ignore"):
        values = np.exp(each.values)
    return Found(each.id, each.name, each.unit, values, values * each.errors, each.df, positive=True)


def _leading(each: Found) -> Found:
    return Found(each.id, each.name, each.unit, each.values, each.errors, each.df, each.per, each.positive, lead=True)


def _of(bench: RateBench, name: str, *, derived: bool = False) -> tuple[Array, Array, Array]:
    """A parameter, or what follows from them, of every course: estimate, standard error, degrees of freedom."""
    count = len(bench.courses)
    if bench.batch is not None:
        batch = bench.batch
        df = np.maximum(batch.n - len(batch.names), 0).astype(float)
        values, errors = batch.derived(name) if derived else (batch.estimate(name), _errors(batch, name))
        return np.where(batch.converged, values, np.nan), errors, df
    values, errors, df = np.full(count, np.nan), np.full(count, np.nan), np.zeros(count)
    for course in bench.courses:
        found = bench.fits.get(course.id)
        estimate = None if found is None else (found.derived if derived else found.parameters).get(name)
        if estimate is None or course.id in bench.problems:
            continue
        values[course.index], df[course.index] = estimate.estimate, estimate.degrees_of_freedom
        if estimate.standard_error is not None:
            errors[course.index] = estimate.standard_error
    return values, errors, df


def _errors(batch: BatchFit, name: str) -> Array:
    return batch.standard_errors[:, batch.names.index(name)]


def _net(row: Array) -> float:
    there = row[np.isfinite(row)]
    k = max(1, there.size // 10)
    return float(there[-k:].mean() - there[:k].mean()) if there.size else float("nan")


def _values(bench: RateBench, lead: Found) -> dict[int, float]:
    return {
        course.id: float(lead.values[course.index])
        for course in bench.courses
        if np.isfinite(lead.values[course.index])
    }


def ends(found: Found, level: float) -> tuple[Array, Array]:
    """Both ends of the interval of every course, as of a single fit: t, on the log scale for what is above zero."""
    with np.errstate(all="ignore"):
        t = special.stdtrit(np.maximum(found.df, 1), (1 + level) / 2)
        half = np.where(found.df > 0, t * found.errors, np.nan)
        if found.positive:
            factor = np.exp(np.minimum(half / found.values, 700.0))
            return found.values / factor, found.values * factor
        return found.values - half, found.values + half
