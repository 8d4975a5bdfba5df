"""Figures as files: exact sizes, faces embedded, text as text; labels that cover nothing; and odd input."""

import csv
import io
import itertools
import math
import random
import re
from xml.etree import ElementTree

import pytest
from PIL import Image
from pypdf import PdfReader

from dosis.demo import diatom
from dosis.intake.understand import understand
from dosis.output.figures.content import Content, Dot, Shown, Trace
from dosis.output.figures.figure import Figure, figure_of
from dosis.output.figures.files import File, TooLarge
from dosis.output.figures.numbers import as_csv
from dosis.output.figures.placing import Box
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.look import (
    SHEETS,
    Axes,
    AxisLook,
    FigureLook,
    FreeNote,
    Notes,
    Paper,
    Series,
    SeriesLook,
    Words,
    style_of,
    styled,
)  # fmt: skip
from dosis.run.method import default_method
from dosis.run.opening import opened
from tests.tables import PHOSPHATE

SVG = "{http://www.w3.org/2000/svg}"
MM = 72 / 25.4


def phosphate(table: str = PHOSPHATE) -> Shown:
    intake = understand(table)
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, intake.layout, default_method("concentration"))
    return Shown("Phosphate", outcome, intake.layout)


def curves(count: int, seed: int = 1, *, log: bool = False, names: str = "Lot {}") -> Content:
    """So many falling or rising series with scatter."""
    rng = random.Random(seed)
    traces = []
    for i in range(count):
        middle, slope, top = rng.uniform(0.2, 0.8), rng.choice([-1, 1]) * rng.uniform(3, 12), rng.uniform(0.5, 1.5)

        def y(at: float, m: float = middle, s: float = slope, t: float = top) -> float:
            return t / (1 + math.exp(-s * (at - m) * 2))

        grid = [k / 50 for k in range(51)]
        xs = [10 ** (4 * at - 2) if log else 100 * at for at in grid]
        dots = [
            Dot(xs[k], y(grid[k]) + rng.gauss(0, 0.03), excluded=rng.random() < 0.05, low=None, high=None)
            for k in range(0, 51, rng.choice([4, 7, 10]))
        ]
        line = tuple((x, y(at)) for x, at in zip(xs, grid, strict=True))
        marks = ((xs[25], y(0.5), "IC50 12"),)
        traces.append(Trace(
            key=f"s{i}", name=names.format(i + 1), dots=tuple(dots), line=line, count=len(dots),
            equation="*y* = 1 + *x*^2", r_squared="0.998", marks=marks,
        ))  # fmt: skip
    return Content(tuple(traces), "Dose / mg L^{−1}", "Response / %", log=log)


def drawn(figure: Figure) -> tuple[ElementTree.Element, list[tuple[float, float]]]:
    """The SVG, and the places of all points and lines of series in points from the lower left."""
    tree = ElementTree.fromstring(figure.svg())
    height = float(tree.attrib["viewBox"].split()[3])
    places = []
    for group in tree.iter(f"{SVG}g"):
        if re.match(r"series-\d+-(points|excluded)", group.attrib.get("id", "")):
            places += [(float(u.attrib["x"]), height - float(u.attrib["y"])) for u in group.iter(f"{SVG}use")]
        if re.match(r"series-\d+-line", group.attrib.get("id", "")):
            for path in group.iter(f"{SVG}path"):
                numbers = [float(n) for n in re.findall(r"-?\d+\.?\d*(?:e-?\d+)?", path.attrib["d"])]
                places += [(x, height - y) for x, y in zip(numbers[::2], numbers[1::2], strict=True)]
    return tree, places


