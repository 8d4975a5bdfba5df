"""What is drawn and listed of each course, and of the curve of rates against the level."""

import math
from collections.abc import Sequence

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.fit import fit
from dosis.core.inference.result import Fit
from dosis.core.models import MODELS
from dosis.core.rounding import given, significant
from dosis.run.curves.bands import with_bands
from dosis.run.curves.candidates import candidate, compared
from dosis.run.curves.fitted import listed_with
from dosis.run.curves.thinning import thinned
from dosis.run.layout import Quantity
from dosis.run.outcome.drawn import Candidate, Curve, Line, MeanPoint, ParameterRow, Point, Span, Statistic
from dosis.run.questions.rate.against import BETTER, INHIBITED, AgainstStep, parameters_of
from dosis.run.questions.rate.bench import Course, RateBench, Second
from dosis.run.questions.rate.course import CourseStep
from dosis.run.questions.rate.found import TITLES
from dosis.run.record import changed

LINE_POINTS, BRIEF_POINTS = 96, 24
MARGIN = 0.04  # share of the levels' range that a second curve is drawn beyond them
SHOWN = 3_000  # points of a course that are drawn; of more those that keep its shape
BESIDE = {"hyperbola": ("substrate_inhibition", "hill", "line"), "substrate_inhibition": ("hyperbola",),
          "hill": ("hyperbola",), "optimum": ("gaussian", "quadratic"), "gaussian": ("optimum", "quadratic"),
          "arrhenius": ("optimum", "line"), "line": ("hyperbola", "quadratic")}  # fmt: skip
NOTHING = Line((), (), (), ())


def draw_courses(bench: RateBench, step: CourseStep, *, whole: bool) -> tuple[Curve, ...]:
    """One curve for each course; a run without courses has an empty one."""
    brief = bench.many and not whole
    drawn = _lines(bench, brief=brief) if brief else {}
    made = tuple(_curve(bench, step, course, drawn.get(course.index), brief=brief) for course in bench.courses)
    return made or (_empty(bench, step),)


def draw_course(bench: RateBench, step: CourseStep, key: str) -> Curve | None:
    """The curve of that course with all that is known of it; None where there is none."""
    course = next((each for each in bench.courses if each.key == key), None)
    return None if course is None else _curve(bench, step, course, None, brief=False)


def _empty(bench: RateBench, step: CourseStep) -> Curve:
    return Curve(
        model=_model(step), name=_name(step), equation="", with_numbers="", x_label=bench.time.label,
        y_label=bench.quantity.label, parameters=(), candidates=(), statistics=(), points=(), samples=(), line=NOTHING,
        range=None, shown_range="", levels=(), problem="There are no courses yet.",
    )  # fmt: skip


def _curve(bench: RateBench, step: CourseStep, course: Course, drawn: Line | None, *, brief: bool) -> Curve:
    result = None if brief else _fit_of(bench, step, course)
    logged = bench.logged
    y_label = f"ln({bench.quantity.label})" if logged else bench.quantity.label
    if step.by == "whole" and step.scale == "percent":
        y_label = f"{bench.quantity.name} / % of the greatest"
    problem = bench.problems.get(course.id, "")
    window = None if bench.window is None else Span(*bench.window)
    curve = Curve(
        key=course.key, tag=f"c{course.index}.", reading=course.id, brief=brief, model=_model(step), name=_name(step),
        equation=step.declared.equation if step.by == "whole" else MODELS[_model(step)].equation, with_numbers="",
        x_label=bench.time.label, y_label=y_label, parameters=(), candidates=(), statistics=(),
        points=() if brief else _points(bench, step, course, result), samples=(),
        line=drawn if drawn is not None else NOTHING if result is None else _line(bench, course, result),
        range=None if result is None else Span(*result.range), working=window,
        shown_range="" if result is None else " – ".join(map(given, result.range)), levels=(),
        rmse=None if result is None else result.rmse, own=course.group.name in step.own, problem=problem,
        thinned=not brief and bench.x.size > SHOWN,
    )  # fmt: skip
    if result is None or brief:
        return curve
    return changed(curve, **listed_with(bench, curve.tag, result, bench.time, _y_quantity(bench, step)))


def _y_quantity(bench: RateBench, step: CourseStep) -> Quantity:
    if step.by == "whole" and step.scale != "linear":
        return Quantity(name=bench.quantity.name, unit="%" if step.scale == "percent" else "")
    return bench.quantity


def _fit_of(bench: RateBench, step: CourseStep, course: Course) -> Fit | None:
    """The fit of one course with all its statistics."""
    if course.id in bench.problems:
        return bench.fits.get(course.id)
    if course.id in bench.fits:
        return bench.fits[course.id]
    if bench.lines is None and bench.batch is None:
        return None
    row = np.where(bench.inside[course.index], bench.taken[course.index], np.nan)
    if bench.batch is not None:
        row = bench.batch.readings[1][course.index]
        use = np.isfinite(row)
        start = dict(zip(bench.batch.names, bench.batch.values[course.index].tolist(), strict=True))
        found = fit(bench.batch.model, bench.x[use], row[use], start=start)
    else:
        use = np.isfinite(row)
        found = fit(_model(step), bench.x[use], row[use])
    bench.fits[course.id] = found
    return found


