"""What is drawn and listed of each series of doses."""

import math
from functools import lru_cache

import numpy as np

from dosis.core.inference.result import Fit
from dosis.core.rounding import decimals_for, given
from dosis.run.curves.bands import with_bands
from dosis.run.curves.equation import with_numbers
from dosis.run.curves.fitted import parameter_rows, statistic_rows
from dosis.run.curves.means import mean_points
from dosis.run.effects.effect import Effect
from dosis.run.outcome.drawn import Curve, Line, Mark, Point, Span
from dosis.run.questions.dose.bench import Compound, DoseBench
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.record import changed

MARGIN = 0.05  # share of the span that a curve is drawn beyond it
LINE_POINTS, FEWER = 72, 32  # points of a curve, and of each of a wall of them


def draw_doses(bench: DoseBench, step: DoseCurveStep) -> tuple[Curve, ...]:
    """One curve for each series; a run without doses has an empty one.

    Those of a wall are drawn in brief: without readings, bands, parameters, statistics
    and their working, which `draw_series` makes of the one that is looked at.
    """
    effects = {effect.series: effect for effect in bench.effects}
    found = [_draw(bench, step, compound, effects.get(key), bench.brief) for key, compound in bench.compounds.items()]
    return tuple(found) or (_draw(bench, step, Compound(name=""), None, brief=False),)


def draw_series(bench: DoseBench, step: DoseCurveStep, name: str) -> Curve | None:
    """The curve of the series of that name with all that is known of it; None where there is none."""
    effects = {effect.series: effect for effect in bench.effects}
    for key, compound in bench.compounds.items():
        if compound.name == name:
            return _draw(bench, step, compound, effects.get(key), brief=False)
    return None


def _draw(bench: DoseBench, step: DoseCurveStep, compound: Compound, effect: Effect | None, brief: bool) -> Curve:
    result, setting = compound.fit, step.setting_of(compound)
    signal = bench.raw_signal if bench.of_raw and bench.raw_signal else bench.layout.signal
    levels = sorted({group.level for group in compound.groups if group.level is not None})
    above = [level for level in levels if level > 0]
    span = None if result is None else result.range
    marked = _marked(effect, below=bool(levels) and levels[0] < 0)
    bare = effect is not None and effect.doses[0].relative.value is None
    grid = _grid(result, levels, FEWER if brief else LINE_POINTS, bare)
    asked = [*levels, *(x for x, _ in marked), *grid]
    # All at once, for a call costs more than its arithmetic.
    at = dict.fromkeys(asked, math.nan)
    if result is not None and asked:
        at = dict(zip(asked, result.predict(asked).tolist(), strict=True))
    heights = [at[x] for x in grid]
    curve = Curve(
        key=compound.name, tag=compound.tag, brief=brief, own=compound.name in step.own, model=setting.model,
        name=setting.declared.name, equation=setting.declared.equation, with_numbers="",
        x_label=bench.layout.level.label, y_label=signal.label,
        parameters=(), candidates=(), statistics=(), points=() if brief else _points(bench, compound, at), samples=(),
        means=mean_points(compound.x, compound.y(bench.of_raw)),
        marks=tuple(Mark(x=x, y=at[x], text=text) for x, text in marked),
        line=_sketch(grid, heights) if brief or result is None else _line(result, grid, heights),
        range=None if span is None else Span(lower=span[0], upper=span[1]),
        shown_range="" if span is None else " – ".join(map(given, span)), levels=tuple(levels),
        logarithmic=len(above) > 1 and levels[0] >= 0 and above[-1] > 4 * above[0],
        rmse=None if result is None else result.rmse,
        problem=compound.problem or ("" if bench.compounds else "There are no doses yet."),
    )  # fmt: skip
    if result is None or brief:
        return curve
    bench.tag = compound.tag
    rows = {"with_numbers": with_numbers(result), "parameters": parameter_rows(bench, result),
            "statistics": statistic_rows(bench, result)}  # fmt: skip
    bench.tag = ""
    return changed(curve, **rows)


def _points(bench: DoseBench, compound: Compound, at: dict[float, float]) -> tuple[Point, ...]:
    values = bench.raw if bench.of_raw and bench.raw else bench.values
    rows = [
        (id, group.id, group.level, values[id], bench.why_not.get(id, ""))
        for group in compound.groups
        if group.level is not None
        for id in group.readings
        if id in values
    ]
    used = set(compound.ids)
    return tuple(
        Point(
            reading=id,
            group=group,
            x=x,
            y=y,
            residual=y - at[x] if math.isfinite(at[x]) else None,
            state="excluded" if why else "used" if id in used else "outside",
        )
        for id, group, x, y, why in rows
    )


def _marked(effect: Effect | None, *, below: bool) -> list[tuple[float, str]]:
    """Doses from which lines drop, with their names; `below` zero where x is no dose."""
    if effect is None:
        return []
    return [
        (x, f"{effect.symbol}{dose.percent:g} {dose.relative.shown}")
        for dose in effect.doses
        if (x := dose.relative.value) is not None and (x > 0 or below)
    ]


def _grid(result: Fit | None, levels: list[float], points: int, bare: bool) -> tuple[float, ...]:
    """The doses at which the curve is drawn, a zero dose first where it is in the fit; evenly where some are below.

    bare : whether it has no effect dose; its ends are not determined, so nothing is drawn beyond the doses.
    """
    above = [level for level in levels if level > 0]
    if result is None or not levels:
        return ()
    if levels[0] < 0 or not above:
        low, high = levels[0], levels[-1]
        beyond = 0.0 if bare else MARGIN * (high - low)
        return tuple(np.linspace(low - beyond, high + beyond, points).tolist())
    grid = _between(above[0], above[-1], points) if bare else _between(above[0] / 1.5, above[-1] * 1.2, points)
    return grid if result.model.positive_x and float(result.x.min()) > 0 else (0.0, *grid)


@lru_cache(maxsize=64)  # a wall has one grid for all its curves
def _between(low: float, high: float, points: int) -> tuple[float, ...]:
    return tuple(float(f"{x:.6g}") for x in np.geomspace(low, high, points))


def _sketch(x: tuple[float, ...], y: list[float]) -> Line:
    """The line of one of a wall, to the places that its few pixels can show."""
    if not x or not all(map(math.isfinite, y)):
        return Line(x=(), y=(), lower=(), upper=())
    places = decimals_for(max(map(abs, y)), 5)
    return Line(x=x, y=tuple(round(value, places) for value in y), lower=(), upper=())


def _line(banded: Fit, x: tuple[float, ...], y: list[float]) -> Line:
    """The curve as drawn, with its bands where the fit has them."""
    if not x or not all(map(math.isfinite, y)):
        return Line(x=(), y=(), lower=(), upper=())
    with np.errstate(all="ignore"):
        bands = banded.bands(x)
    return with_bands(x, y, bands)