@pytest.mark.parametrize("seed", range(30))
def test_labels_cover_neither_each_other_nor_the_data(seed: int) -> None:
    rng = random.Random(seed)
    look = FigureLook(
        paper=Paper(purpose=rng.choice(list(SHEETS))),
        words=Words(title=rng.choice(["", "A title of the figure"]), face=rng.choice(["sans", "serif"]),
                    legend=rng.choice(["auto", "inside", "right", "lines"])),
        axes=Axes(frame=rng.choice(["two", "closed"]), ticks=rng.choice(["in", "out"])),
        notes=Notes(equation=rng.random() < 0.5, r_squared=rng.random() < 0.5, marks=rng.random() < 0.3),
        panels=rng.random() < 0.2,
    )  # fmt: skip
    figure = Figure((curves(rng.randint(1, 6), seed, log=rng.random() < 0.5),), look)
    texts, (_, places) = figure.texts(), drawn(figure)
    width, height = (each * MM for each in look.paper.size)
    for text in texts:
        box = text.box
        assert box.left >= -1 and box.bottom >= -1 and box.right <= width + 1 and box.top <= height + 1, text
    for one, other in itertools.combinations(texts, 2):
        # Lines of one text may touch: what counts is the height of their letters.
        low = Box(one.box.left, one.box.bottom + 0.15 * one.box.height, one.box.width, 0.7 * one.box.height)
        assert not low.overlaps(other.box), (one, other)
    for text in texts:
        box = text.box
        inner = Box(box.left, box.bottom, box.width, box.height)
        assert not [p for p in places if inner.left < p[0] < inner.right and inner.bottom < p[1] < inner.top], text


@pytest.mark.parametrize("purpose", list(SHEETS))
@pytest.mark.parametrize("dpi", [150, 300])
def test_files_are_exactly_as_large_as_asked_for(purpose: str, dpi: int) -> None:
    look = FigureLook(paper=Paper(purpose=purpose, dpi=dpi))
    figure, (width, height) = Figure((curves(2),), look), look.paper.size
    for kind in ("png", "tiff"):
        image = Image.open(io.BytesIO(figure.file(kind)))
        assert image.size == (round(width / 25.4 * dpi), round(height / 25.4 * dpi))
        assert [round(float(each)) for each in image.info["dpi"]] == [dpi, dpi]
        assert image.mode == "RGB"
    box = PdfReader(io.BytesIO(figure.file("pdf"))).pages[0].mediabox
    assert (float(box.width) / MM, float(box.height) / MM) == pytest.approx((width, height), abs=0.01)
    tree = ElementTree.fromstring(figure.svg())
    assert (tree.attrib["width"], tree.attrib["height"]) == (f"{width:g}mm", f"{height:g}mm")


def test_a_size_of_ones_own_and_a_transparent_ground() -> None:
    look = FigureLook(paper=Paper(width=85, height=60, dpi=600, background="none"))
    image = Image.open(io.BytesIO(Figure((curves(1),), look).file("tiff")))
    assert image.size == (2008, 1417) and image.mode == "RGBA"
    assert image.getpixel((1, 1))[3] == 0
    assert image.tag_v2[259] == 5 and image.tag_v2[282] == 600  # LZW, and the resolution of the tags


def test_gray_is_gray_and_series_differ_by_shape() -> None:
    figure = Figure((curves(3),), FigureLook(series=Series(palette="gray")))
    assert Image.open(io.BytesIO(figure.file("tiff"))).mode == "L"
    tree, _ = drawn(figure)
    shapes = {
        path.attrib["d"]
        for d in tree.iter(f"{SVG}defs")
        for path in d.iter(f"{SVG}path")
        if "C" in path.attrib["d"] or "L" in path.attrib["d"]
    }
    assert len(shapes) >= 3


@pytest.mark.parametrize(("face", "name"), [("sans", "LiberationSans"), ("serif", "LiberationSerif")])
def test_a_pdf_embeds_its_faces_and_its_text_is_text(face: str, name: str) -> None:
    look = FigureLook(words=Words(face=face, title="Growth of *Skeletonema*", y="Rate / umol L-1"))
    page = PdfReader(io.BytesIO(Figure((curves(2),), look).file("pdf"))).pages[0]
    fonts = [each.get_object() for each in page["/Resources"]["/Font"].values()]
    assert fonts
    for each in fonts:
        assert name in each["/BaseFont"]
        descendant = each["/DescendantFonts"][0].get_object() if "/DescendantFonts" in each else each
        assert "/FontFile2" in descendant["/FontDescriptor"]
    text = page.extract_text()
    assert "Growth of" in text and "Skeletonema" in text and "Lot 2" in text
    assert "/XObject" not in page["/Resources"] or not any(
        each.get_object().get("/Subtype") == "/Image" for each in page["/Resources"]["/XObject"].values()
    )


