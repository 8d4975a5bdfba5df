"""What is drawn and listed of each series of counts: shares with binomial intervals, the line and its band."""

import numpy as np

from dosis.core.quantal import QuantalFit, binomial_interval
from dosis.core.quantal.links import LINKS, LinkName
from dosis.core.rounding import given, p_value, significant, with_interval
from dosis.run.curves.equation import DIGITS
from dosis.run.curves.fitted import listed
from dosis.run.effects.effect import Effect
from dosis.run.outcome.drawn import Curve, Line, Mark, MeanPoint, ParameterRow, Point, Span, Statistic
from dosis.run.questions.mortality.bench import CountBench, Treatment
from dosis.run.questions.mortality.line import LINKS as NAMES
from dosis.run.questions.mortality.line import QuantalStep

LINE_POINTS = 96
MARKS = 121  # of the ruler
LEVEL = 0.95  # of the band and of the parameters' intervals


def draw_mortality(bench: CountBench, step: QuantalStep) -> tuple[Curve, ...]:
    """One curve for each series; a run without counts has an empty one."""
    effects = {effect.series: effect for effect in bench.effects}
    found = []
    for key, made in bench.treatments.items():
        bench.tag = made.tag
        found.append(_draw(bench, step, made, effects.get(key)))
    bench.tag = ""
    return tuple(found) or (_draw(bench, step, Treatment(name=""), None),)


def _draw(bench: CountBench, step: QuantalStep, made: Treatment, effect: Effect | None) -> Curve:
    fit = made.fit if made.fit is not None and made.fit.converged else None
    levels = sorted({x for x, _, _ in made.rows})
    above = [x for x in levels if x > 0]
    dose = "log10 dose" if step.dose == "log" else "dose"
    equation = f"{step.link}(share) = intercept + slope · {dose}"
    numbers = "" if fit is None else equation.replace("intercept", significant(fit.intercept, 4)).replace(
        "slope", significant(fit.slope, 4)
    )  # fmt: skip
    return Curve(
        key=made.name, tag=made.tag, model=step.link, name=NAMES[step.link], equation=equation,
        with_numbers=numbers.replace("+ −", "− "), x_label=bench.layout.level.label, y_label="Affected / %",
        parameters=() if fit is None else _parameters(bench, fit), candidates=(),
        statistics=() if fit is None else _statistics(bench, fit), points=_points(bench, made, fit), samples=(),
        means=_shares(made), marks=_marks(fit, effect), line=_line(fit, above),
        range=Span(lower=levels[0], upper=levels[-1]) if levels else None,
        shown_range=" – ".join(map(given, (levels[0], levels[-1]))) if levels else "", levels=tuple(levels),
        logarithmic=step.dose == "log" and len(above) > 1,
        ruler=_ruler(step.link), problem=made.problem or ("" if bench.treatments else "There are no counts yet."),
    )  # fmt: skip


def _ruler(link: LinkName) -> tuple[float, ...]:
    """Percentages from 0.5 to 99.5 at equal steps of the link: the marks of probability paper (Bliss 1934)."""
    ends = LINKS[link].line(np.array([0.005, 0.995]))
    return tuple((100 * LINKS[link].share(np.linspace(ends[0], ends[1], MARKS))).tolist())


def _points(bench: CountBench, made: Treatment, fit: QuantalFit | None) -> tuple[Point, ...]:
    rows = [
        (id, group.id, group.level, 100 * bench.counts[id][0] / bench.counts[id][1], bench.why_not.get(id, ""))
        for group in made.groups
        if group.level is not None
        for id in group.readings
        if id in bench.counts
    ]
    fitted = (100 * fit.predict([row[2] for row in rows])).tolist() if fit is not None and rows else [None] * len(rows)
    return tuple(
        Point(reading=id, group=group, x=x, y=y, residual=None if at is None else y - at,
              state="excluded" if why else "used")
        for (id, group, x, y, why), at in zip(rows, fitted, strict=True)
    )  # fmt: skip


def _shares(made: Treatment) -> tuple[MeanPoint, ...]:
    """Pooled by dose, with exact binomial intervals."""
    by_dose: dict[float, tuple[float, float]] = {}
    for x, r, n in made.rows:
        had = by_dose.get(x, (0.0, 0.0))
        by_dose[x] = had[0] + r, had[1] + n
    found = []
    for x, (r, n) in sorted(by_dose.items()):
        lower, upper = binomial_interval(r, n)
        found.append(MeanPoint(x=x, y=100 * r / n, lower=100 * lower, upper=100 * upper))
    return tuple(found)


