"""What wells show and are called, plate by plate, and pages opened under another name than localhost."""

import re

from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import paste
from tests.browser.hand import Hand, described, well
from tests.browser.test_plate import draft, open_run_plate
from tests.browser.test_published_curves import choose
from tests.conftest import Site
from tests.tables import plate_text


def test_edge_wells_are_excluded_as_edge_wells(page: Page, site: Site) -> None:
    open_run_plate(page, site, plate_text(8, 12))
    hand = Hand(page)
    hand.press("e")
    hand.press("x")
    expect(page.get_by_text("have no role, so no curve uses them")).to_be_visible()
    hand.drag("A1", "H12")
    hand.press("b")
    draft(page, 2)
    hand.press("e")
    hand.press("x")
    expect(page.get_by_label("Reason")).to_have_value("Edge well")
    hand.press("Enter")
    draft(page, 3)
    expect(well(page, "H12")).to_have_attribute("aria-label", re.compile("excluded: Edge well"))
    hand.click(well(page, "D6"))
    hand.press("x")
    expect(page.get_by_label("Reason")).to_have_value("Outlying replicate")


def test_no_number_is_cut_in_a_well(page: Page, site: Site) -> None:
    """On a plate of 384 at the usual size of a window: digits are rounded away, never cut in their middle."""
    rows = [line.split("\t") for line in plate_text(16, 24).split("\n")]
    large = "\n".join("\t".join([row[0], *(f"{float(v) * 1234567:.1f}" for v in row[1:])]) for row in rows[1:])
    open_run_plate(page, site, "\n".join(["\t".join(rows[0]), large]))
    cells = page.get_by_role("gridcell")
    expect(cells).to_have_count(384)
    cut = cells.locator("span").evaluate_all("all => all.filter(s => s.scrollWidth > s.clientWidth + 1).length")
    assert cut == 0
    assert not [text for text in cells.all_inner_texts() if "…" in text]


def test_the_plate_turns_to_the_reading_chosen(page: Page, site: Site) -> None:
    text = f"{plate_text(8, 12, title='Plate 1')}\n\n{plate_text(8, 12, title='Plate 2')}"
    open_run_plate(page, site, text)
    shown = page.get_by_role("combobox", name="Plate", exact=True)
    choose(page, "Plate", "Plate 2")
    hand = Hand(page)
    hand.drag("A1", "D1")
    hand.press("b")
    draft(page, 2)
    choose(page, "Plate", "Plate 1")
    expect(shown).to_contain_text("Plate 1")
    page.get_by_role("radio", name="List").click()
    page.get_by_role("grid", name=re.compile("Readings by group")).get_by_text("2.0000").first.click()
    page.get_by_role("radio", name="Plate", exact=True).click()
    expect(shown).to_contain_text("Plate 2")


def test_a_plate_of_counts_has_controls_and_no_blanks(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    choose(page, "The question", "Which dose kills half? Counts")
    paste(page, plate_text(8, 12))
    page.get_by_role("button", name="Open run").click()
    well(page, "A1").wait_for()
    hand = Hand(page)
    hand.drag("A1", "A12")
    expect(page.get_by_role("button", name=re.compile("^Blank"))).to_have_count(0)
    hand.press("v")
    expect(well(page, "A1")).to_have_attribute("aria-label", re.compile("^A1: Control"))
    assert described(page, "A12") == "Control Control"
    expect(page.get_by_text("No doses are laid out yet.")).to_be_visible()
    expect(
        page.get_by_text(re.compile("^A12: Control Control, "))
    ).to_be_visible()  # the well under the mouse, as it is now


def test_runs_open_where_the_browser_has_no_random_uuid(browser: Browser, site: Site) -> None:
    """As on any machine of the lab that opens the page by name over plain HTTP."""
    context = browser.new_context(base_url=site.url, permissions=["clipboard-read", "clipboard-write"])
    context.add_init_script("delete Crypto.prototype.randomUUID")
    page = context.new_page()
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    assert page.evaluate("typeof crypto.randomUUID") == "undefined"
    paste(page, "Sample\tConc (mg/L)\tA880\nStd 1\t1\t0.10\nStd 2\t2\t0.21\nStd 3\t4\t0.39\nPond\t\t0.30\n")
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_role("table", name="Answers")).to_contain_text("Pond")
    context.close()


def test_the_plate_turns_to_the_curve_chosen(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    choose(page, "The question", "Which dose has half the effect? Dose–response")
    paste(page, f"{plate_text(8, 12, title='Plate 1')}\n\n{plate_text(8, 12, title='Plate 2')}")
    page.get_by_role("button", name="Open run").click()
    well(page, "A1").wait_for()
    hand = Hand(page)
    for number, (plate, name) in enumerate((("Plate 1", "HL-1"), ("Plate 2", "HL-2")), start=2):
        choose(page, "Plate", plate)
        hand.drag("A1", "H2")
        hand.press("d")
        hand.type("30 µM")
        page.get_by_label("Series", exact=True).fill(name)
        hand.press("Enter")
        draft(page, number)
    page.get_by_role("button", name="Show the curve").click()
    shown = page.get_by_role("combobox", name="Plate", exact=True)
    for plate, name in (("Plate 2", "HL-2"), ("Plate 1", "HL-1")):
        page.get_by_role("table", name="Answers").get_by_text(name, exact=True).click()
        expect(shown).to_contain_text(plate)
