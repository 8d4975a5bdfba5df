"""How a run's figure looks: paper, words, axes, series and notes. What is left alone is decided by what is drawn."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from dosis.core.numbers import LARGEST
from dosis.run.record import Record

Text = Annotated[str, Field(max_length=2000)]
Millimeters = Annotated[float, Field(ge=20, le=1200)]
Points = Annotated[float, Field(ge=6, le=72)]  # below six points nothing is read in print
Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]
Purpose = Literal["column", "one_and_a_half", "page", "slide", "poster", "report"]
Kind = Literal["curve", "residuals", "answers", "wall"]
Color = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")]
Marker = Literal["circle", "square", "triangle", "diamond", "down", "cross", "plus", "star"]
Dash = Literal["solid", "dashed", "dotted", "dashdot"]


class Sheet(Record):
    """What a purpose asks of the paper: size in mm, text in points."""

    title: str
    width: float
    height: float
    size: float


SHEETS: dict[Purpose, Sheet] = {
    "column": Sheet(title="Journal column", width=85, height=64, size=8),
    "one_and_a_half": Sheet(title="One and a half columns", width=130, height=90, size=8),
    "page": Sheet(title="Journal page", width=175, height=110, size=9),
    "slide": Sheet(title="Slide, 16:9", width=254, height=142.875, size=18),
    "poster": Sheet(title="Poster", width=400, height=280, size=28),
    "report": Sheet(title="Half a page of a report", width=160, height=115, size=10),
}


class Paper(Record):
    """Size and ground of the figure; a width or height of its own stands in place of the purpose's."""

    purpose: Purpose = "column"
    width: Millimeters | None = None
    height: Millimeters | None = None
    dpi: Literal[150, 300, 600, 1200] = 300
    background: Literal["white", "none"] = "white"

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in mm."""
        sheet = SHEETS[self.purpose]
        return self.width or sheet.width, self.height or sheet.height


class Words(Record):
    """What is written, in the light notation; an empty axis title is made from what the axis shows.

    size : of the text in points, by default the purpose's. legend : where the names of series stand.
    """

    title: Text = ""
    x: Text = ""
    y: Text = ""
    legend_title: Text = ""
    face: Literal["sans", "serif"] = "sans"
    size: Points | None = None
    legend: Literal["auto", "lines", "inside", "right", "none"] = "auto"


class AxisLook(Record):
    """One axis. every : the distance of its ticks, on a log axis in decades; decimals : of its numbers."""

    low: Number | None = None
    high: Number | None = None
    scale: Literal["auto", "linear", "log"] = "auto"
    every: Annotated[float, Field(gt=0, le=LARGEST)] | None = None
    decimals: Annotated[int, Field(ge=0, le=9)] | None = None
    numbers: Literal["auto", "plain", "powers"] = "auto"

    @model_validator(mode="after")
    def _ends_apart(self) -> "AxisLook":
        if self.low is not None and self.high is not None and self.low >= self.high:
            raise ValueError("An axis has to end above where it begins.")
        return self


class Axes(Record):
    """Both axes, and how they are drawn."""

    x: AxisLook = AxisLook()
    y: AxisLook = AxisLook()
    frame: Literal["two", "closed"] = "two"
    ticks: Literal["out", "in", "none"] = "out"
    minor: bool = False
    grid: bool = False


class SeriesLook(Record):
    """One series, by its key; what is None follows all the others."""

    key: Annotated[str, Field(max_length=200)]
    shown: bool = True
    name: Annotated[str, Field(max_length=200)] | None = None
    color: Color | None = None
    marker: Marker | None = None
    dash: Dash | None = None


class Series(Record):
    """All series. `own` : those that differ, in the order in which they are drawn and listed.

    palette : "clear" and "deep" are told apart by color-blind eyes, too; "order" goes from dark to light.
    bars : what the error bars are. size, width : of markers and lines in points, by default from the text's.
    """

    draw: Literal["both", "points", "line"] = "both"
    palette: Literal["clear", "deep", "order", "gray"] = "clear"
    size: Annotated[float, Field(gt=0, le=40)] | None = None
    width: Annotated[float, Field(gt=0, le=20)] | None = None
    points: Literal["readings", "means"] = "readings"
    bars: Literal["none", "sd", "sem", "interval", "column"] = "none"
    cap: Annotated[float, Field(ge=0, le=40)] = 2.0
    one_sided: bool = False
    band: bool = False
    excluded: Literal["hollow", "off"] = "hollow"
    samples: bool = False
    own: Annotated[tuple[SeriesLook, ...], Field(max_length=2000)] = ()

    def of(self, key: str) -> SeriesLook:
        """How that series looks."""
        return next((each for each in self.own if each.key == key), SeriesLook(key=key))


class FreeNote(Record):
    """A text at a place of the axes, as fractions of their width and height; with an arrow where `to` is given."""

    text: Text
    x: Annotated[float, Field(ge=0, le=1)] = 0.5
    y: Annotated[float, Field(ge=0, le=1)] = 0.5
    to: tuple[Annotated[float, Field(ge=0, le=1)], Annotated[float, Field(ge=0, le=1)]] | None = None


class Notes(Record):
    """What is written onto the figure beside its words.

    marks : places of the curve with their names, such as half-effect doses. trust : the range of the standards.
    """

    equation: bool = False
    r_squared: bool = False
    count: bool = False
    digits: Annotated[int, Field(ge=2, le=9)] = 4
    marks: bool = False
    limits: bool = False
    trust: bool = False
    free: Annotated[tuple[FreeNote, ...], Field(max_length=30)] = ()


class FigureLook(Record):
    """The look of a figure. kind : what it shows of the run."""

    kind: Kind = "curve"
    paper: Paper = Paper()
    words: Words = Words()
    axes: Axes = Axes()
    series: Series = Series()
    notes: Notes = Notes()
    panels: bool = False  # each series in a panel of its own, lettered

    @property
    def text_size(self) -> float:
        """Of the text, in points."""
        return self.words.size or SHEETS[self.paper.purpose].size