def _marks(fit: QuantalFit | None, effect: Effect | None) -> tuple[Mark, ...]:
    if fit is None or effect is None:
        return ()
    return tuple(
        Mark(x=x, y=100 * float(fit.predict(x)[0]), text=f"{effect.symbol}{dose.percent:g} {dose.relative.shown}")
        for dose in effect.doses
        if (x := dose.relative.value) is not None and x > 0
    )


def _line(fit: QuantalFit | None, above: list[float]) -> Line:
    if fit is None or not above:
        return Line(x=(), y=(), lower=(), upper=())
    low, high = above[0] / 1.5, above[-1] * 1.25
    grid = np.geomspace(low, high, LINE_POINTS) if fit.log_dose else np.linspace(0.0, high, LINE_POINTS)
    if fit.background_of == "estimated":
        grid = np.concatenate(([0.0], grid))
    x = np.log10(np.maximum(grid, 1e-300)) if fit.log_dose else grid
    v00, v01, v11 = fit.covariance[0, 0], fit.covariance[0, 1], fit.covariance[1, 1]
    half = fit.quantile(LEVEL) * np.sqrt(np.maximum(fit.widening * (v00 + 2 * x * v01 + x * x * v11), 0.0))
    share, base = LINKS[fit.link].share, fit.background if fit.background_of == "estimated" else 0.0
    line = fit.intercept + fit.slope * x
    ends = [100 * (base + (1 - base) * share(line + sign * half)) for sign in (-1, 1)]
    y = 100 * fit.predict(grid)
    if fit.background_of == "estimated":
        ends = [np.concatenate(([y[0]], end[1:])) for end in ends]
    return Line(
        x=tuple(grid.tolist()), y=tuple(y.tolist()), lower=tuple(ends[0].tolist()), upper=tuple(ends[1].tolist())
    )


def _parameters(bench: CountBench, fit: QuantalFit) -> tuple[ParameterRow, ...]:
    errors = fit.standard_errors.tolist()
    values = [("intercept", fit.intercept), ("slope", fit.slope), ("background", fit.background)][: len(errors)]
    rows = []
    for (name, value), error in zip(values, errors, strict=True):
        half = fit.quantile(LEVEL) * error * fit.widening**0.5
        shown, lower, upper = with_interval(value, value - half, value + half)
        rows.append(ParameterRow(
            name=name, unit="", estimate=value, standard_error=error, lower=value - half, upper=value + half,
            p_value=None, shown=shown, shown_interval=f"{lower} to {upper}", shown_p="—",
        ))  # fmt: skip
        bench.write(f"parameter.{name}", "Estimate", text=f"maximum likelihood, {NAMES[fit.link].lower()}",
                    result=significant(value, DIGITS), value=value)  # fmt: skip
        bench.write(f"parameter.{name}", "Standard error", text="from the expected information",
                    result=significant(error, 4), value=error)  # fmt: skip
        widened, of = "", ""
        if fit.widening > 1:
            widened = f" × √{significant(fit.widening, 4)} (variance factor)"
            of = f", t of {fit.degrees_of_freedom} degrees of freedom"
        times = significant(fit.quantile(LEVEL), 3)
        bench.write(f"parameter.{name}", "95 % interval", text=f"± {times} × {significant(error, 4)}{widened}{of}",
                    result=f"{lower} to {upper}")  # fmt: skip
    return tuple(rows)


def _statistics(bench: CountBench, fit: QuantalFit) -> tuple[Statistic, ...]:
    p = "" if fit.pearson_p is None else f", p {p_value(fit.pearson_p)}"
    rows = (
        ("Pearson χ²", f"{significant(fit.pearson, 4)}{p}", "quantal.fit", "quantal"),
        ("Deviance", significant(fit.deviance, 4), "quantal.fit", "quantal"),
        ("Degrees of freedom", str(fit.degrees_of_freedom), "", "readings"),
        ("Heterogeneity", "—" if fit.heterogeneity is None else significant(fit.heterogeneity, 3), "", "quantal"),
        ("Variance factor", significant(fit.widening, 3), "", "quantal"),
        ("Background", f"{significant(100 * fit.background, 3)} %", "", "quantal"),
    )
    return tuple(listed(bench, *row) for row in rows)
