"""Names of series at their lines or in a legend, and notes: each where it covers neither data nor another text."""

from collections.abc import Sequence
from itertools import pairwise

from matplotlib.patches import FancyArrowPatch

from dosis.output.figures.canvas import INK, Canvas
from dosis.output.figures.content import Content, Trace
from dosis.output.figures.faces import ASCENT, broken, set_text
from dosis.output.figures.looks import Look
from dosis.output.figures.panel import GAP, LINE, Panel, shown_traces
from dosis.output.figures.placing import Box, apart
from dosis.run.look import FigureLook, FreeNote

MOST_BESIDE = 0.35  # of the paper's width that names at the lines may take
AT_LINES = 7  # series up to which their names stand at their lines, where they end side by side
NEAR_END = 0.12  # of the width: how far from the right edge a line may end to have its name beyond it
SHIFT = 1.1  # lines of text by which a name may be moved from the end of its line
MOST = 40  # names a legend lists; of more series nobody tells the names apart
COMPARED = 3  # comparisons that are told on a figure; a report tells all
HANDLE = 2.2  # length of a line in the legend, of the size of the text


def ways_to_name(canvas: Canvas, content: Content, look: FigureLook, outer: Box) -> tuple[str, ...]:
    """How the series are named: what is tried first, and what where that finds no place."""
    named = [trace for trace in shown_traces(content, look) if trace.name]
    wanted = look.words.legend
    if not named or wanted == "none" or look.kind == "answers":
        return ("none",)
    if wanted == "right":
        return ("right", "inside")
    at_lines = wanted in ("auto", "lines") and _ends_side_by_side(named, look, forced=wanted == "lines")
    if at_lines and _widest(canvas, named, outer) <= MOST_BESIDE * outer.width:
        return ("lines", "inside", "right")
    return ("inside", "right")


def room_beside(canvas: Canvas, content: Content, look: FigureLook, outer: Box, how: str) -> float:
    """Points that naming the series so takes beside the axes."""
    named = [trace for trace in shown_traces(content, look) if trace.name]
    if how == "lines":
        return _widest(canvas, named, outer) + 0.8 * canvas.size
    if how == "right":
        return min(_legend_size(canvas, named, look, outer)[0] + canvas.size, 0.45 * outer.width)
    return 0.0


def _widest(canvas: Canvas, named: list[Trace], outer: Box) -> float:
    return max(set_text(name, canvas.size, canvas.face).width for name in _shortened(canvas, named, outer).values())


def _ends_side_by_side(named: list[Trace], look: FigureLook, *, forced: bool) -> bool:
    if look.series.draw == "points" or not all(trace.line for trace in named):
        return False
    if forced:
        return True
    if len(named) < 2 or len(named) > AT_LINES or look.axes.x.high is not None:
        return False
    ends = [max(x for x, _ in trace.line) for trace in named]
    low = min(x for trace in named for x, _ in trace.line)
    far = max(ends)
    heights = [max(trace.line)[1] for trace in named]
    low_y, high_y = (end(y for trace in named for _, y in trace.line) for end in (min, max))
    spread = sorted(heights)
    least = min((b - a for a, b in pairwise(spread)), default=high_y - low_y)
    apart_enough = least > 0.035 * (high_y - low_y)
    return apart_enough and min(ends) >= far - NEAR_END * (far - low)


def name_lines(panel: Panel, look: FigureLook, outer: Box) -> bool:
    """Names beyond the right ends of the lines; False where they would stand too far from them."""
    canvas, size = panel.canvas, panel.canvas.size
    named = [trace for trace in panel.traces if trace.name]
    wanted = []
    for trace in named:
        inside = [(x, y) for x, y in trace.line if panel.inside(x, y)]
        if not inside:
            return False
        wanted.append(panel.at(*max(inside))[1])
    height = LINE * size
    places = apart(wanted, height, panel.box.bottom, panel.box.top)
    if places is None:
        return False
    if look.words.legend == "auto" and any(abs(a - b) > SHIFT * height for a, b in zip(places, wanted, strict=True)):
        return False
    names = _shortened(canvas, named, outer)
    for i, (trace, place) in enumerate(zip(named, places, strict=True)):
        color = panel.looks[trace.key].color
        canvas.write(f"legend-{i}", names[trace.key], panel.box.right + 0.5 * size, place - 0.33 * size, color=color)
    return True


