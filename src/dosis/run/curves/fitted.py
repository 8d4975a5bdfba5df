"""A fit's parameters and statistics as they are listed, each with the working behind it."""

import math

import numpy as np

from dosis.core.distributions import t_quantile
from dosis.core.inference.parameters import ParameterEstimate, not_determined
from dosis.core.inference.result import Fit
from dosis.core.rounding import p_value, significant, with_interval
from dosis.run.bench import Bench
from dosis.run.curves.equation import DIGITS, put, with_numbers
from dosis.run.curves.words import r2_name, shown_r_squared
from dosis.run.layout import Quantity
from dosis.run.outcome.drawn import ParameterRow, Statistic

LEVEL = 0.95


def parameter_rows(bench: Bench, result: Fit, *, turned: bool = False) -> tuple[ParameterRow, ...]:
    """One row for each parameter, with its unit by the rule of the model; `turned` where x was fitted on y."""
    x_unit, y_unit = bench.layout.level.unit, bench.layout.signal.unit
    if turned:
        x_unit, y_unit = y_unit, x_unit
    per = f"1/{x_unit}" if x_unit else ""
    rule = {
        "y": y_unit,
        "x": x_unit,
        "y/x": f"{y_unit or '1'}/{x_unit}" if x_unit else y_unit,
        "1/x": per,
        "": "",
        "kJ/mol": "kJ/mol",
    }
    rows, lost = [], not_determined(result)
    for parameter in result.model.parameters:
        estimate = result.parameters[parameter.name]
        profiled = parameter.name == result.model.kinked and not result.joint and parameter.name not in result.fixed
        ends = (result.profile(parameter.name, LEVEL) if profiled else estimate.interval()) or (None, None)
        if None in ends or not all(map(math.isfinite, filter(None, ends))):
            ends = (None, None)  # an interval without an end is none to show
        lower, upper = ends
        shown, shown_lower, shown_upper = with_interval(estimate.estimate, lower, upper)
        if parameter.name in lost:
            shown, lower, upper = "not determined", None, None
        row = ParameterRow(
            name=parameter.name, unit=rule.get(parameter.unit, ""), estimate=estimate.estimate,
            standard_error=estimate.standard_error, lower=lower, upper=upper, p_value=estimate.p_value,
            shown=shown, shown_interval=f"{shown_lower} to {shown_upper}" if lower is not None else "—",
            shown_p="—" if estimate.p_value is None else p_value(estimate.p_value),
        )  # fmt: skip
        rows.append(row)
        _parameter_working(bench, result, estimate, row, parameter.meaning)
    return tuple(rows)


def listed_with(bench: Bench, tag: str, result: Fit, x: Quantity, y: Quantity) -> dict[str, object]:
    """What a curve of a bench with axes of its own lists: its equation, parameters and statistics, in their units."""
    layout, before, bench.tag = bench.layout, bench.tag, tag
    bench.layout = layout.model_copy(update={"level": x, "signal": y})
    found: dict[str, object] = {"with_numbers": with_numbers(result), "parameters": parameter_rows(bench, result),
             "statistics": statistic_rows(bench, result)}  # fmt: skip
    bench.tag, bench.layout = before, layout
    return found


