"""The Figure tab: from a run to a figure that can be sent, by clicking and typing; choices are seen, kept, undone."""

import io
import re
from uuid import uuid4

import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, expect
from pypdf import PdfReader

from tests.browser.conftest import open_run
from tests.conftest import Site
from tests.tables import PHOSPHATE

DOSES = (0.1, 0.3, 1, 3, 10, 30)


def lots(count: int = 2) -> str:
    rows = [f"Dose\t{d}\t{95 / (1 + (d / (0.8 + i)) ** 1.4) + 2 * ((i + k) % 3):.3f}\tLot {chr(65 + i)}"
            for i in range(count) for k, d in enumerate(DOSES)]  # fmt: skip
    return "\n".join(["Name\tDose (mg/L)\tResponse\tSeries", *rows])


def figure_tab(page: Page, site: Site, text: str) -> Locator:
    open_run(page, site, text)
    page.get_by_role("tab", name="Figure").click()
    drawing = page.locator("[data-figure] svg")
    drawing.wait_for()
    return drawing


def group(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(f"^{name}")).first.click()


def pick(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option, exact=True).click()


def revision(page: Page, number: int) -> None:
    expect(page.get_by_text(f"Revision {number}", exact=True)).to_be_visible()


def saved(page: Page, button: str) -> bytes:
    with page.expect_download() as waiting:
        page.get_by_role("button", name=button, exact=True).click()
    return waiting.value.path().read_bytes()


def test_it_opens_as_it_could_be_sent(page: Page, site: Site) -> None:
    drawing = figure_tab(page, site, lots())
    expect(drawing).to_contain_text("Dose / mg/L")
    expect(drawing).to_contain_text("Response")
    expect(drawing).to_contain_text("Lot B")
    assert re.search(r"Response against Dose", drawing.get_attribute("aria-label") or "")


def scans() -> str:
    """Seven scans of a dye that fades, a column for each time."""
    times = [0, 10, 20, 30, 40, 50, 60]
    rows = [
        f"{nm}\t" + "\t".join(f"{0.9 * 0.985**t * 2.718 ** (-(((nm - 565) / 28) ** 2)) + 0.02:.4f}" for t in times)
        for nm in range(450, 701, 5)
    ]
    return "\n".join(["Wavelength (nm)\t" + "\t".join(f"{t} min" for t in times), *rows])


def test_an_overlay_of_scans_to_a_tiff_of_a_journal_column(page: Page, site: Site) -> None:
    body = {"study": 1, "title": "Scans", "key": str(uuid4()), "text": scans(), "question": "relation"}
    run = site.client.post("/api/runs", json=body).raise_for_status().json()["run"]["id"]
    page.goto(f"/runs/{run}")
    page.get_by_role("tab", name="Figure").click()
    drawing = page.locator("[data-figure] svg")
    drawing.wait_for()
    pick(page, "What the figure shows", "every column against x, as scans")
    expect(drawing.locator("g[id='series-6-line']")).to_have_count(1)
    page.get_by_label("Title of the legend").fill("Time")
    page.keyboard.press("Enter")
    pick(page, "Where the legend stands", "inside the axes")
    pick(page, "Face", "serif")
    page.get_by_label("Size of the text in points").fill("8")
    page.keyboard.press("Enter")
    group(page, "Axes")
    pick(page, "Frame", "closed frame")
    expect(page.get_by_label("minor ticks")).not_to_be_checked()
    group(page, "Series")
    pick(page, "Colors", "dark to light")
    expect(drawing.locator("text", has_text="40 min")).to_have_count(1)
    expect(drawing.locator("text", has_text=re.compile("^Time$"))).to_have_count(1)
    revision(page, 8)
    image = Image.open(io.BytesIO(saved(page, "Save TIFF")))
    assert image.size == (1004, 756) and float(image.info["dpi"][0]) == 300