def _shortened(canvas: Canvas, named: list[Trace], outer: Box) -> dict[str, str]:
    return {trace.key: broken(trace.name, canvas.size, canvas.face, 0.33 * outer.width, 1)[0] for trace in named}


def _legend_size(canvas: Canvas, named: list[Trace], look: FigureLook, outer: Box) -> tuple[float, float]:
    size, names = canvas.size, _shortened(canvas, named[:MOST], outer)
    widest = max(set_text(name, size, canvas.face).width for name in names.values())
    rows = min(len(named), MOST) + (len(named) > MOST) + bool(look.words.legend_title)
    if rows * LINE * size > outer.height:
        widest = max(widest, set_text(_more(len(named)), size, canvas.face).width)
    if look.words.legend_title:
        widest = max(widest, set_text(look.words.legend_title, size, canvas.face).width - (HANDLE + GAP) * size)
    return widest + (HANDLE + GAP) * size, rows * LINE * size


def legend(panel: Panel, look: FigureLook, outer: Box, *, beside: bool) -> bool:
    """The legend in a corner where it covers nothing, or beside the axes; False where there is no such place."""
    canvas, size = panel.canvas, panel.canvas.size
    named = [trace for trace in panel.traces if trace.name]
    width, height = _legend_size(canvas, named, look, outer)
    if beside:
        box = Box(panel.box.right + 0.8 * size, panel.box.top - height, width, height)
        if height > panel.box.height + 3 * size:
            fit = max(int((panel.box.height + 2 * size) / (LINE * size)) - 2, 1)
            canvas.remarks.append(f"The legend has room for {fit} of {len(named)} series.")
            return _write_legend(panel, look, box, named, fit)
    else:
        rim = 0.5 * size  # between the legend and the lines of the axes
        found = panel.room.free(width + 2 * rim, height + rim)
        if found is None:
            return False
        box = Box(found.left + rim, found.bottom + rim / 2, width, height)
    panel.room.take(box)
    return _write_legend(panel, look, box, named, MOST)


def _more(count: int) -> str:
    return f"and {count:,} more"


def _write_legend(panel: Panel, look: FigureLook, box: Box, named: list[Trace], most: int) -> bool:
    canvas, size = panel.canvas, panel.canvas.size
    names = {
        trace.key: broken(trace.name, size, canvas.face, box.width - (HANDLE + GAP) * size + 0.5, 1)[0]
        for trace in named
    }
    line = box.top - LINE * size / 2
    if look.words.legend_title:
        canvas.write("legend-title", look.words.legend_title, box.left, line - 0.33 * size)
        line -= LINE * size
    for i, trace in enumerate(named[:most]):
        _handle(panel, panel.looks[trace.key], trace, look, box.left, line)
        canvas.write(f"legend-{i}", names[trace.key], box.left + (HANDLE + GAP) * size, line - 0.33 * size)
        line -= LINE * size
    if len(named) > most:
        canvas.write("legend-more", _more(len(named) - most), box.left + (HANDLE + GAP) * size, line - 0.33 * size)
    return True


def _handle(panel: Panel, own: Look, trace: Trace, look: FigureLook, left: float, at: float) -> None:
    canvas, size = panel.canvas, panel.canvas.size
    if look.series.draw != "points" and trace.line:
        width = look.series.width or 0.12 * size
        canvas.line([left, left + HANDLE * size], [at, at], width=width, color=own.color, dash=own.dash, id="legend")
    if look.series.draw != "line" and trace.dots:
        marker = min(look.series.size or 0.52 * size, 1.1 * size)
        canvas.line(
            [left + HANDLE * size / 2], [at], width=0.09 * size, color=own.color, face=own.color, marker=own.marker,
            size=marker, dash="none", id="legend",
        )  # fmt: skip