def test_an_svg_has_text_as_text_or_as_outlines() -> None:
    figure = Figure((curves(2),), FigureLook(words=Words(title="Two lots")))
    as_text, outlines = figure.svg(), figure.file("svg", outlines=True).decode()
    assert "Two lots" in as_text and "Liberation Sans" in as_text and "Arial" in as_text
    assert "<text" not in outlines and "Two lots" not in re.sub(r"<!--.*?-->", "", outlines)
    assert "DOCTYPE" not in as_text
    assert figure.svg() == as_text  # the same figure gives the same bytes


@pytest.mark.parametrize("kind", ["svg", "pdf", "png", "tiff"])
@pytest.mark.parametrize("content", [
    Content((), "x", "y", empty="There is nothing to draw yet."),
    Content((Trace("a", "one", dots=(Dot(1, 1),)),), "x", "y"),
    Content((Trace("a", "one", dots=(Dot(0, 0), Dot(0, 0))),), "x", "y", log=True),
    Content((Trace("a", "", line=((0, 1e300), (1, -1e300))),), "x", "y"),
    Content((Trace("a", "b" * 200, dots=(Dot(1e-300, 1e-12), Dot(2e-300, 2e-12))),), "x" * 300, "y" * 2000),
    Content((Trace("a", "岸 <b> & “x”", dots=(Dot(1, 2), Dot(2, 3))),), "$x^2$", "<script>alert(1)</script>"),
])  # fmt: skip
def test_odd_figures_are_good_figures(kind: File, content: Content) -> None:
    look = FigureLook(words=Words(title="T " * 1000), notes=Notes(equation=True, count=True))
    data = Figure((content,), look).file(kind)
    if kind == "svg":
        tree = ElementTree.fromstring(data)
        assert not list(tree.iter(f"{SVG}script")) and not [
            e for e in tree.iter() if any(a.startswith("on") for a in e.attrib)
        ]
    elif kind == "pdf":
        assert len(PdfReader(io.BytesIO(data)).pages) == 1
    else:
        Image.open(io.BytesIO(data)).verify()


def test_ten_thousand_points_and_two_hundred_series() -> None:
    rng = random.Random(3)
    cloud = Trace("a", "", dots=tuple(Dot(rng.random(), rng.random()) for _ in range(10_000)))
    assert Figure((Content((cloud,), "x", "y"),), FigureLook()).file("png").startswith(b"\x89PNG")
    many = Figure((curves(200),), FigureLook())
    assert any("room for" in remark for remark in many.remarks())
    assert next(text.text for text in many.texts() if text.id == "legend-more").endswith("more")


def test_more_dots_than_can_be_made_are_refused_with_the_way_out() -> None:
    look = FigureLook(paper=Paper(purpose="poster", dpi=1200))
    with pytest.raises(TooLarge, match=r"18,898 × 13,228 dots.*fewer dots per inch.*PDF"):
        Figure((curves(1),), look).file("png")


@pytest.mark.parametrize("size", [0, 5.9, 72.1])
def test_text_that_nobody_reads_is_refused(size: float) -> None:
    with pytest.raises(ValueError, match="size"):
        Words(size=size)


def test_text_too_large_for_its_paper_is_said() -> None:
    assert Figure((curves(2),), FigureLook()).remarks() == []
    figure = Figure((curves(2),), FigureLook(words=Words(size=40)))
    assert re.search(r"Text of 40 pt leaves too little room.*85 × 64 mm.*drawn at \d+ pt", figure.remarks()[0])
    assert all(text.box.left >= 0 and text.box.right <= 85 * MM for text in figure.texts())


