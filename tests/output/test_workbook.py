"""The spreadsheet itself, beyond its cells: headings that stay in sight, and no text that runs as a formula."""

import io
import json
import zipfile
from xml.etree import ElementTree

import pytest

from dosis.intake.understand import understand
from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.output.terminal import answers_text
from dosis.run.evaluate import evaluate
from dosis.run.method import default_method
from dosis.run.opening import opened

MAIN = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"


def written(text: str) -> zipfile.ZipFile:
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, intake.layout, default_method("concentration"), whole=True)
    made = EXPORTS["xlsx"].make(Subject("Harbor & pier", intake.readings, intake.layout, outcome))
    return zipfile.ZipFile(io.BytesIO(made))


def test_headings_are_bold_and_stay_while_the_rows_are_scrolled() -> None:
    book = written("Name\tConc (µM)\t450 nm\t620 nm\nStd 1\t1\t0.1\t0\nStd 2\t2\t0.2\t0\nPier\t\t0.15\t0")
    assert "<dc:title>Harbor &amp; pier</dc:title>" in book.read("docProps/core.xml").decode()
    styles = ElementTree.fromstring(book.read("xl/styles.xml"))
    fonts = list(styles.find(f"{MAIN}fonts") or ())
    bold = {
        i for i, xf in enumerate(styles.find(f"{MAIN}cellXfs") or ())
        if fonts[int(xf.get("fontId", 0))].find(f"{MAIN}b") is not None
    }  # fmt: skip
    for number in range(1, 6):
        sheet = ElementTree.fromstring(book.read(f"xl/worksheets/sheet{number}.xml"))
        pane = sheet.find(f".//{MAIN}pane")
        assert pane is not None and (pane.get("ySplit"), pane.get("xSplit"), pane.get("state")) == ("1", None, "frozen")
        first, *others = sheet.findall(f".//{MAIN}row")
        assert {int(cell.get("s", 0)) for cell in first} == bold
        assert not any(int(cell.get("s", 0)) in bold for row in others for cell in row)


def test_names_that_look_like_formulas_or_links_are_text() -> None:
    text = "Name\tConc (µM)\t=1+1\thttp://a.example\nStd 1\t1\t0.1\t0\n=2+2\t2\t0.2\t0\nhttp://b.example\t\t0.15\t0"
    book = written(text)
    sheets = [book.read(name).decode() for name in book.namelist() if name.startswith("xl/worksheets/sheet")]
    assert not any("<f>" in sheet or "hyperlink" in sheet for sheet in sheets)
    assert "=2+2" in book.read("xl/sharedStrings.xml").decode()


def test_the_terminal_has_no_empty_lines_before_the_verdict_of_a_run_without_answers() -> None:
    intake = understand("Name\tConc (µM)\tA\nStd 1\t1\t0.1\nStd 2\t2\t0.2\nStd 3\t3\t0.3")
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, intake.layout, default_method("concentration"))
    assert answers_text(outcome).splitlines()[0].startswith("Curve    ")
    assert answers_text(outcome).endswith("\n") and not answers_text(outcome).endswith("\n\n")


@pytest.mark.parametrize(("limit", "value", "kept"), [
    ("MOST_NUMBERS", 60, True), ("MOST_NUMBERS", 59, False), ("MOST_ROWS", 30, True), ("MOST_ROWS", 29, False),
])  # fmt: skip
def test_very_many_numbers_of_courses_are_left_in_their_file(
    monkeypatch: pytest.MonkeyPatch, limit: str, value: int, kept: bool
) -> None:
    """Two courses of thirty times, on both sides of what a file like that may hold."""
    monkeypatch.setattr(f"dosis.output.exports.again.{limit}", value)
    intake = understand("Time (s)\tA\tB\n" + "\n".join(f"{t}\t{t / 9}\t{t / 7}" for t in range(30)))
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "rate")
    subject = Subject("Courses", intake.readings, layout, evaluate(intake.readings, layout, method))
    document = json.loads(EXPORTS["json"].make(subject))
    assert (len(document["rows"]) == 60) is kept
    assert ("60 numbers, too many" in str(document["headings"])) is not kept
    assert EXPORTS["xlsx"].make(subject)