def notes(panel: Panel, look: FigureLook, *, alone: bool, compared: Sequence[str] = ()) -> None:
    """Equation, R², n, comparisons, names of marked places, and free texts; each where it covers nothing."""
    wanted = look.notes
    lines = _said(panel, look, alone=alone, compared=compared)
    if lines:
        _place(panel, "note", lines, None)
    for trace in panel.traces:
        for x, name in trace.limits if wanted.limits else ():
            across = panel.at(x, panel.y.low)[0]
            if panel.box.left <= across <= panel.box.right:
                _place(panel, "limit", [name], (across, panel.box.top))
        for x, y, text in trace.marks if wanted.marks else ():
            if panel.inside(x, y):
                _place(panel, "mark", [text], panel.at(x, y))
    for i, free in enumerate(wanted.free):
        _free(panel, free, i)


def _said(panel: Panel, look: FigureLook, *, alone: bool, compared: Sequence[str]) -> list[str]:
    """What is said of the curves, those of several series under each other, each by its name."""
    canvas, wanted = panel.canvas, look.notes
    lines = []
    for trace in panel.traces:
        said = [
            trace.equation if wanted.equation else "",
            f"*R*^2 = {trace.r_squared}" if wanted.r_squared and trace.r_squared else "",
            f"*n* = {trace.count}" if wanted.count else "",
        ]
        if any(said):
            head = f"{trace.name}: " if trace.name and not alone else ""
            lines.append(head + ",  ".join(each for each in said if each))
    lines = [part for line in lines for part in broken(line, canvas.size, canvas.face, 0.9 * panel.box.width)]
    if wanted.comparison:
        room = min(0.9 * panel.box.width, 30 * canvas.size)
        lines += [part for each in compared[:COMPARED] for part in broken(each, canvas.size, canvas.face, room)]
    return lines


def _free(panel: Panel, free: FreeNote, i: int) -> None:
    canvas, frame = panel.canvas, panel.box
    left, middle = frame.left + free.x * frame.width, frame.bottom + free.y * frame.height
    box = _written(panel, f"free-{i}", [free.text], left, middle + canvas.size / 2)
    if free.to_x is None or free.to_y is None:
        return
    end = frame.left + free.to_x * frame.width, frame.bottom + free.to_y * frame.height
    start = min(max(end[0], box.left), box.right), min(max(end[1], box.bottom), box.top)
    canvas.figure.add_artist(_arrow(canvas, start, end, f"arrow-{i}"))


def _place(panel: Panel, id: str, lines: list[str], near: tuple[float, float] | None) -> None:
    size, face = panel.canvas.size, panel.canvas.face
    width, height = max(set_text(line, size, face).width for line in lines), len(lines) * LINE * size
    box = panel.room.free(width, height, near)
    if box is None:
        panel.canvas.remarks.append(
            "There is no free place for a note in the axes; it is left out. Make the paper larger."
        )
        return
    _written(panel, id, lines, box.left, box.top)


def _written(panel: Panel, id: str, lines: list[str], left: float, top: float) -> Box:
    size = panel.canvas.size
    boxes = [
        panel.canvas.write(id, line, left, top - k * LINE * size - (LINE - 1) / 2 * size - ASCENT * size)
        for k, line in enumerate(lines)
    ]
    width = max(box.width for box in boxes)
    made = Box(left, boxes[-1].bottom, width, boxes[0].top - boxes[-1].bottom)
    panel.room.take(made)
    return made


def _arrow(canvas: Canvas, start: tuple[float, float], end: tuple[float, float], id: str) -> FancyArrowPatch:
    ends = [(x / canvas.width, y / canvas.height) for x, y in (start, end)]
    made = FancyArrowPatch(
        *ends, transform=canvas.figure.transFigure, arrowstyle="-|>", mutation_scale=canvas.size * 0.8,
        linewidth=0.09 * canvas.size, color=INK, shrinkA=2, shrinkB=1,
    )  # fmt: skip
    made.set_gid(id)
    return made
