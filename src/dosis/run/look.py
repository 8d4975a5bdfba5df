"""How a run's figure looks: paper, words, axes, series and notes. What is left alone is decided by what is drawn."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from dosis.core.numbers import LARGEST
from dosis.run.record import Record
from dosis.run.steps.step import Changed

Text = Annotated[str, Field(max_length=2000)]
Millimeters = Annotated[float, Field(ge=20, le=1200)]
Points = Annotated[float, Field(ge=6, le=72)]  # below six points nothing is read in print
Share = Annotated[float, Field(ge=0, le=1)]
Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]
Purpose = Literal["column", "one_and_a_half", "page", "slide", "poster", "report"]
Kind = Literal["curve", "residuals", "answers", "wall", "before_after", "over_time", "scans"]
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
    """A text at a place of the axes, as fractions of their width and height; with an arrow to another, if given."""

    text: Text
    x: Share = 0.5
    y: Share = 0.5
    to_x: Share | None = None
    to_y: Share | None = None


class Notes(Record):
    """What is written onto the figure beside its words.

    marks : places of the curve with their names, such as half-effect doses, and samples dropped to the axes.
    limits : LOD and LOQ. trust : the range of the standards. comparison : what series beside each other come to.
    """

    equation: bool = False
    r_squared: bool = False
    count: bool = False
    digits: Annotated[int, Field(ge=2, le=9)] = 4
    marks: bool = False
    limits: bool = False
    trust: bool = False
    comparison: bool = False
    free: Annotated[tuple[FreeNote, ...], Field(max_length=30)] = ()


class OtherRun(Record):
    """Another run on the same figure, in one of its revisions."""

    run: int
    revision: Annotated[int, Field(ge=1)]


class FigureLook(Record):
    """The look of a figure.

    kind : what it shows of the run; "before_after" is before and after normalizing, "over_time" lethal doses
        against the time of exposure, "scans" every column that was read against x. others : runs that are drawn with
    it, over it or in panels beside it. panels : whether each series has a panel of its own, lettered.
    """

    kind: Kind = "curve"
    others: Annotated[tuple[OtherRun, ...], Field(max_length=24)] = ()
    arrange: Literal["over", "beside"] = "over"
    paper: Paper = Paper()
    words: Words = Words()
    axes: Axes = Axes()
    series: Series = Series()
    notes: Notes = Notes()
    panels: bool = False

    @property
    def text_size(self) -> float:
        """Of the text, in points."""
        return self.words.size or SHEETS[self.paper.purpose].size


class Style(Record):
    """A look without what belongs to one figure: no words, ends of axes, names or notes of its own."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    look: FigureLook


def style_of(name: str, look: FigureLook) -> Style:
    """What of a look can be applied to any figure."""
    words = look.words.model_copy(update={"title": "", "x": "", "y": "", "legend_title": ""})
    axes = look.axes.model_copy(update={side: _endless(getattr(look.axes, side)) for side in ("x", "y")})
    series = look.series.model_copy(update={"own": ()})
    notes = look.notes.model_copy(update={"free": ()})
    kept = {"words": words, "axes": axes, "series": series, "notes": notes, "kind": "curve", "others": ()}
    return Style(name=name, look=look.model_copy(update=kept))


def styled(look: FigureLook, style: Style) -> FigureLook:
    """A look with a style applied; what is its own stays."""
    new = style.look
    words = {name: getattr(look.words, name) for name in ("title", "x", "y", "legend_title")}
    axes = {
        side: getattr(new.axes, side).model_copy(update={
            name: getattr(getattr(look.axes, side), name) for name in ("low", "high", "scale", "every", "decimals")
        })
        for side in ("x", "y")
    }  # fmt: skip
    return look.model_copy(update={
        "paper": new.paper, "words": new.words.model_copy(update=words), "axes": new.axes.model_copy(update=axes),
        "series": new.series.model_copy(update={"own": look.series.own}),
        "notes": new.notes.model_copy(update={"free": look.notes.free}), "panels": new.panels,
    })  # fmt: skip


def _endless(axis: AxisLook) -> AxisLook:
    return AxisLook(numbers=axis.numbers)


def told(before: FigureLook | None, after: FigureLook | None) -> list[Changed]:
    """What is not the same in two looks."""
    old, new = (_flat((look or FigureLook()).model_dump(mode="json"), "") for look in (before, after))
    return [
        Changed(f"Figure · {name}", _said(old.get(name)), _said(new.get(name)))
        for name in {**old, **new}
        if old.get(name) != new.get(name)
    ]


def _flat(part: dict[str, Any], above: str) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in part.items():
        called = f"{above} {name.replace('_', ' ')}".strip()
        found |= _flat(value, called) if isinstance(value, dict) else {called: value}
    return found


def _said(value: Any) -> str:
    if isinstance(value, list):
        return "; ".join(", ".join(_said(v) for v in each.values() if v not in (None, "")) for each in value)
    if isinstance(value, bool):
        return "on" if value else "off"
    return "by itself" if value is None else str(value)
