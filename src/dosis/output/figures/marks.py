"""What a panel shows: points with their bars, lines, bands and drop lines; and what of its room they take."""

import math
from collections.abc import Sequence

import numpy as np
from matplotlib.axes import Axes

from dosis.output.figures.canvas import INK
from dosis.output.figures.content import Content, Dot, Trace
from dosis.output.figures.looks import Look
from dosis.output.figures.panel import THIN, Panel
from dosis.output.figures.placing import Box
from dosis.run.look import FigureLook

DROPPED = 12  # samples up to which each is dropped to the axes
MANY = 2000  # points of a series from which they are drawn small and without bars of their own color
TRUST = "#e0f1e8"


def draw_traces(panel: Panel, axes: Axes, content: Content, look: FigureLook) -> None:
    """Every series, lines under points; what does not stand within the axes is counted."""
    size = panel.canvas.size
    beyond = 0
    width = look.series.width or 0.12 * size
    marker = look.series.size or 0.52 * size
    if content.zero_line:
        axes.axhline(0.0, color=INK, linewidth=THIN * size, gid="zero")
        panel.room.take_line([panel.box.left, panel.box.right], [panel.at(panel.x.low, 0)[1]] * 2)
    if look.notes.trust and panel.traces and panel.traces[0].trust:
        axes.axvspan(*panel.traces[0].trust, color=TRUST, linewidth=0, zorder=0, gid="trust")
    for i, trace in enumerate(panel.traces):
        own = panel.looks[trace.key]
        if look.series.band and trace.band:
            kept = [(panel.x.place(x), low, high) for x, low, high in trace.band if not panel.x.log or x > 0]
            x, low, high = zip(*kept, strict=True) if kept else ((), (), ())
            axes.fill_between(
                x, low, high, color=own.color, alpha=0.16, linewidth=0, gid=f"series-{i}-band", zorder=1.5
            )
        if look.series.draw != "points" and trace.line:
            _line(panel, axes, trace, own, width, f"series-{i}-line")
        if look.series.draw != "line" or not trace.line:
            beyond += _dots(panel, axes, trace, own, marker, look, f"series-{i}", across=bool(content.names))
        if look.series.samples:
            _samples(panel, axes, trace, own, marker, f"series-{i}-samples")
        if look.notes.marks:
            samples = trace.samples if look.series.samples and len(trace.samples) <= DROPPED else ()
            _drops(panel, (*trace.marks, *samples), own, size)
        if look.notes.limits:
            _limits(panel, trace, size)
    if beyond:
        lie = "1 point lies" if beyond == 1 else f"{beyond:,} points lie"
        panel.canvas.remarks.append(f"{lie} outside these axes, so not drawn.")


def _line(panel: Panel, axes: Axes, trace: Trace, own: Look, width: float, id: str) -> None:
    kept = [(x, y) for x, y in trace.line if not panel.x.log or x > 0]
    if not kept:
        return
    x, y = zip(*kept, strict=True)
    axes.plot(
        x, y, color=own.color, linewidth=width, linestyle=own.dash, marker="none", gid=id, zorder=2,
        solid_joinstyle="round",
    )  # fmt: skip
    places = [panel.at(*place) for place in kept]
    panel.room.take_line([p[0] for p in places], [p[1] for p in places])


