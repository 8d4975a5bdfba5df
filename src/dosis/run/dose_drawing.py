"""What is drawn and listed of each series of doses."""

import math

import numpy as np

from dosis.core.inference.result import Fit
from dosis.core.replicates import summarize
from dosis.core.rounding import given
from dosis.run.equation import with_numbers
from dosis.run.fitted import parameter_rows, statistic_rows
from dosis.run.outcome import Curve, Effect, Line, Mark, MeanPoint, Point, Span
from dosis.run.steps.dose_curve import DoseCurveStep
from dosis.run.workbench import Compound, Workbench

LINE_POINTS, FEWER = 72, 32  # points of a curve, and of each of a wall of them
BAND_UP_TO = 24  # series of which bands are drawn; of a wall of hundreds nobody sees them


def draw_doses(bench: Workbench, step: DoseCurveStep) -> tuple[Curve, ...]:
    """One curve for each series; a run without doses has an empty one."""
    effects = {effect.series: effect for effect in bench.effects}
    bands = len(bench.compounds) <= BAND_UP_TO
    found = []
    for key, compound in bench.compounds.items():
        bench.tag = compound.tag
        found.append(_draw(bench, step, compound, effects.get(key), bands=bands))
    bench.tag = ""
    return tuple(found) or (_draw(bench, step, Compound(name=""), None, bands=False),)


def _draw(
    bench: Workbench, step: DoseCurveStep, compound: Compound, effect: Effect | None, *, bands: bool
) -> Curve:  # fmt: skip
    result = compound.fit
    signal = bench.raw_signal if bench.of_raw and bench.raw_signal else bench.layout.signal
    levels = sorted({group.level for group in compound.groups if group.level is not None})
    above = [level for level in levels if level > 0]
    span = None if result is None else result.range
    problem = compound.problem or ("" if bench.compounds else "There are no doses yet.")
    return Curve(
        key=compound.name, tag=compound.tag, model=step.model, name=step.declared.name, equation=step.declared.equation,
        with_numbers="" if result is None else with_numbers(result),
        x_label=bench.layout.level.label, y_label=signal.label,
        parameters=() if result is None else parameter_rows(bench, result), candidates=(),
        statistics=() if result is None else statistic_rows(bench, result),
        points=_points(bench, compound, result), samples=(), means=_means(bench, compound),
        marks=_marks(result, effect),
        line=_line(result, above, bands=bands), range=None if span is None else Span(lower=span[0], upper=span[1]),
        shown_range="" if span is None else " – ".join(map(given, span)), levels=tuple(levels),
        logarithmic=len(above) > 1 and above[-1] > 4 * above[0], rmse=None if result is None else result.rmse,
        problem=problem,
    )  # fmt: skip


def _points(bench: Workbench, compound: Compound, result: Fit | None) -> tuple[Point, ...]:
    values = bench.raw if bench.of_raw and bench.raw else bench.values
    rows = [
        (id, group.id, group.level, values[id], bench.why_not.get(id, ""))
        for group in compound.groups
        if group.level is not None
        for id in group.readings
        if id in values
    ]
    curve = result.predict([row[2] for row in rows]).tolist() if result is not None and rows else [math.nan] * len(rows)
    used = set(compound.ids)
    return tuple(
        Point(
            reading=id, group=group, x=x, y=y, residual=y - at if math.isfinite(at) else None,
            state="excluded" if why else "used" if id in used else "outside",
        )
        for (id, group, x, y, why), at in zip(rows, curve, strict=True)
    )  # fmt: skip


def _means(bench: Workbench, compound: Compound) -> tuple[MeanPoint, ...]:
    at: dict[float, list[float]] = {}
    for x, y in zip(compound.x, compound.y(bench.of_raw), strict=True):
        at.setdefault(x, []).append(y)
    found = []
    for x, values in sorted(at.items()):
        summary = summarize(values)
        lower, upper = summary.interval() or (None, None)
        found.append(MeanPoint(x=x, y=summary.mean, sd=summary.sd, sem=summary.sem, lower=lower, upper=upper))
    return tuple(found)


def _marks(result: Fit | None, effect: Effect | None) -> tuple[Mark, ...]:
    if result is None or effect is None:
        return ()
    return tuple(
        Mark(x=x, y=float(result.predict(x)[0]), text=f"{effect.symbol}{dose.percent:g} {dose.relative.shown}")
        for dose in effect.doses
        if (x := dose.relative.value) is not None and x > 0
    )


def _line(result: Fit | None, above: list[float], *, bands: bool) -> Line:
    if result is None or not above:
        return Line(x=(), y=(), lower=(), upper=())
    grid = np.geomspace(above[0] / 1.5, above[-1] * 1.2, LINE_POINTS if bands else FEWER)
    if not result.model.positive_x or float(result.x.min()) == 0:
        grid = np.concatenate(([0.0], grid))
    with np.errstate(all="ignore"):
        y = result.predict(grid)
        ends = [result.band(grid), result.band(grid, kind="observation")] if bands else [None, None]
    if not np.isfinite(y).all():
        return Line(x=(), y=(), lower=(), upper=())
    shown = [
        tuple(end.tolist()) if np.isfinite(end).all() else ()
        for pair in ends for end in (pair if pair is not None else (np.array([np.nan]),) * 2)
    ]  # fmt: skip
    return Line(x=tuple(grid.tolist()), y=tuple(y.tolist()), lower=shown[0], upper=shown[1], one_lower=shown[2],
                one_upper=shown[3])  # fmt: skip