def test_choices_are_seen_in_the_drawing() -> None:
    look = FigureLook(
        series=Series(bars="sd", points="means", band=True, own=(
            SeriesLook(key="s1", name="*second*"), SeriesLook(key="s0", shown=False),
        )),
        axes=Axes(x=AxisLook(low=0, high=50, every=10), frame="closed", ticks="none"),
        notes=Notes(count=True, free=(FreeNote(text="here", x=0.2, y=0.2, to_x=0.5, to_y=0.5),)),
        words=Words(legend="inside", legend_title="Lots"),
    )  # fmt: skip
    figure = Figure((curves(3),), look)
    said = {text.id: text.text for text in figure.texts()}
    assert said["legend-title"] == "Lots" and said["legend-0"] == "*second*" and said["legend-1"] == "Lot 3"
    assert "legend-2" not in said and said["free-0"] == "here"
    assert [text.text for text in figure.texts() if text.id == "x-ticks"] == ["0", "10", "20", "30", "40", "50"]
    ids = {group.attrib.get("id", "") for group in drawn(figure)[0].iter(f"{SVG}g")}
    assert {"series-0-points", "series-1-line", "arrow-0", "axes"} <= ids


def test_means_carry_their_bars_at_full_precision() -> None:
    shown = phosphate()
    sd = figure_of(shown, FigureLook(series=Series(points="means", bars="sd"))).contents[0].traces[0].dots
    sem = figure_of(shown, FigureLook(series=Series(points="means", bars="sem"))).contents[0].traces[0].dots
    interval = figure_of(shown, FigureLook(series=Series(points="means", bars="interval"))).contents[0].traces[0].dots
    # 0.038 and 0.040 less the blank of 0.020: SD 0.002/√2, SEM half of 0.002, interval by t with one degree of freedom.
    assert sd[0].y == pytest.approx(0.019) and sd[0].high - sd[0].y == pytest.approx(0.002 / math.sqrt(2))
    assert sem[0].high - sem[0].y == pytest.approx(0.001)
    assert interval[0].high - interval[0].y == pytest.approx(12.706204736 * 0.001)  # Student's t, 97.5 %, 1 df
    readings = figure_of(shown, FigureLook()).contents[0].traces[0].dots
    assert len(readings) == 10 and readings[0].low is None


def test_limits_and_samples_are_marked_where_they_are() -> None:
    shown = phosphate()
    look = FigureLook(notes=Notes(limits=True, marks=True), series=Series(samples=True), paper=Paper(purpose="page"))
    figure = figure_of(shown, look)
    known = {row.name: float(row.shown.split()[0]) for row in shown.outcome.curve.limits if row.name in ("LOD", "LOQ")}
    assert {name: x for x, name in figure.contents[0].traces[0].limits} == known and len(known) == 2
    assert {text.text for text in figure.texts() if text.id == "limit"} == {"LOD", "LOQ"}
    ids = [group.attrib.get("id", "") for group in drawn(figure)[0].iter(f"{SVG}g")]
    assert ids.count("limit") == 2 and ids.count("drop") == 2 * len(shown.outcome.curve.samples)


def test_a_comparison_is_told_in_its_first_sentence() -> None:
    intake = understand(diatom.plate())
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "dose")
    layout, method, _ = changed(intake.readings, layout, method, diatom.changes())
    outcome = evaluate(intake.readings, layout, method)
    look = FigureLook(notes=Notes(comparison=True), paper=Paper(purpose="page"))
    said = " ".join(text.text for text in figure_of(Shown("D", outcome, layout), look).texts() if text.id == "note")
    assert said == "Lot A and Lot B are not the same (p < 0.0001)."


def test_errors_that_came_with_the_readings_are_bars() -> None:
    """A column of errors beside the readings, and a title with a raised unit."""
    rows = [f"{x}\t{2 * x + 0.1}\t{0.1 + 0.05 * x:.2f}" for x in range(1, 7)]
    intake = understand("\n".join(["Volume (mL)\tSignal\tSD", *rows]))
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, *opened(intake.readings, intake.layout, "relation"))
    look = FigureLook(series=Series(bars="column"), words=Words(y="Signal / mL^-1"))
    figure = figure_of(Shown("Errors", outcome, intake.layout), look)
    dots = figure.contents[0].traces[0].dots
    halves = [dot.high - dot.y for dot in dots if dot.high is not None]
    assert halves == pytest.approx([0.1 + 0.05 * x for x in range(1, 7)])
    assert next(text.text for text in figure.texts() if text.id == "y-title") == "Signal / mL^{−1}"


