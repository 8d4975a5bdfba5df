"""Second curves drawn so that they are straight, as they are taught: the line is the curve's, and says why it leads."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dosis.core.inference.result import Fit
from dosis.core.kinetics import straight_lines
from dosis.core.rounding import significant
from dosis.run.outcome.drawn import Line, Point
from dosis.run.questions.rate.bench import Found, RateBench, Second
from dosis.run.questions.rate.part import Straightened

GAS, KELVIN = 8.31446261815324e-3, 273.15


@dataclass(frozen=True)
class Plot:
    """x and y of a plot from level and rate, and what a line through its points would give, for comparison.

    bad : why the numbers do not come from it.
    """

    id: str
    name: str
    x: Callable[[float, float], float]
    y: Callable[[float, float], float]
    x_label: str
    y_label: str
    bad: str
    read: Callable[[float, float], dict[str, float]]


PLOTS: dict[str, tuple[Plot, ...]] = {
    "hyperbola": (
        Plot("reciprocal", "Double reciprocal", lambda s, v: 1 / s, lambda s, v: 1 / v, "1 / {level}", "1 / {rate}",
             "reciprocals give the smallest rates, known least well, the greatest weight",
             lambda slope, start: {"maximum": 1 / start, "half": slope / start}),
        Plot("level_over_rate", "Level over rate", lambda s, v: s, lambda s, v: s / v, "{level}", "{level} / {rate}",
             "dividing by the rate makes the errors of the lowest levels count most",
             lambda slope, start: {"maximum": 1 / slope, "half": start / slope}),
        Plot("rate_over_level", "Rate on rate over level", lambda s, v: v / s, lambda s, v: v, "{rate} / {level}",
             "{rate}", "the error of a rate stands on both axes",
             lambda slope, start: {"maximum": start, "half": -slope}),
    ),
    "arrhenius": (
        Plot("inverse_temperature", "Arrhenius line", lambda c, v: 1000 / (c + KELVIN), lambda c, v: math.log(v),
             "1000 K / temperature", "ln({rate})", "logarithms change how much each rate counts",
             lambda slope, start: {
                 "energy": -1000 * GAS * slope, "rate_25": math.exp(start + slope * 1000 / 298.15),
             }),
    ),
}  # fmt: skip


def straightened(bench: RateBench, second: Second, found: Found, model: str) -> tuple[Straightened, ...]:
    """The plots in which this curve is a line; none for other models."""
    assert second.fit is not None
    return tuple(
        made for plot in PLOTS.get(model, ()) if (made := _plot(bench, second, second.fit, found, plot)) is not None
    )


def _plot(bench: RateBench, second: Second, result: Fit, found: Found, plot: Plot) -> Straightened | None:
    of = {id: group.id for group in second.groups for id in group.readings}
    points = tuple(
        Point(id, of[id], plot.x(s, v), plot.y(s, v), None, "used")
        for id, s, v in zip(second.ids, second.x, second.y, strict=True)
        if v > 0 and (s > 0 or plot.id == "inverse_temperature")
    )
    if len(points) < 2:
        return None
    low, high = min(second.x), max(second.x)
    grid = (
        np.geomspace(max(low, high / 1e3), high, 60) if plot.id != "inverse_temperature" else np.linspace(low, high, 60)
    )
    at = [(float(s), float(v)) for s, v in zip(grid, result.predict(grid), strict=True) if v > 0 and s != 0]
    line = Line(tuple(plot.x(s, v) for s, v in at), tuple(plot.y(s, v) for s, v in at), (), ())
    through = straight_lines([p.x for p in points], [[p.y for p in points]])
    slope, start = float(through.slope[0]), float(through.intercept[0])
    words = {"level": bench.level.name or "level", "rate": found.name.lower()}
    return Straightened(
        id=f"{second.tag}{plot.id}", name=plot.name, x_label=plot.x_label.format(**words).capitalize(),
        y_label=plot.y_label.format(**words), points=points, line=line, why=_why(plot, result, slope, start),
    )  # fmt: skip


def _why(plot: Plot, result: Fit, slope: float, start: float) -> str:
    """Why the numbers come from the curve, and what a line through these points would have made of them."""
    try:
        read = plot.read(slope, start)
    except (ZeroDivisionError, OverflowError):
        read = {}
    said = ", ".join(
        f"{name} {significant(value, 3)} (the curve: {significant(result.named[name], 3)})"
        for name, value in read.items()
    )
    would = f" A line through these points would give {said}." if said else ""
    return f"The numbers come from the curve, because {plot.bad}.{would}"