def test_what_is_clicked_is_put_forward_and_drawn_while_it_is_typed(page: Page, site: Site) -> None:
    drawing = figure_tab(page, site, PHOSPHATE)
    group(page, "Axes")
    drawing.locator("[data-part^='y-title']").first.click()
    field = page.get_by_label("Title of the y axis")
    expect(field).to_be_focused()
    page.keyboard.type("Rate / umol mL^-1 s-1")
    expect(drawing.locator("[data-part^='y-title']").first).to_contain_text("Rate / µmol mL")
    revision(page, 1)  # nothing is kept while it is typed
    page.keyboard.press("Enter")
    revision(page, 2)
    page.get_by_role("button", name="Insert α").click()
    expect(field).to_have_value(re.compile("α"))
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    revision(page, 3)
    expect(drawing).not_to_contain_text("Rate /")
    page.get_by_role("tab", name="Ledger").click()
    expect(page.get_by_role("button", name="2 Figure: words y Rate / umol mL^-1 s-1")).to_be_visible()


def test_two_curves_to_a_vector_pdf(page: Page, site: Site) -> None:
    figure_tab(page, site, lots())
    group(page, "Words")
    page.get_by_label("Title", exact=True).fill("Growth of two lots")
    page.keyboard.press("Enter")
    revision(page, 2)
    document = PdfReader(io.BytesIO(saved(page, "PDF"))).pages[0]
    assert float(document.mediabox.width) == pytest.approx(85 / 25.4 * 72, abs=0.05)
    assert "Growth of two lots" in document.extract_text()


def test_five_series_with_their_equations_and_a_name_of_ones_own(page: Page, site: Site) -> None:
    rows = [f"{5 * k}\t" + "\t".join(f"{0.1 + (0.01 + 0.004 * i) * 5 * k:.3f}" for i in range(5)) for k in range(8)]
    text = "\n".join(["Time (s)\t" + "\t".join(f"Trial {i + 1}" for i in range(5)), *rows])
    body = {"study": 1, "title": "Trials", "key": str(uuid4()), "text": text, "question": "relation"}
    run = site.client.post("/api/runs", json=body).raise_for_status().json()["run"]["id"]
    page.goto(f"/runs/{run}")
    page.get_by_role("tab", name="Figure").click()
    drawing = page.locator("[data-figure] svg")
    drawing.wait_for()
    group(page, "Paper")
    pick(page, "What the figure is for", "Journal page, 175 mm")
    group(page, "Notes")
    page.get_by_role("checkbox", name="equation").check()
    page.get_by_role("checkbox", name="R²").check()
    expect(drawing.locator("[data-part^='note']").first).to_be_visible()
    expect(drawing).to_contain_text("Trial 5: ")
    group(page, "Series")
    page.get_by_label("Name of Trial 2").fill("with *inhibitor*")
    page.keyboard.press("Enter")
    expect(drawing).to_contain_text("inhibitor")
    page.get_by_label("Show Trial 3").uncheck()
    expect(drawing).not_to_contain_text("Trial 3")


def test_error_bars_are_one_action(page: Page, site: Site) -> None:
    drawing = figure_tab(page, site, PHOSPHATE)
    group(page, "Series")
    pick(page, "What a point is", "means")
    pick(page, "Error bars", "SEM")
    expect(drawing.locator("g[id='series-0-bars']").first).to_be_attached()
    revision(page, 3)


def test_it_is_copied_as_a_picture_and_its_numbers_saved(page: Page, site: Site) -> None:
    figure_tab(page, site, PHOSPHATE)
    page.get_by_role("button", name="Copy", exact=True).click()
    expect(page.get_by_text("Figure copied as a picture.")).to_be_visible()
    types = page.evaluate("navigator.clipboard.read().then((items) => items.flatMap((each) => each.types))")
    assert types == ["image/png"]
    assert saved(page, "CSV").decode("utf-8-sig").startswith("panel,series,part,x,y,low,high")
    assert b"<text" not in saved(page, "SVG outlines")