@pytest.mark.parametrize(("end", "said"), [(100.0, ""), (97.0, "1 point lies"), (20.0, "points lie")])
def test_points_outside_the_axes_are_counted(end: float, said: str) -> None:
    dots = tuple(Dot(float(x), 1.0 + x / 100) for x in range(0, 100, 7))  # the last at 98
    figure = Figure((Content((Trace("a", "", dots=dots),), "x", "y"),), FigureLook(axes=Axes(x=AxisLook(high=end))))
    assert len(figure.remarks()) == bool(said) and all(said in remark for remark in figure.remarks())


def test_answers_without_a_number_are_counted_and_bars_are_named() -> None:
    answers = FigureLook(kind="answers")
    assert figure_of(phosphate(), answers).remarks() == []
    figure = figure_of(
        phosphate(PHOSPHATE.replace("0.143	0.147", "0.943	0.947")), answers
    )  # above the top standard
    assert figure.remarks() == ["1 answer has no number, so no point."]
    assert figure.alt.endswith("Bars: 95 % interval.")
    bars = figure_of(phosphate(), FigureLook(series=Series(bars="sem", points="means")))
    assert bars.alt.endswith("Bars: SEM.") and "Bars" not in figure_of(phosphate(), FigureLook()).alt


def test_the_equation_has_the_digits_that_are_asked_for() -> None:
    told = [figure_of(phosphate(), FigureLook(notes=Notes(digits=n))).contents[0].traces[0].equation for n in (3, 6)]
    assert told == ["*y* = 0.0369 · *x* + 0.000972", "*y* = 0.0368713 · *x* + 0.000971963"] or all(
        "*x*" in t for t in told
    )
    assert len(told[1]) > len(told[0])


def test_the_numbers_behind_the_figure() -> None:
    shown = phosphate()
    rows = list(csv.DictReader(io.StringIO(as_csv(figure_of(shown, FigureLook())).decode("utf-8-sig"))))
    points = [(float(row["x"]), float(row["y"])) for row in rows if row["part"] == "point"]
    assert points == [(p.x, p.y) for p in shown.outcome.curve.points if p.state == "used"]
    assert sum(row["part"] == "line" for row in rows) == len(shown.outcome.curve.line.x)


def test_a_style_keeps_nothing_that_is_of_one_figure() -> None:
    own = FigureLook(
        words=Words(title="Mine", face="serif", size=9), axes=Axes(x=AxisLook(low=1, high=2), frame="closed"),
        series=Series(palette="gray", own=(SeriesLook(key="a", name="b"),)), notes=Notes(free=(FreeNote(text="t"),)),
    )  # fmt: skip
    style = style_of("House", own)
    other = FigureLook(
        words=Words(title="Other"), axes=Axes(y=AxisLook(low=0)), series=Series(own=(SeriesLook(key="c"),))
    )
    made = styled(other, style)
    assert (made.words.title, made.words.face, made.words.size) == ("Other", "serif", 9)
    assert (made.axes.frame, made.axes.x.low, made.axes.y.low) == ("closed", None, 0)
    assert made.series.palette == "gray" and made.series.own == other.series.own and made.notes.free == ()
    assert style.look.words.title == "" and style.look.series.own == ()


def test_channels_of_different_things_have_axes_of_their_own() -> None:
    traces = tuple(
        Trace(key=name, name=name, line=((0.0, low), (1.0, high)), y=title)
        for name, low, high, title in (("Probe", 0.0, 100.0, "Turbidity / NTU"), ("Sensor", 1.2, 1.3, "Sensor / V"))
    )
    content = Content(traces, "Time / s", "Turbidity / NTU, Sensor / V")
    texts = [
        text.text or ""
        for text in drawn(Figure((content,), FigureLook(panels=True)))[0].iter()
        if text.tag.endswith("text")
    ]
    said = " ".join("".join(each.split()) for each in texts)
    assert "Turbidity" in said and "Sensor" in said and "1.26" in said