def _parameter_working(bench: Bench, result: Fit, estimate: ParameterEstimate, row: ParameterRow, meaning: str) -> None:
    id, name = f"parameter.{row.name}", row.name
    value = f"{row.shown} {row.unit}".rstrip()
    bench.write(id, "What it is", text=f"{meaning} in {result.model.equation}")
    if name in result.fixed:
        bench.write(id, "Held at", result=value, value=row.estimate)
        return
    bench.write(id, "Estimate", text=_by_sums(result, name) or _by_search(result), result=value, value=row.estimate)
    covariance, rmse = result.covariance, result.rmse
    if row.standard_error is None or covariance is None or not rmse:
        bench.write(id, "Standard error", text="none: the readings do not determine it, or leave no spread to judge by")
        return
    own = row.standard_error
    if result.common:
        own = result.but(common=()).parameters[name].standard_error or own
    spread = "RMSE" if math.isclose(rmse, _rmse(result), rel_tol=1e-9) else "spread"
    how = f"{spread} × √c = {put(rmse)} × √{put((own / rmse) ** 2)}, c from (JᵀWJ)⁻¹ at the minimum"
    if result.common and own != row.standard_error:
        bench.write(id, "Of the readings", text=how, result=significant(own, 3), value=own)
        how = f"with what blanks or controls leave open: √({put(own)}² + {put(_rest(row.standard_error, own))}²)"
    bench.write(id, "Standard error", text=how, result=significant(row.standard_error, 3), value=row.standard_error)
    df = estimate.degrees_of_freedom
    t = t_quantile(0.975, df)
    if row.lower is not None and row.name == result.model.kinked:
        text = f"by profile, since the curve has a corner there: Σ w·r² no more than {put(t)}² × RMSE² above the least"
        bench.write(id, "95 % interval", text=text, result=row.shown_interval)
    elif row.lower is not None:
        half = f"{put(t)} × {put(row.standard_error)}"
        how = f"{put(row.estimate)} ×⁄÷ e^({half} ÷ {put(row.estimate)})" if estimate.positive else (
            f"{put(row.estimate)} ± {half}"
        )  # fmt: skip
        bench.write(id, "95 % interval", text=f"{how}, t of {df:.3g} degrees of freedom", result=row.shown_interval)
    if row.p_value is not None:
        ratio = put(row.estimate / row.standard_error)
        bench.write(id, "Is it zero?", text=f"t = {ratio} on {df:.3g}", result=f"p {row.shown_p}", value=row.p_value)


def _rmse(result: Fit) -> float:
    """√(SSE/df) of the curve's own readings, or of all curves that were fitted together."""
    if result.joint:
        return result.rmse or 0.0
    return math.sqrt(result.sse / result.degrees_of_freedom) if result.degrees_of_freedom > 0 else 0.0


def _rest(whole: float, part: float) -> float:
    return math.sqrt(max(whole * whole - part * part, 0.0))


def _by_sums(result: Fit, name: str) -> str:
    """A straight line's parameters by the sums a pocket calculator makes."""
    if not result.is_straight or result.weighting not in ("none",) or not np.all(result.weights == 1.0):
        return ""
    x, y = result.x, result.y
    if not result.model.intercept:
        return f"Σxy ÷ Σx² = {put(float(x @ y))} ÷ {put(float(x @ x))}"
    mean_x, mean_y = float(x.mean()), float(y.mean())
    if name == "slope":
        sxy, sxx = float((x - mean_x) @ (y - mean_y)), float((x - mean_x) @ (x - mean_x))
        return f"Sxy ÷ Sxx = {put(sxy)} ÷ {put(sxx)}"
    return f"ȳ − slope · x̄ = {put(mean_y)} − {put(result.named['slope'])} × {put(mean_x)}"


def _by_search(result: Fit) -> str:
    weights = "" if result.weighting == "none" else f", weights {result.weighting.replace('^2', '²')}"
    least = f"least Σ(y − ŷ)² over {result.n} readings{weights}"
    return f"{least}, solved directly (QR)" if result.model.linear else f"{least}: SSE {put(result.sse)}"


