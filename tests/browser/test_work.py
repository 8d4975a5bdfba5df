"""The Work view in the browser: excluding, undoing, showing the working, saving when it is hard."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from dosis.store.private_server import PrivateServer
from tests.browser.conftest import open_run
from tests.conftest import Site
from tests.outcomes import sent
from tests.tables import PHOSPHATE


@pytest.fixture
def work(page: Page, site: Site) -> Page:
    """The Work view of a fresh run."""
    open_run(page, site, PHOSPHATE)
    return page


def answer(page: Page, name: str) -> Locator:
    return page.get_by_role("table", name="Answers").get_by_role("row").filter(has_text=name)


def in_sample(page: Page, name: str) -> str:
    return answer(page, name).get_by_role("cell").nth(7).inner_text()


def reading(page: Page, name: str, number: int) -> Locator:
    return page.get_by_role("gridcell", name=re.compile(f"^{name} reading {number}:"))


def draft(page: Page, number: int) -> None:
    expect(page.get_by_text(f"Revision {number}", exact=True)).to_be_visible()


def exclude_by_key(page: Page, name: str, number: int) -> None:
    reading(page, name, number).click()
    page.keyboard.press("x")
    page.get_by_label("Reason").wait_for()
    page.keyboard.press("Enter")


def test_everything_is_there_on_opening(work: Page) -> None:
    for name in ("Readings", "Working", "Curve", "Answers"):
        expect(work.get_by_role("region", name=name, exact=True)).to_be_visible()
    for step in ("Blank", "Replicates", "Curve", "Read back", "Dilution", "Checks"):
        expect(work.get_by_role("region", name="Working").get_by_role("heading", name=step)).to_be_visible()
    expect(work.get_by_role("status", name="Verdict")).to_contain_text("2 of 2 samples read.")
    expect(work.get_by_role("img", name="Blank-corrected A880 against Concentration / µM")).to_be_visible()


def test_excluding_by_key_moves_everything_and_undo_survives_a_reload(work: Page) -> None:
    before = in_sample(work, "Pier N")
    exclude_by_key(work, "Std 5", 1)
    draft(work, 2)
    assert in_sample(work, "Pier N") != before
    expect(reading(work, "Std 5", 1)).to_have_accessible_name(re.compile("excluded: Outlying replicate"))
    expect(work.locator("[data-point][data-state=excluded]")).to_have_count(1)
    work.reload()
    expect(work.locator("[data-point][data-state=excluded]")).to_have_count(1)
    work.keyboard.press("Control+z")
    draft(work, 3)
    assert in_sample(work, "Pier N") == before
    work.reload()
    work.get_by_role("button", name="Redo").click()
    draft(work, 4)
    expect(work.locator("[data-point][data-state=excluded]")).to_have_count(1)
    reading(work, "Std 5", 1).click()
    work.keyboard.press("x")  # included again, with nothing to ask
    draft(work, 5)
    assert in_sample(work, "Pier N") == before


def test_excluding_by_menu_with_a_reason_of_ones_own(work: Page) -> None:
    reading(work, "Pier N", 2).click(button="right")
    work.get_by_role("menuitem", name="Exclude…").click()
    work.get_by_label("Reason").fill("Fingerprint on the cuvette")
    work.get_by_role("button", name="Exclude", exact=True).click()
    draft(work, 2)
    expect(answer(work, "Pier N").get_by_role("cell").nth(1)).to_have_text("1 of 2")
    expect(reading(work, "Pier N", 2)).to_have_accessible_name(re.compile("Fingerprint on the cuvette"))


def test_keyboard_alone_finds_and_excludes_a_reading(work: Page) -> None:
    grid = work.get_by_role("grid")
    grid.focus()
    for key in ("ArrowDown", "ArrowDown", "ArrowRight", "ArrowRight"):
        work.keyboard.press(key)
    work.keyboard.press("x")
    expect(work.get_by_role("dialog")).to_contain_text("Std 1, reading 2 (0.040)")
    work.keyboard.press("Enter")
    draft(work, 2)


def test_line_through_zero_and_window(work: Page) -> None:
    before = in_sample(work, "Pier N")
    work.get_by_role("radio", name="Through 0").click()
    draft(work, 2)
    assert in_sample(work, "Pier N") != before
    expect(work.get_by_role("region", name="Working")).to_contain_text("Line through zero through 10 readings")
    work.get_by_role("combobox", name="Highest standard in the fit").click()
    work.get_by_role("option", name="5 µM", exact=True).click()
    draft(work, 3)
    expect(work.locator("[data-point][data-state=outside]")).to_have_count(2)
    expect(work.get_by_text("standards 0.5 – 5 µM")).to_be_visible()


def test_the_bent_demo_run_is_mended_by_taking_the_proposal(page: Page) -> None:
    page.goto("/studies/1")
    page.get_by_role("searchbox", name="Find runs").fill("marsh transect")
    page.get_by_role("link", name=re.compile("Phosphate, marsh transect")).click()
    page.get_by_role("button", name="Use 1 – 20 µM").click()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Sluice is above the top standard")
    expect(page.get_by_role("status", name="Verdict")).not_to_contain_text("bend")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("bend")


def test_show_working_has_the_whole_calculation(work: Page) -> None:
    answer(work, "Pier N").get_by_role("cell").nth(4).click()
    working = work.get_by_role("region", name="Show working")
    for part in ("0.143", "0.147", "− blank 0.0200", "0.1230", "0.1250", "(0.125000 − ", "× 5", "in the sample"):
        expect(working).to_contain_text(part)


def test_selecting_anywhere_lights_the_same_thing_everywhere(work: Page) -> None:
    rows, figure = work.get_by_role("grid"), work.get_by_role("region", name="Curve", exact=True)
    answer(work, "Pier N").click()
    expect(rows.get_by_role("row", selected=True)).to_contain_text("Pier N")
    expect(figure).to_contain_text("Pier N · ")
    reading(work, "QC low", 1).click()
    expect(work.get_by_role("table", name="Answers").get_by_role("row", selected=True)).to_contain_text("QC low")
    expect(figure).to_contain_text("QC low · ")
    work.locator("[data-sample]").first.click()
    expect(rows.get_by_role("row", selected=True)).to_contain_text("Pier N")


def test_copy_and_download_carry_full_precision(work: Page, site: Site) -> None:
    work.get_by_role("button", name="Copy").click()
    expect(work.get_by_text("Copied 3 answers.")).to_be_visible()
    copied = [line.split("\t") for line in work.evaluate("navigator.clipboard.readText()").splitlines()]
    run = work.url.rsplit("/", 1)[1]
    answers = sent(site.client.get(f"/api/runs/{run}").json())
    assert [float(row[12]) for row in copied[1:]] == [answer.in_sample.value for answer in answers]
    with work.expect_download() as download:
        work.get_by_role("link", name="CSV").click()
    assert download.value.suggested_filename == "Run under test.csv"


def test_assigning_another_role_by_key(work: Page) -> None:
    reading(work, "Marsh 2", 2).click()
    work.keyboard.press("a")
    work.get_by_role("dialog").get_by_role("radio", name="Not used").click()
    work.get_by_role("button", name="Assign", exact=True).click()
    draft(work, 2)
    expect(answer(work, "Marsh 2")).to_have_count(0)


@pytest.mark.parametrize(("choice", "excluded"), [("Apply mine on top of theirs", 2), ("Discard mine, show theirs", 1)])
def test_two_windows_on_one_run_lose_nothing(work: Page, choice: str, excluded: int) -> None:
    other = work.context.new_page()
    other.goto(work.url)
    other.get_by_role("table", name="Answers").wait_for()
    exclude_by_key(work, "Std 5", 1)
    draft(work, 2)
    exclude_by_key(other, "Std 4", 2)
    dialog = other.get_by_role("dialog")
    expect(dialog).to_contain_text("changed in another window")
    expect(dialog).to_contain_text("Excluded Std 5 reading 1 (0.391): Outlying replicate")
    expect(dialog).to_contain_text("Exclude Std 4, reading 2 (0.208)")
    other.get_by_role("button", name=choice).click()
    draft(other, 1 + excluded)
    expect(other.locator("[data-point][data-state=excluded]")).to_have_count(excluded)


def test_database_stopped_in_the_middle_is_said_and_mends_itself(work: Page, server: PrivateServer) -> None:
    exclude_by_key(work, "Std 5", 1)
    draft(work, 2)
    server.kill()
    try:
        exclude_by_key(work, "Std 4", 1)
        expect(work.get_by_role("alert")).to_contain_text("The database is not answering.")
        expect(work.get_by_role("alert")).to_contain_text("kept here and sent again")
        visitor = work.context.new_page()
        visitor.goto(work.url)
        expect(visitor.get_by_role("alert")).to_contain_text("The database is not answering.", timeout=10_000)
    finally:
        server.start()
    draft(work, 3)
    expect(work.locator("[data-point][data-state=excluded]")).to_have_count(2)
    # The visitor comes in by itself, before or after the waiting change was saved.
    expect(visitor.get_by_role("table", name="Answers")).to_be_visible()