def test_a_style_is_saved_applied_and_made_the_studys(page: Page, site: Site) -> None:
    drawing = figure_tab(page, site, PHOSPHATE)
    group(page, "Axes")
    pick(page, "Frame", "closed frame")
    revision(page, 2)
    page.get_by_role("button", name="Styles…").click()
    page.get_by_role("menuitem", name="Save this look as a style…").click()
    page.get_by_label("Name", exact=True).fill("Harbor journal")
    page.get_by_role("button", name="Save style").click()
    expect(page.get_by_text("Style “Harbor journal” saved.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    revision(page, 3)
    page.get_by_role("button", name="Styles…").click()
    page.get_by_role("menuitem", name="Harbor journal").focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("menuitem", name="Apply", exact=True)).to_be_focused()
    page.keyboard.press("Enter")
    revision(page, 4)
    group(page, "Axes")
    expect(page.get_by_role("combobox", name="Frame", exact=True)).to_have_text("closed frame")
    assert drawing.count() == 1
    found = next(each for each in site.client.get("/api/styles").json() if each["body"]["name"] == "Harbor journal")
    assert site.client.put("/api/studies/1/style", json={"style": found["id"]}).status_code == 204
    other = open_run(page, site, PHOSPHATE)
    assert site.client.post(f"/api/runs/{other}/figure", json={}).json()["look"]["axes"]["frame"] == "closed"
    assert site.client.delete(f"/api/styles/{found['id']}").status_code == 204
    assert site.client.post(f"/api/runs/{other}/figure", json={}).json()["look"]["axes"]["frame"] == "two"


def test_other_runs_stand_beside_it_and_are_followed(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    drawing = figure_tab(page, site, PHOSPHATE.replace("0.391", "0.399"))
    page.get_by_role("button", name="with other runs…").click()
    page.get_by_role("menuitemcheckbox", name="Run under test").first.click()
    page.keyboard.press("Escape")
    revision(page, 2)
    pick(page, "How the runs are arranged", "side by side, A, B, C")
    expect(drawing.locator("g[id^='letter']")).to_have_count(2)
    shown = site.client.get(page.url.replace(site.url, "/api")).json()["revision"]["method"]["figure"]["others"]
    change = {"based_on": 1, "key": str(uuid4()), "changes": [{"kind": "exclude", "readings": [5], "reason": "bubble"}]}
    assert site.client.post(f"/api/runs/{shown[0]['run']}/changes", json=change).status_code == 200
    page.reload()
    page.get_by_role("tab", name="Figure").click()
    expect(page.get_by_text("Run under test is at revision 2, shown in 1")).to_be_visible()
    page.get_by_role("button", name="Follow").click()
    expect(page.get_by_text("shown in 1")).to_have_count(0)


def test_keys_alone_change_the_figure(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    page.keyboard.press("Control+k")
    page.keyboard.type("figure for print")
    page.keyboard.press("Enter")
    page.locator("[data-figure] svg").wait_for()
    page.get_by_label("Title", exact=True).focus()
    page.keyboard.type("By keys")
    page.keyboard.press("Enter")
    expect(page.locator("[data-figure] svg")).to_contain_text("By keys")
    revision(page, 2)


def test_bad_sizes_are_answered_with_a_sentence(page: Page, site: Site) -> None:
    figure_tab(page, site, PHOSPHATE)
    page.get_by_label("Size of the text in points").fill("0")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="From 6 to 72 pt.")).to_be_visible()
    revision(page, 1)


def test_a_report_is_read_narrowed_and_saved(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    page.get_by_role("tab", name="Report").click()
    report = page.locator("[data-report]")
    expect(report).to_contain_text("Reviewed by, date")
    expect(report.get_by_role("img", name=re.compile("against"))).to_be_visible()
    page.get_by_label("Place for signatures").uncheck()
    expect(report).not_to_contain_text("Reviewed by, date")
    pick(page, "Paper", "Letter")
    document = PdfReader(io.BytesIO(saved(page, "Save PDF")))
    assert float(document.pages[0].mediabox.width) == pytest.approx(612, abs=1)
    text = " ".join(each.extract_text() for each in document.pages)
    assert "Pier N" in text and "Reviewed by" not in text


def test_the_view_is_exported_with_its_limits(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    page.get_by_role("button", name="Axes…").click()
    page.get_by_label("From", exact=True).first.fill("0")
    page.get_by_label("To", exact=True).first.fill("5")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Export…").click()
    page.get_by_role("menuitem", name="Make a figure for print…").click()
    page.locator("[data-figure] svg").wait_for()
    group(page, "Axes")
    expect(page.get_by_label("Where the x axis ends")).to_have_value("5")
    revision(page, 2)
