"""What is drawn and listed of each preparation: its readings and means, and its line or curve of the shared shape."""

import math
from typing import Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.inference.result import Fit
from dosis.core.rounding import given
from dosis.run.curves.bands import with_bands
from dosis.run.curves.equation import with_numbers
from dosis.run.curves.fitted import parameter_rows, statistic_rows
from dosis.run.curves.means import mean_points
from dosis.run.outcome.drawn import Curve, Line, Point, Span
from dosis.run.questions.potency.analysis import CALLED
from dosis.run.questions.potency.bench import Assay, PotencyBench, dose_of
from dosis.run.record import changed
from dosis.run.roles import Role

LINE_POINTS = 60


def draw_assays(bench: PotencyBench) -> tuple[Curve, ...]:
    """A curve for each preparation of each assay; an empty one where there are none."""
    names = list(bench.preparations)
    found = []
    for k, assay in enumerate(bench.assays):
        for i, name in enumerate(names):
            if name in assay.preparation:
                found.append(_draw(bench, assay, name, f"{i + k * len(names)}."))
    return tuple(found) or (_empty(bench),)


def _empty(bench: PotencyBench) -> Curve:
    return Curve(
        model="line", name="", equation="", with_numbers="", x_label=bench.layout.level.label,
        y_label=bench.layout.signal.label, parameters=(), candidates=(), statistics=(), points=(), samples=(),
        line=Line(x=(), y=(), lower=(), upper=()), range=None, shown_range="", levels=(),
        problem="There are no two series of doses yet.",
    )  # fmt: skip


def _draw(bench: PotencyBench, assay: Assay, name: str, tag: str) -> Curve:
    at = [i for i, each in enumerate(assay.preparation) if each == name]
    x, y = [assay.x[i] for i in at], [assay.y[i] for i in at]
    result = assay.fits.get(name)
    levels = sorted(set(x))
    above = [level for level in levels if level > 0]
    signal = bench.layout.signal
    y_label = f"ln({signal.name})" if bench.logged_response else signal.label
    points = _points(bench, assay, name, result)
    curve = Curve(
        key=assay.called(name), tag=tag, name=CALLED.get(assay.model, ""),
        model="line" if result is None else result.model.id,
        equation=_equation(assay, result), with_numbers="", x_label=bench.layout.level.label, y_label=y_label,
        parameters=(), candidates=(), statistics=(), points=points, samples=(), means=mean_points(x, y),
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


def _points(bench: PotencyBench, assay: Assay, name: str, result: Fit | None) -> tuple[Point, ...]:
    """Every reading of a preparation in the assay; those that are left out, or have no logarithm, marked so."""
    used = dict(zip(assay.ids, assay.y, strict=True))
    plates = {bench.by_id[id].plate for id in used}
    found = []
    nothing = bench.groups(Role.VEHICLE) if name == bench.reference else []
    for group in (*bench.preparations[name], *nothing):
        level = dose_of(group)
        at = math.nan if result is None else float(result.predict(_scale(assay, np.array([level])))[0])
        for id in group.readings:
            y = used.get(id, bench.values.get(id))
            if y is None or bench.by_id[id].plate not in plates:
                continue
            if id not in used and bench.logged_response:
                y = math.log(y) if y > 0 else math.nan
            if not math.isfinite(y):
                continue
            state: Literal["used", "excluded", "outside"]
            state = "used" if id in used else "excluded" if id in bench.why_not else "outside"
            found.append(Point(reading=id, group=group.id, x=level, y=y,
                               residual=y - at if math.isfinite(at) else None, state=state))  # fmt: skip
    return tuple(found)


def _equation(assay: Assay, result: Fit | None) -> str:
    if result is None:
        return ""
    return "y = intercept + slope · ln(x)" if assay.logged else result.model.equation


def _scale(assay: Assay, x: Array) -> Array:
    """Doses as the model takes them; no dose has no logarithm."""
    with np.errstate(divide="ignore", invalid="ignore"):
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
