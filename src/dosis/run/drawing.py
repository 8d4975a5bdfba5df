"""What is drawn and listed of a curve, gathered from the workbench once the steps have run."""

import math
import re

import numpy as np

from dosis.core.inference.result import Fit
from dosis.core.rounding import MINUS, given, p_value, significant, with_interval
from dosis.run.layout import Role
from dosis.run.outcome import Curve, Line, ParameterRow, Point, SamplePoint, Span, Statistic
from dosis.run.steps.curve import CurveStep, shown_r_squared
from dosis.run.steps.read_back import DIGITS
from dosis.run.workbench import Workbench

LINE_POINTS = 48
DECADES = 25.0  # highest over lowest standard from which a log axis shows more


def draw(bench: Workbench, step: CurveStep) -> Curve:
    """The Curve part of an outcome."""
    result = bench.fit
    signal, level = bench.layout.signal, bench.layout.level
    y_label = f"Blank-corrected {signal.label}" if bench.blank else signal.label
    samples = () if result is None else tuple(
        SamplePoint(group=group.id, role=group.role, x=rb.estimate, y=bench.summaries[group.id].value)
        for group in bench.groups(Role.SAMPLE, Role.QC)
        if (rb := bench.read_backs.get(group.id)) and rb.estimate is not None
        and bench.in_reading[group.id].value is not None
    )  # fmt: skip
    points = _points(bench, step, result)
    model = step.declared
    above = [g.level for g in bench.groups(Role.STANDARD) if g.level is not None and g.level > 0]
    return Curve(
        model=step.model,
        name=model.name,
        equation=model.equation,
        with_numbers="" if result is None else _with_numbers(result),
        x_label=level.label,
        y_label=y_label,
        parameters=() if result is None else _parameters(result, signal.unit, level.unit),
        candidates=bench.candidates,
        statistics=() if result is None else _statistics(result),
        points=points,
        samples=samples,
        line=_line(result, [p.x for p in points] + [s.x for s in samples]),
        range=None if result is None else Span(lower=result.range[0], upper=result.range[1]),
        shown_range="" if result is None else " – ".join(map(given, result.range)),
        levels=tuple(sorted({g.level for g in bench.groups(Role.STANDARD) if g.level is not None})),
        working=bench.working_range,
        shown_working=bench.shown_working_range,
        logarithmic=model.positive_x and bool(above) and max(above) > DECADES * min(above),
        rmse=None if result is None else result.rmse,
        suggestion=bench.suggestion,
        problem=bench.fit_problem,
    )


def _points(bench: Workbench, step: CurveStep, result: Fit | None) -> tuple[Point, ...]:
    rows = [
        (id, group.id, group.level, bench.values[id], bench.why_not.get(id, ""))
        for group in bench.groups(Role.STANDARD)
        if group.level is not None
        for id in group.readings
        if id in bench.values
    ]
    fitted = result.predict([row[2] for row in rows]).tolist() if result is not None and rows else [None] * len(rows)
    inside = bench.in_window if result is not None else step.window.holds
    return tuple(
        Point(
            reading=id, group=group, x=x, y=y,
            residual=None if curve is None or not math.isfinite(curve) else y - curve,
            state="excluded" if why else "used" if inside(x) else "outside",
        )
        for (id, group, x, y, why), curve in zip(rows, fitted, strict=True)
    )  # fmt: skip


def _line(result: Fit | None, xs: list[float]) -> Line:
    if result is None or not xs:
        return Line(x=(), y=(), lower=(), upper=())
    low, high = min(xs), max(xs)
    if low > 0 and low < 0.25 * high:
        low = 0.0  # a concentration axis shows its zero
    grid = np.linspace(low, high, LINE_POINTS)
    above = [x for x in xs if x > 0]
    if not result.is_straight and above:
        # A curve is drawn on either axis, so it has points for both.
        grid = np.unique(np.concatenate((grid, np.geomspace(min(above) / 1.5, high, LINE_POINTS + 16))))
    with np.errstate(all="ignore"):
        y = result.predict(grid)
        bands = [result.band(grid), result.band(grid, kind="observation")]
    there = np.isfinite(y)  # a falling power has no value at zero
    ends = [() if end is None else end for band in bands for end in (band or (None, None))]
    shown = [tuple(end[there].tolist()) if len(end) and np.isfinite(end[there]).all() else () for end in ends]
    if not (shown[0] and shown[1]):
        shown = [(), (), (), ()]
    return Line(
        x=tuple(grid[there].tolist()), y=tuple(y[there].tolist()), lower=shown[0], upper=shown[1],
        one_lower=shown[2] if shown[3] else (), one_upper=shown[3] if shown[2] else (),
    )  # fmt: skip


