"""One panel of a figure: its axes laid out by what is written on them, then what it shows, then its labels."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from matplotlib.axes import Axes
from matplotlib.ticker import NullFormatter

from dosis.output.figures.canvas import INK, Canvas
from dosis.output.figures.content import Content, Trace
from dosis.output.figures.faces import ASCENT, DESCENT, broken, set_text
from dosis.output.figures.looks import Look, looks_of
from dosis.output.figures.placing import Box, Room
from dosis.output.figures.ticks import Scale, Tick, scaled
from dosis.output.figures.unit_setting import set_title
from dosis.run.look import AxisLook, FigureLook

GAP, LINE = 0.45, 1.22  # between parts, and from line to line, of the size of the text
TICK = 0.38  # length of a tick, of the size of the text
NeededBy = Callable[[Tick], float]  # points of an axis that a tick's number needs
NARROW = 0.4  # of the paper: axes below leave the figure to its text
LEAST = 8.0  # points of an axis, however little room there is
THIN = 0.09  # width of axes, of the size of the text


@dataclass
class Panel:
    """Where the axes stand, and their scales."""

    canvas: Canvas
    box: Box
    x: Scale
    y: Scale
    room: Room
    traces: tuple[Trace, ...]
    looks: dict[str, Look]

    def at(self, x: float, y: float) -> tuple[float, float]:
        """A place of the data on the paper; NaN where it cannot stand."""
        return (
            self.box.left + self.x.fraction(x) * self.box.width, self.box.bottom + self.y.fraction(y) * self.box.height
        )  # fmt: skip

    def inside(self, x: float, y: float) -> bool:
        """Whether a place of the data is within the axes."""
        across, up = self.x.fraction(x), self.y.fraction(y)
        return -1e-9 <= across <= 1 + 1e-9 and -1e-9 <= up <= 1 + 1e-9


def shown_traces(content: Content, look: FigureLook) -> tuple[Trace, ...]:
    """The series that are drawn, as they are called and in the order that was chosen."""
    order = {each.key: i for i, each in enumerate(look.series.own)}
    sorted_traces = sorted(content.traces, key=lambda trace: order.get(trace.key, len(order)))
    named = []
    for trace in sorted_traces:
        own = look.series.of(trace.key)
        if own.shown:
            named.append(trace if own.name is None else replace(trace, name=own.name))
    return tuple(named)


def lay_out(canvas: Canvas, outer: Box, content: Content, look: FigureLook, *, right: float = 0.0) -> Panel:
    """The axes within a rectangle, which also holds their numbers and titles.

    right : points to keep free beside the axes, for names of series.
    """
    size, traces = canvas.size, shown_traces(content, look)
    names = _names(canvas, content, outer)
    x_title, y_title = (
        (set_title(typed) if typed else made) if content.titled else ""
        for typed, made in ((look.words.x, content.x), (look.words.y, content.y))
    )  # fmt: skip
    y_lines = broken(y_title, size, canvas.face, outer.height - size) if y_title else ()
    x_lines = broken(x_title, size, canvas.face, outer.width - 4 * size) if x_title else ()
    reach = TICK * size if look.axes.ticks == "out" else 0.0
    below = reach + GAP * size + LINE * size * (1 + len(x_lines)) + (GAP * size if x_lines else 0)
    xs, ys = _extent(content, content.scaled_by or traces, look)
    height = max(outer.height - below - size, LEAST)
    y = names[1] if names else _fitted(ys, look.axes.y, False, height, lambda tick: LINE * size * 1.4, 6)
    widest = max([set_text(t.text, names[0] if names else size, canvas.face).width for t in y.ticks], default=0.0)
    left = LINE * size * len(y_lines) + (GAP * size if y_lines else 0) + widest + GAP * size + reach
    top = LINE * size if y.power else 0.5 * size
    width = max(outer.width - left - right - 0.6 * size, LEAST)
    x = _fitted(
        xs, look.axes.x, content.log, width,
        lambda tick: set_text(tick.text, size, canvas.face).width + 0.8 * size, 7,
    )  # fmt: skip
    # The last number may reach beyond the end of its axis.
    last = max([x.fraction(t.at) * width + set_text(t.text, size, canvas.face).width / 2 for t in x.ticks], default=0.0)
    width = max(min(width, width - (last - width - right - 0.4 * size)), LEAST)
    box = Box(outer.left + left, outer.bottom + below, width, max(outer.height - below - top, LEAST))
    canvas.narrow |= box.width < NARROW * outer.width or box.height < NARROW * outer.height
    panel = Panel(canvas, box, x, y, Room(box), traces, looks_of([trace.key for trace in content.traces], look.series))
    _write_axes(panel, outer, x_lines, y_lines, look, names[0] if names else size)
    return panel


def _fitted(
    values: Sequence[float], look: AxisLook, log: bool, length: float, room_of: NeededBy, most: int
) -> Scale:  # fmt: skip
    """The scale with as many ticks as stand beside each other."""
    for room in range(most, 1, -1):
        made = _zero_apart(scaled(values, look, log=log, room=room), length, room_of)
        places = [made.fraction(tick.at) * length for tick in made.ticks]
        needs = [room_of(tick) for tick in made.ticks]
        if all(b - a >= (m + n) / 2 for a, b, m, n in zip(places, places[1:], needs, needs[1:], strict=False)):
            return made
    return replace(made, ticks=_thinned(made, length, room_of))


def _zero_apart(scale: Scale, length: float, room_of: NeededBy) -> Scale:
    """On a broken axis, without the first number where it would touch that of the zero."""
    if scale.zero_at is None or len(scale.ticks) < 3:
        return scale
    zero, first = scale.ticks[:2]
    near = (scale.fraction(first.at) - scale.fraction(zero.at)) * length < (room_of(zero) + room_of(first)) / 2
    return replace(scale, ticks=(zero, *scale.ticks[2:])) if near else scale


def _thinned(scale: Scale, length: float, room_of: NeededBy) -> tuple[Tick, ...]:
    """Ticks of which none touches the next: what was asked for may be more than there is place for."""
    kept: list[Tick] = []
    for tick in scale.ticks:
        far = length if not kept else (scale.fraction(tick.at) - scale.fraction(kept[-1].at)) * length
        if far >= room_of(tick):
            kept.append(tick)
    return tuple(kept)


def _names(canvas: Canvas, content: Content, outer: Box) -> tuple[float, Scale] | None:
    """The size of the names on a y axis of names, and the axis."""
    if not content.names:
        return None
    count = len(content.names)
    size = max(min(canvas.size, 0.8 * (outer.height - 4 * canvas.size) / count), min(6.0, canvas.size))
    fit = max(int((outer.height - 4 * canvas.size) / (1.12 * size)), 1)
    every = -(-count // fit)
    if every > 1:
        canvas.remarks.append(f"There is room for {-(-count // every)} of {count} names. Make the paper higher.")
    longest = 0.4 * outer.width
    ticks = [
        Tick(-float(i), broken(name, size, canvas.face, longest, 1)[0])
        for i, name in enumerate(content.names) if i % every == 0
    ]  # fmt: skip
    return size, Scale(-count + 0.3, 0.7, False, tuple(ticks))


def _extent(content: Content, traces: Sequence[Trace], look: FigureLook) -> tuple[list[float], list[float]]:
    """All places that the axes have to hold."""
    xs, ys = [], []
    for trace in traces:
        dots = [dot for dot in trace.dots if not (dot.excluded and look.series.excluded == "off")]
        if look.series.draw != "line" or not trace.line:
            xs += [dot.x for dot in dots]
            ys += [dot.y for dot in dots]
            ends = [end for dot in dots for end in (dot.low, dot.high) if end is not None]
            (xs if content.names else ys).extend(ends)
        if look.series.draw != "points":
            xs += [x for x, _ in trace.line if not content.log or x > 0]
            ys += [y for x, y in trace.line if not content.log or x > 0]
        if look.series.band:
            ys += [end for _, low, high in trace.band for end in (low, high)]
        if look.series.samples:
            xs += [x for x, _, _ in trace.samples]
            ys += [y for _, y, _ in trace.samples]
    if content.zero_line:
        ys.append(0.0)
    low, high = look.axes.x.low, look.axes.x.high
    if (low is not None or high is not None) and not content.names:
        # What stands beyond the ends that were chosen says nothing of the other axis.
        kept = _within(traces, look, low, high)
        ys = kept or ys
    return xs, ys


def _within(traces: Sequence[Trace], look: FigureLook, low: float | None, high: float | None) -> list[float]:
    places = [(dot.x, end) for trace in traces for dot in trace.dots for end in (dot.y, dot.low, dot.high)]
    if look.series.draw != "points":
        places += [place for trace in traces for place in trace.line]
    return [
        y for x, y in places if y is not None and (low is None or x >= low) and (high is None or x <= high)
    ]  # fmt: skip


def _write_axes(
    panel: Panel, outer: Box, x_lines: Sequence[str], y_lines: Sequence[str], look: FigureLook, y_size: float
) -> None:
    canvas, box, size = panel.canvas, panel.box, panel.canvas.size
    reach = TICK * size if look.axes.ticks == "out" else 0.0
    baseline = box.bottom - reach - GAP * size - ASCENT * size
    for tick in panel.x.ticks:
        at = box.left + panel.x.fraction(tick.at) * box.width
        canvas.write("x-ticks", tick.text, at, baseline, align="center")
    for tick in panel.y.ticks:
        at = box.bottom + panel.y.fraction(tick.at) * box.height - (ASCENT - DESCENT) * y_size / 2
        canvas.write("y-ticks", tick.text, box.left - reach - GAP * size, at, align="right", size=y_size)
    line = baseline - DESCENT * size - GAP * size - ASCENT * size
    for text in x_lines:
        canvas.write("x-title", text, box.left + box.width / 2, line, align="center")
        line -= LINE * size
    across = outer.left + ASCENT * size
    for text in y_lines:
        middle = box.bottom + box.height / 2
        half = set_text(text, size, canvas.face).width / 2
        middle = min(max(middle, outer.bottom + half), outer.top - half)
        canvas.write("y-title", text, across, middle, align="center", upright=True)
        across += LINE * size
    if panel.y.power:
        canvas.write("y-power", _power(panel.y), box.left, box.top + 0.4 * size)
    if panel.x.power:
        canvas.write("x-power", _power(panel.x), box.right, line if x_lines else baseline - LINE * size, align="right")


def _power(scale: Scale) -> str:
    return f"× 10^{{{str(scale.power).replace('-', '−')}}}"


def framed(panel: Panel, look: FigureLook) -> Axes:
    """The axes drawn: lines, ticks, grid, and the break before a zero on a log axis."""
    canvas, size, axes = panel.canvas, panel.canvas.size, panel.canvas.axes(panel.box)
    axes.set_gid("axes")
    for scale, set_scale, set_ends, axis in (
        (panel.x, axes.set_xscale, axes.set_xlim, axes.xaxis), (panel.y, axes.set_yscale, axes.set_ylim, axes.yaxis),
    ):  # fmt: skip
        set_scale("log" if scale.log else "linear")
        set_ends(scale.low, scale.high)
        axis.set_ticks([tick.at for tick in scale.ticks], labels=[""] * len(scale.ticks))
        axis.set_ticks(list(scale.minor) if look.axes.minor else [], labels=None, minor=True)
        axis.set_minor_formatter(NullFormatter())
    length = 0.0 if look.axes.ticks == "none" else TICK * size
    direction = "in" if look.axes.ticks == "in" else "out"
    axes.tick_params(which="major", length=length, width=THIN * size, color=INK, direction=direction)
    axes.tick_params(which="minor", length=length / 2, width=THIN * size * 0.8, color=INK, direction=direction)
    if look.axes.grid:
        axes.grid(visible=True, color="#dfdcd4", linewidth=THIN * size * 0.8)
    axes.set_axisbelow(True)
    for side, spine in axes.spines.items():
        spine.set_linewidth(THIN * size)
        spine.set_color(INK)
        spine.set_visible(look.axes.frame == "closed" or side in ("left", "bottom"))
    if panel.x.zero_at is not None:
        _break(panel, canvas, size)
    return axes


def _break(panel: Panel, canvas: Canvas, size: float) -> None:
    """Two strokes across the axis where it jumps to zero."""
    zero = panel.x.zero_at or 0.0
    first = min([tick.at for tick in panel.x.ticks if tick.at > zero], default=zero * 4)
    at = (
        panel.box.left
        + (panel.x.fraction(zero) + 0.42 * (panel.x.fraction(first) - panel.x.fraction(zero))) * panel.box.width
    )
    bottom, half = panel.box.bottom, 0.3 * size
    canvas.line(
        [at - 0.12 * size, at + 0.12 * size], [bottom, bottom], width=THIN * size * 2.4, color="white", id="break"
    )
    for shift in (-0.12 * size, 0.12 * size):
        canvas.line(
            [at + shift - half / 2, at + shift + half / 2],
            [bottom - half, bottom + half],
            width=THIN * size,
            id="break",
        )
