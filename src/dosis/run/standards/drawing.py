"""What is drawn and listed of a curve, gathered from the workbench once the steps have run."""

import math

import numpy as np

from dosis.core.arrays import geometric
from dosis.core.inference.result import Fit
from dosis.core.rounding import given
from dosis.run.curves.bands import with_bands
from dosis.run.curves.equation import with_numbers
from dosis.run.curves.fitted import parameter_rows, statistic_rows
from dosis.run.layout import whole_id
from dosis.run.outcome.drawn import Curve, Line, Point, Span
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.curve import CurveStep

LINE_POINTS = 48
EVENLY = np.linspace(0.0, 1.0, LINE_POINTS)
DECADES = 25.0  # highest over lowest standard from which a log axis shows more


def draw(bench: StandardBench, step: CurveStep, key: str) -> Curve:
    """The Curve part of an outcome; `key` is the plate or series it belongs to."""
    result = bench.fit
    signal, level = bench.layout.signal, bench.layout.level
    y_label = f"Blank-corrected {signal.label}" if bench.blank else signal.label
    samples = () if result is None else bench.sample_points()
    points = _points(bench, step, result)
    model, span = step.declared, None if result is None else bench.span_of(result)
    above = [g.level for g in bench.groups(Role.STANDARD) if g.level is not None and g.level > 0]
    return Curve(
        model=step.model,
        name=model.name,
        equation=model.equation,
        with_numbers="" if result is None else with_numbers(result),
        x_label=level.label,
        y_label=y_label,
        key=key,
        tag=bench.tag,
        turned=bench.turned,
        parameters=() if result is None else parameter_rows(bench, result, turned=bench.turned),
        candidates=bench.candidates,
        comparison=bench.comparison,
        statistics=() if result is None else statistic_rows(bench, result),
        limits=tuple(bench.limits),
        points=points,
        samples=samples,
        line=_line(result, [p.x for p in points] + [s.x for s in samples], turned=bench.turned),
        range=None if span is None else Span(lower=span[0], upper=span[1]),
        shown_range="" if span is None else " – ".join(map(given, span)),
        levels=tuple(sorted({g.level for g in bench.groups(Role.STANDARD) if g.level is not None})),
        working=bench.working_range,
        shown_working=bench.shown_working_range,
        logarithmic=model.positive_x and bool(above) and max(above) > DECADES * min(above),
        rmse=None if result is None else result.rmse,
        suggestion=bench.suggestion,
        problem=bench.fit_problem,
    )


def _points(bench: StandardBench, step: CurveStep, result: Fit | None) -> tuple[Point, ...]:
    rows = [
        (id, group.id, group.level, bench.values[id], bench.why_not.get(id, ""))
        for group in bench.groups(Role.STANDARD)
        if group.level is not None
        for id in group.readings
        if id in bench.values
    ]
    # Of a curve fitted the other way round, what is predicted is the concentration.
    of, against = (3, 2) if bench.turned else (2, 3)
    fitted = result.predict([row[of] for row in rows]).tolist() if result is not None and rows else [None] * len(rows)
    inside = bench.in_window if result is not None else step.window.holds
    return tuple(
        Point(
            row[0], whole_id(row[1]), row[2], row[3],
            None if curve is None or not math.isfinite(curve) else row[against] - curve,
            "excluded" if row[4] else "used" if inside(row[2]) else "outside",
        )
        for row, curve in zip(rows, fitted, strict=True)
    )  # fmt: skip


def _line(result: Fit | None, xs: list[float], *, turned: bool) -> Line:
    if result is None or not xs:
        return Line(x=(), y=(), lower=(), upper=())
    if turned:
        return _turned_line(result)
    low, high = min(xs), max(xs)
    if low > 0 and low < 0.25 * high:
        low = 0.0  # a concentration axis shows its zero
    grid = low + (high - low) * EVENLY
    above = [x for x in xs if x > 0]
    if not result.is_straight and above:
        # A curve is drawn on either axis, so it has points for both.
        grid = np.concatenate((grid[:-1], geometric(min(above) / 1.5, high, LINE_POINTS + 16)))
        grid.sort()
    with np.errstate(all="ignore"):
        bands = result.bands(grid)
        y = result.predict(grid) if bands is None else bands[0]
    there = np.isfinite(y)  # a falling power has no value at zero
    return with_bands(grid[there].tolist(), y[there].tolist(), None if bands is None else bands[:, there])


def _turned_line(result: Fit) -> Line:
    """A curve of concentration on signal, in the same axes; its band would lie along them, so none is drawn."""
    signals = np.linspace(*result.range, 2 * LINE_POINTS)
    with np.errstate(all="ignore"):
        levels = result.predict(signals)
    there = np.isfinite(levels)
    order = np.argsort(levels[there], kind="stable")
    x, y = levels[there][order], signals[there][order]
    return Line(x=tuple(x.tolist()), y=tuple(y.tolist()), lower=(), upper=())