def _points(bench: RateBench, step: CourseStep, course: Course, result: Fit | None) -> tuple[Point, ...]:
    y, out = bench.y[course.row], bench.left_out[course.row]
    drawn = as_fitted(bench, step, y)
    at = np.flatnonzero(np.isfinite(drawn))
    at = at[thinned(bench.x[at], drawn[at], SHOWN)]
    with np.errstate(all="ignore"):
        fitted = np.full(at.size, np.nan) if result is None else result.predict(bench.x[at])
    inside = bench.inside[course.index]
    group = course.group.id
    return tuple(
        Point(course.id, group, x, value, value - f if math.isfinite(f) else None,
              "excluded" if gone else "used" if within else "outside", i)
        for i, x, value, f, gone, within in zip(
            at.tolist(), bench.x[at].tolist(), drawn[at].tolist(), fitted.tolist(), out[at].tolist(),
            inside[at].tolist(), strict=True,
        )
    )  # fmt: skip


def as_fitted(bench: RateBench, step: CourseStep, y: Array) -> Array:
    """A course on the scale of the model."""
    if step.by != "whole" or step.scale == "linear":
        return y
    with np.errstate(all="ignore"):
        if step.scale == "ln":
            logged: Array = np.where(y > 0, np.log(np.where(y > 0, y, 1.0)), np.nan)
            return logged
        top = np.nanmax(y) if np.isfinite(y).any() else np.nan
        return 100 * y / top if top > 0 else np.full(y.shape, np.nan)


def _line(bench: RateBench, course: Course, result: Fit) -> Line:
    at = bench.x[bench.inside[course.index] & np.isfinite(bench.taken[course.index])]
    if not at.size:
        return NOTHING
    grid = np.linspace(at[0], at[-1], LINE_POINTS)
    with np.errstate(all="ignore"):
        y, bands = result.predict(grid), result.bands(grid)
    there = np.isfinite(y)
    return with_bands(grid[there].tolist(), y[there].tolist(), None if bands is None else bands[:, there])


def _lines(bench: RateBench, *, brief: bool) -> dict[int, Line]:
    """All lines at once, without bands."""
    taken = np.isfinite(bench.taken) & bench.inside
    found: dict[int, Line] = {}
    any_, first = taken.any(axis=1), taken.argmax(axis=1)
    last = taken.shape[1] - 1 - taken[:, ::-1].argmax(axis=1)
    if bench.lines is not None:
        x = np.stack([bench.x[first], bench.x[last]], axis=1)
        y = bench.lines.intercept[:, None] + bench.lines.slope[:, None] * x
    elif bench.batch is not None:
        grid = np.linspace(
            bench.x[taken.any(axis=0)].min(initial=0), bench.x[taken.any(axis=0)].max(initial=1), BRIEF_POINTS
        )
        x = np.broadcast_to(grid, (len(bench.courses), grid.size))
        with np.errstate(all="ignore"):
            y = bench.batch.model.value(grid, bench.batch.values)
    else:
        return {course.index: _line(bench, course, bench.fits[course.id])
                for course in bench.courses if course.id in bench.fits}  # fmt: skip
    fine = np.isfinite(y).all(axis=1) & any_
    for i, (xs, ys, good) in enumerate(zip(x.tolist(), y.tolist(), fine.tolist(), strict=True)):
        found[i] = Line(tuple(xs), tuple(ys), (), ()) if good else NOTHING
    return found


def draw_against(bench: RateBench, step: AgainstStep) -> tuple[Curve, ...]:
    """The curves of what was found against the level, by series; none where none was asked for."""
    lead = next((each for each in bench.found if each.id == bench.second_of), None)
    if lead is None:
        return ()
    x = bench.level
    y = Quantity(name=lead.name, unit=lead.unit)
    return tuple(_second(bench, step, second, x, y) for second in bench.seconds)


def _second(bench: RateBench, step: AgainstStep, second: Second, x: Quantity, y: Quantity) -> Curve:
    of = {id: group.id for group in second.groups for id in group.readings}
    model = None if step.model in (INHIBITED, "off") else MODELS[step.model]
    at = _predicted(second, np.array(second.x))
    points = tuple(
        Point(id, of[id], s, v, v - f if math.isfinite(f) else None, "used")
        for id, s, v, f in zip(second.ids, second.x, second.y, at.tolist(), strict=True)
    )
    candidates, said = _candidates(step, second)
    curve = Curve(
        key=second.key, tag=second.tag, model=step.model,
        name=model.name if model else second.kinds[0].kind.name if second.kinds else "",
        equation=model.equation if model else second.kinds[0].kind.equation if second.kinds else "", with_numbers="",
        x_label=x.label, y_label=y.label, parameters=_rows(step, second, x, y), candidates=candidates, comparison=said,
        statistics=_statistics(second), points=points, samples=(), means=_means(second), line=_second_line(second),
        range=None if second.fit is None else Span(*second.fit.range),
        shown_range="" if second.fit is None else " – ".join(map(given, second.fit.range)),
        levels=tuple(sorted(set(second.x))), rmse=None if second.fit is None else second.fit.rmse,
        problem=second.problem,
    )  # fmt: skip
    if second.fit is None:
        return curve
    listed = listed_with(bench, second.tag, second.fit, x, y)
    return changed(curve, **{**listed, "parameters": _rows(step, second, x, y)})


