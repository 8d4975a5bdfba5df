"""The curve, the Ledger, the command menu and what leaves a run, in the browser."""

import re
from pathlib import Path

import pytest
import python_calamine
from playwright.sync_api import Page, expect

from tests.browser.conftest import open_run, paste
from tests.conftest import Site, reference
from tests.tables import PHOSPHATE


def dnase(samples: tuple[float, ...]) -> str:
    data = reference("fpl_dnase_run6")["data"]
    rows = [f"Std {x:g}\t{x!r}\t{y!r}" for x, y in zip(data["x"], data["y"], strict=True)]
    rows += [f"Serum {i}\t\t{y!r}" for i, y in enumerate(samples, start=1)]
    return "\n".join(["Sample\tConc (ng/mL)\tOD", *rows])


def draft(page: Page, number: int) -> None:
    expect(page.get_by_text(f"Revision {number}", exact=True)).to_be_visible()


def test_a_published_immunoassay_is_done_whole(page: Page, site: Site) -> None:
    """Davidian & Giltinan (1995), 5.2.4: EC50 4.132 ng/mL, from paste to screen to file."""
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, dnase((0.681, 1.2)))
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_role("radio", name="4-parameter logistic")).to_be_checked()  # as its standards call for
    row = page.get_by_role("row").filter(has_text="midpoint")
    expect(row).to_contain_text("4.13")
    expect(page.get_by_role("radio", name="log x")).to_be_checked()
    expect(page.get_by_role("region", name="Curve")).to_contain_text("quantifiable")
    answers = page.get_by_role("table", name="Answers")
    answers.get_by_text("Serum 1").click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("^(−1 ÷")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="XLSX").click()
    book = python_calamine.CalamineWorkbook.from_path(waiting.value.path())
    parameters = {row[0]: row[2] for row in book.get_sheet_by_name("Parameters").to_python()[1:5]}
    assert parameters["midpoint"] == pytest.approx(reference("fpl_dnase_run6")["expected"]["e"], rel=1e-6)


def test_what_dosis_proposes_is_one_click_away(page: Page, site: Site) -> None:
    open_run(page, site, dnase((0.681,)))
    page.get_by_role("button", name=re.compile("^All")).click()
    page.get_by_role("dialog").get_by_role("radio", name="Quadratic").click()
    draft(page, 2)
    page.get_by_role("button", name=re.compile("Use 4-parameter logistic|Use 5-parameter logistic")).click()
    draft(page, 3)
    expect(page.get_by_role("region", name="Working")).to_contain_text("parameter logistic through 16 readings")