def statistic_rows(bench: Bench, result: Fit) -> tuple[Statistic, ...]:
    """The statistics of the fit, those that are worked out with their working."""
    lack, runs = result.lack_of_fit, result.runs_test
    against_zero = [
        (f"{name.capitalize()} ≠ 0", f"p {p_value(estimate.p_value)}", f"parameter.{name}", "zero")
        for name, estimate in result.parameters.items()
        if estimate.p_value is not None
    ]
    r2, squares = r2_name(result), (result.r_squared, result.adjusted_r_squared)
    explained, adjusted = ("—" if square is None else shown_r_squared(square) for square in squares)
    said = lack.reason
    if lack.p_value is not None and lack.statistic is not None:
        df = ", ".join(map(str, lack.degrees_of_freedom))
        said = f"F({df}) = {significant(lack.statistic, 3)}, p {p_value(lack.p_value)}"
    signs = runs.reason
    if runs.p_value is not None and runs.statistic is not None:
        signs = f"{runs.statistic:g} runs, p {p_value(runs.p_value)}"
    rows = [
        *against_zero,
        ("Readings", str(result.n), "", "readings"),
        ("Degrees of freedom", str(result.degrees_of_freedom), "", "readings"),
        ("SSE", significant(result.sse, DIGITS), "", "rmse"),
        ("RMSE", "—" if result.rmse is None else significant(_rmse(result), DIGITS), "statistic.rmse", "rmse"),
        (r2, explained, "statistic.r2", "r2"),
        (f"Adjusted {r2}", adjusted, "", "r2"),
        ("AICc", "—" if result.aicc is None else significant(result.aicc, 5), "statistic.aicc", "aicc"),
        ("BIC", "—" if result.bic is None else significant(result.bic, 5), "", "aicc"),
        ("Lack of fit", said, "statistic.lack", "lack"),
        ("Runs test", signs, "", "runs"),
    ]
    _statistics_working(bench, result)
    return tuple(listed(bench, *row) for row in rows)


def listed(bench: Bench, name: str, shown: str, id: str, paragraph: str) -> Statistic:
    """A statistic with its working, where it has some, and its paragraph in the guide."""
    working = f"{bench.tag}{id}" if f"{bench.tag}{id}" in bench.working else ""
    return Statistic(name=name, shown=shown, working=working, guide=f"stat-{paragraph}")


def _statistics_working(bench: Bench, result: Fit) -> None:
    sse, df, n, k = result.sse, result.degrees_of_freedom, result.n, result.free + 1
    if result.rmse is not None:
        bench.write("statistic.rmse", "RMSE", text=f"√(SSE ÷ df) = √({put(sse)} ÷ {df})",
                    result=significant(_rmse(result), DIGITS), value=_rmse(result))  # fmt: skip
        if result.rmse != _rmse(result):
            bench.write("statistic.rmse", "Spread", result=significant(result.rmse, DIGITS), value=result.rmse,
                        text="by which intervals are made: of all curves together, by Huber's formula, or less what "
                        "blanks and controls explain")  # fmt: skip
    if result.r_squared is not None:
        about = "the mean" if result.model.intercept else "zero, the curve having no constant"
        sums = f"1 − SSE ÷ SST = 1 − {put(sse)} ÷ {put(result.total_sum_of_squares)}"
        bench.write("statistic.r2", r2_name(result), text=f"{sums}, "
                    f"SST about {about}", result=shown_r_squared(result.r_squared), value=result.r_squared)  # fmt: skip
    if result.aicc is not None:
        share = "" if result.weighting == "none" else " − Σ ln w"
        bench.write(
            "statistic.aicc", "AICc", result=significant(result.aicc, 5), value=result.aicc,
            text=f"n ln(SSE ÷ n){share} + 2k + 2k(k + 1) ÷ (n − k − 1), n = {n}, k = {k} (the curve's parameters and "
            "the spread)",
        )  # fmt: skip
    lack = result.lack_of_fit
    if lack.statistic is None or lack.p_value is None or lack.pure_error is None:
        return
    (of, error), pure = lack.degrees_of_freedom, lack.pure_error
    bench.write("statistic.lack", "Pure error", text=f"Σ(y − mean of its level)² over {error} degrees of freedom",
                result=put(pure), value=pure)  # fmt: skip
    bench.write(
        "statistic.lack", "F", text=f"(({put(sse)} − {put(pure)}) ÷ {of}) ÷ ({put(pure)} ÷ {error})",
        result=f"{significant(lack.statistic, 3)}, p {p_value(lack.p_value)}", value=lack.statistic,
    )  # fmt: skip
