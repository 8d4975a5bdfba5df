"""A figure: what a run shows, drawn once, and written as SVG, PDF, PNG or TIFF of exactly the size asked for."""

import threading
from collections.abc import Sequence
from dataclasses import dataclass, replace

from matplotlib.artist import Artist

from dosis.output.figures.canvas import MM, Canvas, Placed
from dosis.output.figures.content import Content, Shown, contents_of
from dosis.output.figures.faces import ASCENT, broken
from dosis.output.figures.files import File, written
from dosis.output.figures.labels import legend, name_lines, notes, room_beside, ways_to_name
from dosis.output.figures.marks import draw_traces
from dosis.output.figures.panel import GAP, LINE, framed, lay_out, shown_traces
from dosis.output.figures.placing import Box
from dosis.output.figures.unit_setting import set_title
from dosis.run.look import FigureLook, Words

SMALLEST, SMALLER = 6.0, 0.88  # points below which nothing is read in print, and a step down to them
LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
_ONE_AT_A_TIME = threading.RLock()  # fonts and the settings of a file's kind are shared by all threads


@dataclass(frozen=True)
class Figure:
    """What is drawn, and how it looks.

    alt : what it shows, in a sentence, for those who cannot see it. others : how many other runs are on it.
    """

    contents: tuple[Content, ...]
    look: FigureLook
    alt: str = ""
    others: int = 0

    def file(self, kind: File, *, outlines: bool = False) -> bytes:
        """The file of that kind. outlines : in an SVG, letters as shapes rather than text."""
        with _ONE_AT_A_TIME:
            canvas = self._drawn()
            return written(canvas, self.look, kind, alt=self.alt, outlines=outlines)

    def svg(self) -> str:
        """As SVG, with text as text."""
        return self.file("svg").decode()

    def drawn_svg(self) -> tuple[str, list[str]]:
        """The SVG, and what did not fit in it."""
        with _ONE_AT_A_TIME:
            canvas = self._drawn()
            return written(canvas, self.look, "svg", alt=self.alt).decode(), canvas.remarks

    def texts(self) -> list[Placed]:
        """Every text as it is placed, in points."""
        with _ONE_AT_A_TIME:
            return self._drawn().placed

    def remarks(self) -> list[str]:
        """What did not fit, and what to do."""
        with _ONE_AT_A_TIME:
            return self._drawn().remarks

    def _repr_svg_(self) -> str:
        return self.svg()

    def _drawn(self) -> Canvas:
        """Drawn with the text as large as it is wanted, or as large as leaves room for the axes."""
        wanted = size = self.look.text_size
        canvas = self._at(size)
        while canvas.narrow and size > SMALLEST:
            size = max(size * SMALLER, SMALLEST)
            canvas = self._at(size)
        if size < wanted:
            across, down = self.look.paper.size
            canvas.remarks.append(
                f"Text of {wanted:g} pt leaves too little room for the axes on {across:g} × {down:g} mm, "
                f"so it is drawn at {size:.0f} pt. Make the paper larger."
            )
        return canvas

    def _at(self, size: float) -> Canvas:
        width, height = (each * MM for each in self.look.paper.size)
        canvas = Canvas(width, height, self.look.words.face, size, self.look.paper.background == "white")
        size, pad = canvas.size, 0.5 * canvas.size
        top = height - pad
        if self.look.words.title:
            for line in broken(self.look.words.title, size * 1.15, canvas.face, width - 2 * pad, 3):
                canvas.write("title", line, width / 2, top - ASCENT * size * 1.15, align="center", size=size * 1.15)
                top -= LINE * size * 1.15
            top -= GAP * size
        whole, panels = Box(pad, pad, width - 2 * pad, top - pad), self._panels()
        if self.look.kind == "wall" and len(panels) > 1:
            whole, panels = _titled(canvas, whole, panels, self.look)
        for i, (content, box) in enumerate(zip(panels, _grid(whole, len(panels), size), strict=True)):
            _draw(
                canvas, box, content, self.look, LETTERS[i % 26] if len(panels) > 1 and self.look.kind != "wall" else ""
            )
        return canvas

    def _panels(self) -> list[Content]:
        """Each series by itself where that is asked for, on one scale unless they are of different things."""
        apart = self.look.panels or self.look.kind == "wall"
        if len(self.contents) > 1 or not apart or len(self.contents[0].traces) < 2:
            return list(self.contents)
        content = self.contents[0]
        shown = shown_traces(content, self.look)
        if any(trace.y for trace in shown):
            return [replace(content, traces=(trace,), y=trace.y) for trace in shown]
        return [replace(content, traces=(trace,), scaled_by=shown) for trace in shown]