def test_the_window_is_dragged_on_the_curve(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    handle = page.locator("[data-window=upper]")
    start, figure = handle.bounding_box(), page.get_by_role("img", name=re.compile("against")).bounding_box()
    assert start and figure
    page.mouse.move(start["x"] + start["width"] / 2, start["y"] + 60)
    page.mouse.down()
    page.mouse.move(figure["x"] + figure["width"] * 0.55, start["y"] + 60, steps=6)
    page.mouse.up()
    draft(page, 2)
    expect(page.get_by_text("standards 0.5 – 5 µM")).to_be_visible()
    expect(page.locator("[data-point][data-state=outside]")).to_have_count(2)


def test_the_working_and_the_bands_are_there_for_the_asking(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    page.get_by_role("table", name="Answers").get_by_text("Pier N").click()
    page.get_by_role("region", name="Show working").get_by_role("button", name="Copy").click()
    expect(page.get_by_text("Working copied.")).to_be_visible()
    text = page.evaluate("navigator.clipboard.readText()")
    assert text.startswith("Pier N\nRaw: 0.143  0.147\n") and "Read back: (" in text
    page.get_by_role("combobox", name="Band of").click()
    page.get_by_role("option", name="of reading").click()
    expect(page.get_by_role("combobox", name="Band of")).to_have_text("of reading")


def test_a_parameter_is_held_and_let_go(page: Page, site: Site) -> None:
    open_run(page, site, dnase((0.681,)))  # opens with a 4-parameter logistic, which its standards call for
    page.get_by_role("button", name=re.compile("^slope is")).click()
    page.get_by_label("slope held at").fill("1")
    page.keyboard.press("Enter")
    draft(page, 2)
    page.get_by_role("button", name="held; let go").click()
    draft(page, 3)
    expect(page.get_by_role("button", name="held; let go")).to_have_count(0)


def test_axes_and_residuals_are_views_that_change_nothing(page: Page, site: Site) -> None:
    open_run(page, site, dnase((0.681,)))
    page.get_by_role("radio", name="log x").click()
    page.get_by_role("combobox", name="Residuals are").click()
    page.get_by_role("option", name="standardized").click()
    expect(page.get_by_text("residual / RMSE")).to_be_visible()
    draft(page, 1)


def test_the_figure_is_taken_as_it_stands(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    for form, start in (("SVG", b"<?xml"), ("PNG", b"\x89PNG")):
        page.get_by_role("button", name="Export…").click()
        with page.expect_download() as waiting:
            page.get_by_role("menuitem", name=f"Download {form}").click()
        data = waiting.value.path().read_bytes()
        assert data.startswith(start)
        assert form == "PNG" or (b"var(--" not in data and "Concentration / µM".encode() in data)


def test_the_ledger_shows_every_change_and_goes_back(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    page.get_by_role("gridcell", name=re.compile("^Std 5 reading 1:")).click()
    page.keyboard.press("x")
    page.get_by_label("Reason").fill("air bubble")
    page.keyboard.press("Enter")
    draft(page, 2)
    page.get_by_role("tab", name="Ledger").click()
    ledger = page.get_by_role("region", name="Ledger")
    expect(ledger).to_contain_text("Excluded Std 5 reading 1 (0.391): air bubble")
    expect(page.get_by_role("table", name="Exclusions")).to_contain_text("excluded: air bubble")
    expect(page.get_by_role("table", name="Answers")).to_contain_text("Pier N")
    ledger.get_by_role("button", name=re.compile("opened with")).click()
    page.get_by_role("button", name="Go back to 1").click()
    draft(page, 3)
    page.get_by_role("tab", name="Work").click()
    expect(page.locator("[data-point][data-state=excluded]")).to_have_count(0)
    page.keyboard.press("Control+z")
    draft(page, 4)
    expect(page.locator("[data-point][data-state=excluded]")).to_have_count(1)


def test_the_command_menu_finds_runs_and_does_things(page: Page, site: Site) -> None:
    page.goto("/studies/1")
    page.get_by_role("button", name=re.compile("Find or do")).wait_for()
    page.keyboard.press("Control+k")
    page.get_by_placeholder("Find a run").fill("marsh trans")
    expect(page.get_by_role("option", name=re.compile("Phosphate, marsh transect"))).to_be_visible()
    page.keyboard.press("Enter")
    expect(page).to_have_title("Phosphate, marsh transect · Dosis")
    page.get_by_role("region", name="Answers").wait_for()
    page.keyboard.press("Control+k")
    page.get_by_placeholder("Find a run").fill("ledger")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Ledger")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keyboard shortcuts")).to_contain_text("Dilution series over the selection")


def test_answers_are_sorted_and_filtered(page: Page) -> None:
    page.goto("/runs/3")
    answers = page.get_by_role("table", name="Answers")
    answers.wait_for()
    first = answers.get_by_role("row").nth(1)
    page.get_by_role("button", name="In sample").click()
    page.get_by_role("button", name="In sample").click()
    expect(first).to_contain_text("> 400")  # a bound above the top sorts above every number
    page.get_by_label("Show only answers with").fill("qc")
    expect(answers).to_have_attribute("aria-rowcount", "2")


def test_an_outlier_is_excluded_for_its_reason_and_the_curve_is_asked(page: Page, site: Site) -> None:
    open_run(page, site, "Sample\tConc (µM)\tA\tA\tA\tA\nStd 1\t1\t0.10\t0.11\t0.10\t0.11\n"
             "Std 2\t5\t0.50\t0.51\t0.50\t0.51\nPond\t\t0.300\t0.301\t0.302\t0.900\n")  # fmt: skip
    page.get_by_role("button", name=re.compile("^Replicates")).click()
    page.get_by_role("list", name="Outlying readings").get_by_role("button", name="Exclude for this reason").click()
    draft(page, 2)
    expect(page.get_by_role("gridcell", name=re.compile("Pond reading 4"))).to_have_accessible_name(
        re.compile("excluded: outlying among its 4 replicates"))  # fmt: skip
    page.get_by_role("button", name=re.compile("^Read back")).click()
    page.get_by_label("Ask at this concentration").fill("three")
    expect(page.get_by_text("That is not a number.")).to_be_visible()
    page.get_by_label("Ask at this concentration").fill("3")
    expect(page.get_by_text("of one reading")).to_be_visible()


def test_a_threshold_that_is_none_is_said_and_nothing_changes(page: Page, site: Site) -> None:
    open_run(page, site, "Sample\tConc (µM)\tA\tA\nStd 1\t1\t0.10\t0.11\nStd 2\t5\t0.50\t0.51\nPond\t\t0.30\t0.36\n")
    page.get_by_role("button", name=re.compile("^Replicates")).click()
    limit = page.get_by_label("CV from which replicates disagree, in percent")
    said = page.get_by_role("alert")
    for wrong in ("a lot", "-5"):
        limit.fill(wrong)
        limit.press("Enter")
        expect(said).to_have_text("Type a percentage above 0, such as 10.")
        expect(limit).to_have_attribute("aria-invalid", "true")
    limit.press("Escape")
    expect(said).to_have_count(0)
    expect(limit).to_have_value("10")
    answers = page.get_by_role("table", name="Answers")
    expect(answers).to_contain_text("CV 13 %")  # (0.36 − 0.30)/√2 over 0.33, above the limit
    limit.fill("15")
    limit.press("Enter")
    expect(answers).not_to_contain_text("CV 13 %")


SERIOUS = ("serious", "critical")
SCREENS = {
    "home": "/studies/1", "new run": "/studies/1/new", "line": "/runs/1", "plate": "/runs/3",
    "spectrum": "/runs/13", "recording": "/runs/14",
}  # fmt: skip


@pytest.mark.parametrize("screen", SCREENS)
def test_nothing_serious_stands_in_the_way_of_anyone(page: Page, screen: str) -> None:
    """The rules of WCAG 2 that a machine can check, by axe-core."""
    page.goto(SCREENS[screen])
    page.get_by_role("button", name=re.compile("Find or do")).wait_for()
    page.wait_for_load_state("networkidle")
    page.evaluate(Path("frontend/node_modules/axe-core/axe.min.js").read_text("utf-8"))  # no script of others runs here
    found = page.evaluate("async () => (await axe.run()).violations")
    assert [(v["id"], v["nodes"][0]["html"][:200]) for v in found if v["impact"] in SERIOUS] == []
