"""The paper a figure is drawn on, measured in points from its lower left corner; every text is set by our own faces."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from matplotlib.axes import Axes
from matplotlib.figure import Figure
from matplotlib.lines import Line2D

from dosis.output.figures.faces import Face, font, set_text
from dosis.output.figures.placing import Box

INK = "#20242c"
MM = 72 / 25.4  # points in a millimeter


@dataclass(frozen=True)
class Placed:
    """A text that was set: what it is part of, its words as typed, and the room it takes."""

    id: str
    text: str
    box: Box


@dataclass
class Canvas:
    """A figure of a width and height in points, its face and its size of text.

    placed : all texts, so that what overlaps can be found. remarks : what a person should know of the figure.
    narrow : whether the text leaves too little room for some axes.
    """

    width: float
    height: float
    face: Face
    size: float
    white: bool = True
    placed: list[Placed] = field(default_factory=list)
    remarks: list[str] = field(default_factory=list)
    narrow: bool = False

    def __post_init__(self) -> None:
        self.figure = Figure(figsize=(self.width / 72, self.height / 72), dpi=72)
        self.figure.patch.set_facecolor("white")
        self.figure.patch.set_alpha(1.0 if self.white else 0.0)
        self.figure.patch.set_gid("paper")

    def axes(self, box: Box) -> Axes:
        """Axes over a rectangle, without any text of their own."""
        made = self.figure.add_axes(
            (box.left / self.width, box.bottom / self.height, box.width / self.width, box.height / self.height)
        )
        made.patch.set_alpha(0.0)
        return made

    def write(
        self, id: str, text: str, x: float, y: float, *, align: str = "left", upright: bool = False,
        size: float | None = None, color: str = INK,
    ) -> Box:  # fmt: skip
        """Set a text with the beginning, middle or end of its line at a place.

        upright : from below to above, as the title of a y axis; `x` is then the line it stands on.
        """
        size = size or self.size
        made = set_text(text, size, self.face)
        back = {"left": 0.0, "center": made.width / 2, "right": made.width}[align]
        for i, each in enumerate(made.pieces):
            along, above = each.along - back, each.above
            left, bottom = (x - above, y + along) if upright else (x + along, y + above)
            written = self.figure.text(
                left / self.width, bottom / self.height, each.piece.text, color=color, ha="left", va="baseline",
                rotation=90 if upright else 0, rotation_mode="anchor", parse_math=False,
                fontproperties=font(self.face, each.piece.bold, each.piece.italic),
            )  # fmt: skip
            written.set_fontsize(each.size)
            written.set_gid(f"{id}.{i}")
        box = (
            Box(x - made.ascent, y - back, made.ascent + made.descent, made.width) if upright else
            Box(x - back, y - made.descent, made.width, made.ascent + made.descent)
        )  # fmt: skip
        if made.width:
            self.placed.append(Placed(id, text, box))
        return box

    def line(
        self, x: Sequence[float], y: Sequence[float], *, width: float, color: str = INK, id: str = "",
        dash: object = "-", marker: str = "", size: float = 0.0, face: str = "none",
    ) -> None:  # fmt: skip
        """A line, or a marker, at places of the paper."""
        made = Line2D(
            [each / self.width for each in x], [each / self.height for each in y], linewidth=width, color=color,
            transform=self.figure.transFigure, linestyle=dash, marker=marker or "none", markersize=size,  # type: ignore[arg-type]
            markerfacecolor=face, markeredgecolor=color, markeredgewidth=width, solid_capstyle="butt",
        )  # fmt: skip
        if id:
            made.set_gid(id)
        self.figure.add_artist(made)
