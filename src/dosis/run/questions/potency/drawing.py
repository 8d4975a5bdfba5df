"""What is drawn and listed of each preparation: its readings and means, and its line or curve of the shared shape."""

import math

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.result import Fit
from dosis.core.replicates import summarize
from dosis.core.rounding import given
from dosis.run.curves.bands import with_bands
from dosis.run.curves.equation import with_numbers
from dosis.run.curves.fitted import parameter_rows, statistic_rows
from dosis.run.outcome.drawn import Curve, Line, MeanPoint, Point, Span
from dosis.run.questions.potency.analysis import CALLED
from dosis.run.questions.potency.bench import Assay, PotencyBench
from dosis.run.record import changed

LINE_POINTS = 60


def draw_assays(bench: PotencyBench) -> tuple[Curve, ...]:
    """A curve for each preparation of each assay; an empty one where there are none."""
    names = list(bench.preparations)
    several = len(bench.assays) > 1
    found = []
    for k, assay in enumerate(bench.assays):
        for i, name in enumerate(names):
            if name in assay.preparation:
                key = f"{name} · {assay.name}" if several else name
                found.append(_draw(bench, assay, name, key, f"{i + k * len(names)}."))
    return tuple(found) or (_empty(bench),)


def _empty(bench: PotencyBench) -> Curve:
    return Curve(
        model="line", name="", equation="", with_numbers="", x_label=bench.layout.level.label,
        y_label=bench.layout.signal.label, parameters=(), candidates=(), statistics=(), points=(), samples=(),
        line=Line(x=(), y=(), lower=(), upper=()), range=None, shown_range="", levels=(),
        problem="There are no two series of doses yet.",
    )  # fmt: skip


def _draw(bench: PotencyBench, assay: Assay, name: str, key: str, tag: str) -> Curve:
    at = [i for i, each in enumerate(assay.preparation) if each == name]
    x, y, ids = [assay.x[i] for i in at], [assay.y[i] for i in at], [assay.ids[i] for i in at]
    result = assay.fits.get(name)
    levels = sorted(set(x))
    above = [level for level in levels if level > 0]
    signal = bench.layout.signal
    y_label = f"ln({signal.name})" if bench.logged_response else signal.label
    predicted = np.full(len(x), math.nan) if result is None else result.predict(_scale(assay, np.array(x)))
    group_of = {id: group.id for groups in bench.preparations.values() for group in groups for id in group.readings}
    points = tuple(
        Point(reading=id, group=group_of.get(id, ""), x=one, y=other,
              residual=other - p if math.isfinite(p) else None, state="used")
        for id, one, other, p in zip(ids, x, y, predicted.tolist(), strict=True)
    )  # fmt: skip
    curve = Curve(
        key=key, tag=tag, model="line" if result is None else result.model.id, name=CALLED.get(assay.model, ""),
        equation=_equation(assay, result), with_numbers="", x_label=bench.layout.level.label, y_label=y_label,
        parameters=(), candidates=(), statistics=(), points=points, samples=(), means=_means(x, y),
        line=_line(assay, result, levels), range=Span(lower=levels[0], upper=levels[-1]),
        shown_range=" – ".join(map(given, (levels[0], levels[-1]))), levels=tuple(levels),
        logarithmic=assay.model != "slopes" and len(above) > 1, rmse=None if result is None else result.rmse,
        problem=assay.problem,
    )  # fmt: skip
    if result is None:
        return curve
    bench.tag = tag
    rows = parameter_rows(bench, result)
    if assay.logged:  # a slope by ln dose has not the unit of one by dose
        rows = tuple(changed(row, unit="" if row.name == "slope" else row.unit) for row in rows)
    found = {"with_numbers": "" if assay.logged else with_numbers(result), "parameters": rows,
             "statistics": statistic_rows(bench, result)}  # fmt: skip
    bench.tag = ""
    return changed(curve, **found)


def _equation(assay: Assay, result: Fit | None) -> str:
    if result is None:
        return ""
    return "y = intercept + slope · ln(x)" if assay.logged else result.model.equation


def _scale(assay: Assay, x: Array) -> Array:
    return np.log(x) if assay.logged else x


def _line(assay: Assay, result: Fit | None, levels: list[float]) -> Line:
    above = [level for level in levels if level > 0]
    if result is None or not above:
        return Line(x=(), y=(), lower=(), upper=())
    if assay.model == "slopes":
        x = np.linspace(0.0, levels[-1], LINE_POINTS)
    else:
        wide = 1.0 if assay.logged else 1.3
        x = np.geomspace(above[0] / wide, above[-1] * wide, LINE_POINTS)
    with np.errstate(all="ignore"):
        at = _scale(assay, x)
        y = result.predict(at)
        bands = result.bands(at)
    if not np.isfinite(y).all():
        return Line(x=(), y=(), lower=(), upper=())
    return with_bands(x.tolist(), y.tolist(), bands)


def _means(x: list[float], y: list[float]) -> tuple[MeanPoint, ...]:
    at: dict[float, list[float]] = {}
    for one, other in zip(x, y, strict=True):
        at.setdefault(one, []).append(other)
    found = []
    for level, values in sorted(at.items()):
        if len(values) == 1:
            found.append(MeanPoint(x=level, y=values[0]))
            continue
        summary = summarize(values)
        lower, upper = summary.interval() or (None, None)
        found.append(MeanPoint(x=level, y=summary.mean, sd=summary.sd, sem=summary.sem, lower=lower, upper=upper))
    return tuple(found)
