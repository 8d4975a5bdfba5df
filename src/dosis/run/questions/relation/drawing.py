"""What is drawn and listed of each series of a relation."""

import math

import numpy as np

from dosis.core.rounding import given
from dosis.run.curves.bands import with_bands
from dosis.run.curves.equation import with_numbers
from dosis.run.curves.fitted import parameter_rows, statistic_rows
from dosis.run.curves.means import mean_point
from dosis.run.outcome.drawn import Curve, Mark, MeanPoint, Point, Span
from dosis.run.outcome.drawn import Line as DrawnLine
from dosis.run.questions.relation.bench import Line, RelationBench
from dosis.run.questions.relation.curve import TABLE, RelationCurveStep
from dosis.run.record import changed

LINE_POINTS = 96
MARGIN = 0.03  # share of the range that a curve is drawn beyond its points
MARKS = 3  # predictions that are drawn; a list of twenty would hide the curve
WALL = 24  # series from which curves are drawn in brief
DECADES = 25.0  # greatest x over the least from which a log axis shows more


def draw_relation(bench: RelationBench, step: RelationCurveStep, *, whole: bool) -> tuple[Curve, ...]:
    """One curve for each series; a run without points has an empty one."""
    lines = list(bench.lines.values())
    brief = len(lines) > WALL and not whole
    return tuple(_draw(bench, step, line, brief=brief) for line in lines) or (
        _draw(bench, step, Line("", ""), brief=False),
    )


def draw_line(bench: RelationBench, step: RelationCurveStep, key: str) -> Curve | None:
    """The curve of that series with all that is known of it; None where there is none."""
    line = bench.lines.get(key)
    return None if line is None else _draw(bench, step, line, brief=False)


def _draw(bench: RelationBench, step: RelationCurveStep, line: Line, *, brief: bool) -> Curve:
    result = line.fit
    curve = Curve(
        key=line.key, tag=line.tag, brief=brief, model=step.model,
        name="Read off the table" if step.model == TABLE else step.declared.name,
        equation="straight lines between neighboring points" if step.model == TABLE else step.declared.equation,
        with_numbers="", x_label=bench.x_quantity.label, y_label=bench.y_quantity.label,
        parameters=(), candidates=line.candidates, comparison=line.comparison, statistics=(),
        points=() if brief else _points(bench, line), samples=(), means=_means(line), marks=_marks(bench, line),
        line=_drawn(line, brief=brief), range=None if result is None else Span(*result.range),
        shown_range="" if result is None else " – ".join(map(given, result.range)), levels=tuple(sorted(set(line.x))),
        logarithmic=False, rmse=None if result is None else result.rmse,
        suggestion=line.suggestion, problem=line.problem or ("" if bench.lines else "There are no points yet."),
    )  # fmt: skip
    if result is None or brief:
        return curve
    bench.tag = line.tag
    layout = bench.layout
    # Units of parameters are those of the axes, which an expression may have changed.
    bench.layout = layout.model_copy(update={"level": bench.x_quantity, "signal": bench.y_quantity})
    rows = {"with_numbers": with_numbers(result), "parameters": parameter_rows(bench, result),
            "statistics": statistic_rows(bench, result)}  # fmt: skip
    bench.tag, bench.layout = "", layout
    return changed(curve, **rows)


def _points(bench: RelationBench, line: Line) -> tuple[Point, ...]:
    rows = [
        (id, group.id, bench.x[id], bench.values[id], bench.why_not.get(id, ""))
        for group in line.groups
        for id in group.readings
        if id in bench.values and id in bench.x
    ]
    at = [math.nan] * len(rows)
    if line.fit is not None and rows:
        with np.errstate(all="ignore"):
            at = line.fit.predict([row[2] for row in rows]).tolist()
    used = set(line.ids)
    return tuple(
        Point(id, group, x, y, y - fitted if math.isfinite(fitted) else None,
              "excluded" if why else "used" if id in used else "outside")
        for (id, group, x, y, why), fitted in zip(rows, at, strict=True)
    )  # fmt: skip


def _means(line: Line) -> tuple[MeanPoint, ...]:
    at: dict[float, list[tuple[float, float | None]]] = {}
    for x, y, error in zip(line.x, line.y, line.errors, strict=True):
        at.setdefault(x, []).append((y, error))
    return tuple(
        MeanPoint(x=x, y=rows[0][0], sd=rows[0][1]) if len(rows) == 1 else mean_point(x, [y for y, _ in rows])
        for x, rows in sorted(at.items())
    )


def _marks(bench: RelationBench, line: Line) -> tuple[Mark, ...]:
    """Predictions of the series, from which lines drop to the axes; few, or none could be read."""
    found: list[Mark] = []
    for each in bench.predictions:
        read = each.value.value
        if each.of == line.key and read is not None and len(found) < MARKS:
            x, y = (each.at, read) if each.asked == "x" else (read, each.at)
            found.append(Mark(x=x, y=y, text=each.value.shown))
    return tuple(found)


def _drawn(line: Line, *, brief: bool) -> DrawnLine:
    if line.table is not None:
        return DrawnLine(tuple(line.table.x.tolist()), tuple(line.table.y.tolist()), (), ())
    if line.fit is None or not line.x:
        return DrawnLine((), (), (), ())
    low, high = min(line.x), max(line.x)
    beyond = MARGIN * (high - low)
    start = low if line.fit.model.positive_x and low - beyond < 0 <= low else low - beyond
    grid = np.linspace(start, high + beyond, LINE_POINTS)
    with np.errstate(all="ignore"):
        y = line.fit.predict(grid)
        bands = None if brief else line.fit.bands(grid)
    there = np.isfinite(y)
    return with_bands(grid[there].tolist(), y[there].tolist(), None if bands is None else bands[:, there])