def _with_numbers(result: Fit) -> str:
    if not result.is_straight:
        text = result.model.equation
        for name, estimate in sorted(result.parameters.items(), key=lambda item: -len(item[0])):
            value = significant(estimate.estimate, 4)
            text = re.sub(rf"\b{re.escape(name)}\b", f"({value})" if value.startswith(MINUS) else value, text)
        return text
    slope = significant(result.parameters["slope"].estimate, DIGITS)
    if "intercept" not in result.parameters:
        return f"y = {slope} · x"
    intercept = result.parameters["intercept"].estimate
    sign = "−" if intercept < 0 else "+"
    return f"y = {slope} · x {sign} {significant(abs(intercept), DIGITS)}"


def _parameters(result: Fit, y_unit: str, x_unit: str) -> tuple[ParameterRow, ...]:
    per = f"1/{x_unit}" if x_unit else ""
    rule = {"y": y_unit, "x": x_unit, "y/x": f"{y_unit or '1'}/{x_unit}" if x_unit else y_unit, "1/x": per, "": ""}
    rows = []
    for parameter in result.model.parameters:
        estimate = result.parameters[parameter.name]
        ends = estimate.interval() or (None, None)
        if None in ends or not all(map(math.isfinite, filter(None, ends))):
            ends = (None, None)  # an interval without an end is none to show
        lower, upper = ends
        shown, shown_lower, shown_upper = with_interval(estimate.estimate, lower, upper)
        rows.append(ParameterRow(
            name=parameter.name, unit=rule.get(parameter.unit, ""), estimate=estimate.estimate,
            standard_error=estimate.standard_error, lower=lower, upper=upper, p_value=estimate.p_value,
            shown=shown, shown_interval=f"{shown_lower} to {shown_upper}" if lower is not None else "—",
            shown_p="—" if estimate.p_value is None else p_value(estimate.p_value),
        ))  # fmt: skip
    return tuple(rows)


def _statistics(result: Fit) -> tuple[Statistic, ...]:
    lack, runs = result.lack_of_fit, result.runs_test
    against_zero = [
        (f"{name.capitalize()} ≠ 0", f"p {p_value(estimate.p_value)}")
        for name, estimate in result.parameters.items()
        if estimate.p_value is not None
    ]
    rows = [
        *against_zero,
        ("Readings", str(result.n)),
        ("Degrees of freedom", str(result.degrees_of_freedom)),
        ("SSE", significant(result.sse, DIGITS)),
        ("RMSE", "—" if result.rmse is None else significant(result.rmse, DIGITS)),
        ("R²", "—" if result.r_squared is None else shown_r_squared(result.r_squared)),
        ("Adjusted R²", "—" if result.adjusted_r_squared is None else shown_r_squared(result.adjusted_r_squared)),
        ("AICc", "—" if result.aicc is None else significant(result.aicc, 5)),
        ("BIC", "—" if result.bic is None else significant(result.bic, 5)),
    ]
    if lack.p_value is not None and lack.statistic is not None:
        df = ", ".join(map(str, lack.degrees_of_freedom))
        rows.append(("Lack of fit", f"F({df}) = {significant(lack.statistic, 3)}, p {p_value(lack.p_value)}"))
    else:
        rows.append(("Lack of fit", lack.reason))
    rows.append(
        ("Runs test", f"{runs.statistic:g} runs, p {p_value(runs.p_value)}")
        if runs.p_value is not None and runs.statistic is not None
        else ("Runs test", runs.reason)
    )
    return tuple(Statistic(name=name, shown=shown) for name, shown in rows)