def _rows(step: AgainstStep, second: Second, x: Quantity, y: Quantity) -> tuple[ParameterRow, ...]:
    units = {"y": y.unit, "x": x.unit, "y/x": f"{y.unit or '1'}/{x.unit}" if x.unit else y.unit, "kJ/mol": "kJ/mol"}
    rows = []
    for name, rule, value in parameters_of(step, second):
        error = second.fit.parameters[name].standard_error if second.fit is not None else None
        shown = f"{value.shown_lower or 'open'} to {value.shown_upper or 'open'}"
        rows.append(ParameterRow(
            name=name, unit=units.get(rule, ""), estimate=value.value or 0.0, standard_error=error, lower=value.lower,
            upper=value.upper, p_value=None, shown=value.shown,
            shown_interval=shown if value.lower is not None or value.upper is not None else "—", shown_p="—",
        ))  # fmt: skip
    return tuple(rows)


def _candidates(step: AgainstStep, second: Second) -> tuple[tuple[Candidate, ...], str]:
    """Other curves beside the chosen one, or other kinds of inhibition."""
    if second.kinds:
        found = tuple(
            Candidate(
                model=each.kind.id, name=each.kind.name, chosen=i == 0, rmse=each.rmse, r_squared=None, aicc=each.aicc,
                lack_of_fit_p=None, shown_rmse="—" if each.rmse is None else significant(each.rmse, 3),
                shown_r_squared="—", shown_aicc="—" if each.aicc is None else f"{each.aicc:.1f}".replace("-", "−"),
                shown_lack_of_fit="—",
            )
            for i, each in enumerate(second.kinds)
        )  # fmt: skip
        return found, compared(found, "rates", BETTER)
    if second.fit is None:
        return (), ""
    fits = {step.model: second.fit}
    for id in BESIDE.get(step.model, ()):
        if len(set(second.x)) > len(MODELS[id].names):
            try:
                fits[id] = fit(id, second.x, second.y, weights=step.weights)
            except ValueError:
                continue
    found = tuple(candidate(id, result, chosen=id == step.model) for id, result in fits.items() if result.converged)
    return found, compared(found, "rates", BETTER)


def _statistics(second: Second) -> tuple[Statistic, ...]:
    if not second.kinds:
        return ()
    first = second.kinds[0]
    rmse = "—" if first.rmse is None else significant(first.rmse, 3)
    return (Statistic("RMSE", rmse), Statistic("Rates", str(first.rate.size)))


def _means(second: Second) -> tuple[MeanPoint, ...]:
    at: dict[float, list[float]] = {}
    for x, y in zip(second.x, second.y, strict=True):
        at.setdefault(x, []).append(y)
    return tuple(
        MeanPoint(x=x, y=float(np.mean(ys)), sd=float(np.std(ys, ddof=1)) if len(ys) > 1 else None)
        for x, ys in sorted(at.items())
    )


def _predicted(second: Second, x: Array) -> Array:
    with np.errstate(all="ignore"):
        if second.fit is not None:
            return second.fit.predict(x)
        if second.kinds:
            return second.kinds[0].predict(x, second.family[second.key])
    return np.full(x.shape, np.nan)


def _second_line(second: Second) -> Line:
    if not second.x or (second.fit is None and not second.kinds):
        return NOTHING
    low, high = min(second.x), max(second.x)
    beyond = MARGIN * (high - low)
    from_zero = second.kinds or (second.fit is not None and second.fit.model.positive_x)
    grid = np.linspace(0.0 if from_zero else low - beyond, high + beyond, LINE_POINTS)
    y = _predicted(second, grid)
    bands = None
    if second.fit is not None:
        with np.errstate(all="ignore"):
            bands = second.fit.bands(grid)
    there = np.isfinite(y)
    return with_bands(grid[there].tolist(), y[there].tolist(), None if bands is None else bands[:, there])


def _model(step: CourseStep) -> str:
    return {"straight": "line", "start": "quadratic"}.get(step.by, step.model)


def _name(step: CourseStep) -> str:
    named = {"straight": "Straight line", "start": "Parabola"}
    return named.get(step.by) or step.declared.name


def titles(names: Sequence[str]) -> list[str]:
    """Parameters as a table calls them."""
    return [TITLES.get(name, name.replace("_", " ").capitalize()) for name in names]