def _titled(canvas: Canvas, whole: Box, panels: list[Content], look: FigureLook) -> tuple[Box, list[Content]]:
    """The titles of the axes once for a whole wall; the room that is left, and panels without them."""
    size = canvas.size
    x, y = (set_title(typed) if typed else made for typed, made in (
        (look.words.x, panels[0].x), (look.words.y, panels[0].y),
    ))  # fmt: skip
    x, y = broken(x, size, canvas.face, whole.width, 1)[0], broken(y, size, canvas.face, whole.height, 1)[0]
    canvas.write("x-title", x, whole.left + whole.width / 2, whole.bottom + 0.21 * size, align="center")
    middle = whole.bottom + whole.height / 2
    canvas.write("y-title", y, whole.left + ASCENT * size, middle, align="center", upright=True)
    less = (LINE + GAP) * size
    room = Box(whole.left + less, whole.bottom + less, whole.width - less, whole.height - less)
    return room, [replace(content, x="", y="", titled=False) for content in panels]


def figure_of(run: Shown, look: FigureLook, others: Sequence[Shown] = ()) -> Figure:
    """The figure of a run, and of others on it."""
    contents, title = contents_of(run, look, others), run.title
    content = contents[0]
    names = [trace.name for trace in shown_traces(content, look) if trace.name]
    of = f" of {', '.join(names[:5])}{' and others' if len(names) > 5 else ''}" if names else ""
    alt = (
        f"{title}: {content.y or 'answers'} against {content.x or 'names'}{of}." if not content.empty else content.empty
    )
    if content.bars and not content.empty:
        alt += f" Bars: {content.bars}."
    return Figure(contents, look, alt, len(others))


def _grid(whole: Box, count: int, size: float) -> list[Box]:
    """So many panels side by side and under each other, each about as wide as it is high, or wider."""
    best = min(range(1, count + 1), key=lambda across: _waste(whole, count, across))
    down = -(-count // best)
    gap = size
    width, height = (whole.width - gap * (best - 1)) / best, (whole.height - gap * (down - 1)) / down
    return [
        Box(
            whole.left + (i % best) * (width + gap),
            whole.top - (i // best + 1) * height - (i // best) * gap,
            width,
            height,
        )
        for i in range(count)
    ]


def _waste(whole: Box, count: int, across: int) -> float:
    down = -(-count // across)
    ratio = (whole.width / across) / (whole.height / down)
    empty = across * down - count
    return abs(ratio - 1.3) + 0.15 * empty


def _draw(canvas: Canvas, outer: Box, content: Content, look: FigureLook, letter: str) -> None:
    size = canvas.size
    if letter:
        canvas.write("letter", f"**{letter}**", outer.left, outer.top - ASCENT * size * 1.15, size=size * 1.15)
        outer = Box(outer.left, outer.bottom, outer.width, outer.height - LINE * size)
    if content.empty:
        _say(canvas, outer, content.empty)
        return
    alone = len(content.traces) == 1
    if content.title:
        line = broken(content.title, size, canvas.face, outer.width - 2 * size, 1)[0]
        canvas.write("panel-title", line, outer.left + 1.4 * size, outer.top + 0.3 * size)
    elif alone and content.traces[0].name and (letter or look.kind == "wall"):
        left = outer.left + (1.4 * size if letter else 0)
        for line in broken(content.traces[0].name, size, canvas.face, outer.width - 2 * size, 1):
            canvas.write("panel-title", line, left, outer.top + (0.3 * size if letter else -ASCENT * size))
        if not letter:
            outer = Box(outer.left, outer.bottom, outer.width, outer.height - LINE * size)
        look = _unnamed(look)
    if content.lost:
        canvas.remarks.append(content.lost)
    ways = ways_to_name(canvas, content, look, outer)
    placed, remarks = len(canvas.placed), len(canvas.remarks)
    for how in ways:
        # A legend that finds no place inside stands beside the axes, which are then laid out anew.
        del canvas.placed[placed:], canvas.remarks[remarks:]
        before = {id(each) for each in _drawn_on(canvas)}
        right = room_beside(canvas, content, look, outer, how)
        panel = lay_out(canvas, outer, content, look, right=right)
        axes = framed(panel, look)
        draw_traces(panel, axes, content, look)
        done = how == "none" or (
            name_lines(panel, look, outer) if how == "lines" else legend(panel, look, outer, beside=how == "right")
        )
        if done or how == ways[-1]:
            notes(panel, look, alone=alone, compared=content.compared)
            return
        for each in [each for each in _drawn_on(canvas) if id(each) not in before]:
            each.remove()


def _drawn_on(canvas: Canvas) -> list[Artist]:
    return [*canvas.figure.texts, *canvas.figure.artists, *canvas.figure.axes]


def _unnamed(look: FigureLook) -> FigureLook:
    words: Words = look.words.model_copy(update={"legend": "none"})
    return look.model_copy(update={"words": words})


def _say(canvas: Canvas, outer: Box, text: str) -> None:
    """In the place of a figure, why there is none."""
    lines = broken(text, canvas.size, canvas.face, 0.9 * outer.width)
    top = outer.bottom + outer.height / 2 + len(lines) * LINE * canvas.size / 2
    for i, line in enumerate(lines):
        at = top - (i + 1) * LINE * canvas.size
        canvas.write("empty", line, outer.left + outer.width / 2, at, align="center")
