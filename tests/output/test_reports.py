"""Reports: their numbers are the run's, nothing is cut, nothing is fetched, and they read without colors or eyes."""

import io
import re
from datetime import UTC, datetime

import pytest
from pypdf import PdfReader

from dosis.demo import screen
from dosis.intake.understand import understand
from dosis.output.reports.pages import MOST_ROWS, answers_table
from dosis.output.reports.report import as_html, as_pdf
from dosis.output.reports.subject import SECTIONS, LedgerLine, ReportedRun, Wanted
from dosis.run.changes import Exclude
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.outcome.table import AnswerRow, AnswerTable, texts
from dosis.run.roles import Role
from tests.tables import PHOSPHATE, plate_text

AT = datetime(2026, 11, 3, 9, 5, tzinfo=UTC)


def reported(text: str, question: str = "concentration", changes: tuple = (), title: str = "Phosphate") -> ReportedRun:
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, question)
    layout, method, _ = changed(intake.readings, layout, method, changes)
    outcome = evaluate(intake.readings, layout, method, whole=True)
    return ReportedRun(
        title=title, study="Autumn survey", source_name="pasted table", digest="0a" * 32, opened_at=AT, revision=2,
        author="T. Haven", at=AT, program="0.1.0", readings=intake.readings, layout=layout, method=method,
        outcome=outcome, ledger=(LedgerLine(AT, "T. Haven", 1, "Run opened with 18 readings"),),
        working={row.name: outcome.working[row.group] for row in outcome.answers.rows[:1]
                 if row.group in outcome.working},
    )  # fmt: skip


def pdf(*runs: ReportedRun, wanted: Wanted | None = None) -> PdfReader:
    data = as_pdf(runs, wanted or Wanted(), title="A report", author="T. Haven", made_at=AT)
    return PdfReader(io.BytesIO(data))


def text_of(document: PdfReader) -> str:
    return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in document.pages))


def test_its_numbers_are_the_runs_as_they_are_shown() -> None:
    run = reported(PHOSPHATE, changes=(Exclude(readings=(5,), reason="a bubble in the cell"),))
    said = text_of(pdf(run))
    table = run.outcome.answers
    for i, row in enumerate(table.rows):
        for column in table.leads:
            assert f"{row.name} " in said and column.texts[i] in said
            if column.values[i] is not None:
                assert f"({column.lower_texts[i]} – {column.upper_texts[i]})" in said
                assert column.values[i] == pytest.approx(float(column.texts[i]), rel=0.05)
    for parameter in run.outcome.curve.parameters:
        assert parameter.shown in said and parameter.shown_interval in said
    for check in run.outcome.checks:
        assert check.title in said and check.threshold in said
    assert run.outcome.verdict.headline in said
    assert "a bubble in the cell" in said and "[0.057]" in said
    assert "SHA-256 " + "0a" * 32 in said and "revision 2" in said and "Run opened with 18 readings" in said
    assert "Page 1 of " in said and "Reviewed by, date" in said
    for line in run.working["Pier N"]:
        assert line.label in said


def test_sections_are_left_out_and_paper_is_chosen() -> None:
    run = reported(PHOSPHATE)
    for left in SECTIONS:
        kept = tuple(each for each in SECTIONS if each != left)
        html = as_html([run], Wanted(sections=kept), title="T", author="A", made_at=AT)
        heading = "Reviewed by" if left == "signatures" else f"<h2>{SECTIONS[left]}</h2>"
        assert heading not in html
        assert heading in as_html([run], Wanted(), title="T", author="A", made_at=AT)
    letter = pdf(run, wanted=Wanted(sections=("answers",), paper="Letter")).pages[0].mediabox
    assert (float(letter.width), float(letter.height)) == pytest.approx((612, 792), abs=1)