def _dots(
    panel: Panel, axes: Axes, trace: Trace, own: Look, marker: float, look: FigureLook, id: str, *, across: bool
) -> int:
    """How many points have no place within the axes."""
    beyond = 0
    marker = marker * 0.4 if len(trace.dots) > MANY else marker
    for excluded in (False, True):
        if excluded and look.series.excluded == "off":
            continue
        own_dots = [dot for dot in trace.dots if dot.excluded is excluded]
        dots = [dot for dot in own_dots if panel.inside(dot.x, dot.y)]
        beyond += len(own_dots) - len(dots)
        if not dots:
            continue
        x, y = [panel.x.place(dot.x) for dot in dots], [dot.y for dot in dots]
        _bars(panel, axes, dots, own, look, f"{id}-bars", across=across)
        axes.plot(
            x, y, linestyle="none", marker=own.marker, markersize=marker, color=own.color,
            markerfacecolor="white" if excluded else own.color, markeredgewidth=THIN * panel.canvas.size,
            gid=f"{id}-{'excluded' if excluded else 'points'}", zorder=3, clip_on=False,
        )  # fmt: skip
        places = np.array([panel.at(dot.x, dot.y) for dot in dots])
        panel.room.take_dots(places[:, 0], places[:, 1], marker / 2)
    return beyond


def _bars(panel: Panel, axes: Axes, dots: list[Dot], own: Look, look: FigureLook, id: str, *, across: bool) -> None:
    known = [dot for dot in dots if dot.low is not None and dot.high is not None]
    if not known:
        return
    value = [dot.x if across else dot.y for dot in known]
    low = [v - (dot.low or 0.0) for v, dot in zip(value, known, strict=True)]
    high = [(dot.high or 0.0) - v for v, dot in zip(value, known, strict=True)]
    low = [0.0] * len(low) if look.series.one_sided else [max(each, 0.0) for each in low]
    high = [max(each, 0.0) for each in high]
    width = 0.1 * panel.canvas.size
    sides = [low, high]
    made = axes.errorbar(
        [panel.x.place(dot.x) for dot in known], [dot.y for dot in known], fmt="none", ecolor=own.color,
        elinewidth=width, capsize=look.series.cap, capthick=width, zorder=2.5,
        xerr=sides if across else None, yerr=None if across else sides,
    )  # fmt: skip
    for part in (*made.lines[1], *made.lines[2]):
        part.set_gid(id)
    for dot in known:
        ends = [(dot.low, dot.y), (dot.high, dot.y)] if across else [(dot.x, dot.low), (dot.x, dot.high)]
        (left, bottom), (right, top) = (panel.at(*end) for end in ends)
        if all(map(math.isfinite, (left, bottom, right, top))):
            half = look.series.cap
            panel.room.take(Box(left - half, bottom, 2 * half, top - bottom))


def _samples(panel: Panel, axes: Axes, trace: Trace, own: Look, marker: float, id: str) -> None:
    kept = [(x, y) for x, y, _ in trace.samples if panel.inside(x, y)]
    if not kept:
        return
    x, y = zip(*kept, strict=True)
    axes.plot(
        x, y, linestyle="none", marker="o", markersize=marker, markerfacecolor="white", color=own.color,
        markeredgewidth=0.12 * panel.canvas.size, gid=id, zorder=4, clip_on=False,
    )  # fmt: skip
    places = np.array([panel.at(*place) for place in kept])
    panel.room.take_dots(places[:, 0], places[:, 1], marker / 2)


def _limits(panel: Panel, trace: Trace, size: float) -> None:
    """Upright lines at LOD and LOQ; their names are placed with the other notes."""
    for x, _ in trace.limits:
        across = panel.at(x, panel.y.low)[0]
        if panel.box.left <= across <= panel.box.right:
            ends = [panel.box.bottom, panel.box.top]
            panel.canvas.line([across, across], ends, width=THIN * size, dash=(0, (1, 2)), id="limit")
            panel.room.take_line([across, across], ends)


def _drops(panel: Panel, places: Sequence[tuple[float, float, str]], own: Look, size: float) -> None:
    for x, y, _ in places:
        if not panel.inside(x, y):
            continue
        across, up = panel.at(x, y)
        for to in ((across, panel.box.bottom), (panel.box.left, up)):
            panel.canvas.line(
                [across, to[0]], [up, to[1]], width=THIN * size, color=own.color, dash=(0, (3, 2)), id="drop"
            )
            panel.room.take_line([across, to[0]], [up, to[1]])