def test_nothing_is_cut_on_any_page() -> None:
    run = reported(screen.plate(), "dose", screen.changes(), title="Screen")
    document = pdf(run)
    assert len(document.pages) < 15
    width, height = (float(each) for each in (document.pages[0].mediabox.width, document.pages[0].mediabox.height))
    beyond = []

    def look(text: str, page: list, place: list, _font: object, _size: float) -> None:
        x = place[4] * page[0] + place[5] * page[2] + page[4]
        y = place[4] * page[1] + place[5] * page[3] + page[5]
        if text.strip() and not (40 < x < width - 40 and 15 < y < height - 15):
            beyond.append((round(x), round(y), text))

    for page in document.pages:
        page.extract_text(visitor_text=look)
    assert beyond == []
    said = text_of(document)
    assert all(curve.key in said for curve in run.outcome.curves)
    # The headings of the answers stand on each page that these go on to.
    assert said.count("IC50 relative (mg/L), 95 % interval") >= 1


def test_a_plate_is_mapped_with_what_is_excluded() -> None:
    run = reported(plate_text(8, 12, title="Plate 7"))
    html = as_html([run], Wanted(), title="T", author="A", made_at=AT)
    assert "<h3>Plate 7</h3>" in html and html.count('<th scope="col">12</th>') == 1
    large = as_html([reported(plate_text(16, 24))], Wanted(), title="T", author="A", made_at=AT)
    assert 'class="plate"' not in large  # 24 columns do not fit across a page; the list tells them


def test_several_runs_have_a_contents_page() -> None:
    document = pdf(reported(PHOSPHATE, title="First"), reported(PHOSPHATE, title="Second"))
    assert re.search(r"Contents.*First.*Second", re.sub(r"\s+", " ", document.pages[0].extract_text()))
    assert any("Second" in page.extract_text() for page in document.pages[2:])


def test_it_is_tagged_and_its_figure_is_told_in_words() -> None:
    document = pdf(reported(PHOSPHATE))
    root = document.trailer["/Root"]
    assert root["/MarkInfo"]["/Marked"] and root["/Lang"] == "en"
    html = as_html([reported(PHOSPHATE)], Wanted(), title="T", author="A", made_at=AT)
    assert re.search(r'<img [^>]*alt="Phosphate: .* against .*"', html)
    fonts = {f["/BaseFont"] for page in document.pages for f in
             (each.get_object() for each in page["/Resources"]["/Font"].values())}  # fmt: skip
    assert fonts and all("Liberation" in name or "DejaVu" in name for name in fonts)


def test_names_are_text_whatever_they_say() -> None:
    evil = '<script>alert(1)</script><img src="http://192.0.2.1/x.png">'
    run = reported(PHOSPHATE.replace("Pier N", evil), title=f'{evil}\n"; }} body {{ display: none }}')
    html = as_html([run], Wanted(), title=run.title, author=evil, made_at=AT)
    assert "<script" not in html and evil not in html
    assert {each[:5] for each in re.findall(r'<img src="([^"]*)"', html)} == {"data:"}
    # In the styles the title is a string, which nothing in it can end.
    assert re.search(r'@top-left \{ content: "[^"\\\n<]*"; font', html)
    said = text_of(pdf(run))
    assert "alert(1)" in said


def test_thousands_of_answers_say_how_many_are_listed() -> None:
    def table(count: int) -> AnswerTable:
        rows = tuple(AnswerRow(key=str(i), name=f"S{i}", group=str(i), role=Role.SAMPLE) for i in range(count))
        return AnswerTable(rows=rows, columns=(texts("a", "A", ["x"] * count),))

    assert answers_table(table(MOST_ROWS)).more == ""
    long = answers_table(table(MOST_ROWS + 1))
    assert len(long.rows) == MOST_ROWS and "The first 2,000 of 2,001 answers" in long.more


def test_a_run_without_answers_has_a_report() -> None:
    said = text_of(pdf(reported("Sample\tConc\tA\nStd 1\t1\t0.1\nS\t\t0.2")))
    assert "fails" in said or "looked at" in said
