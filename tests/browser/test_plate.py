"""Laying a plate out in the browser, by mouse and by keyboard, within the actions a person should need."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import open_run, paste
from tests.browser.hand import Hand, described, selected, well
from tests.conftest import Site
from tests.tables import plate_text


@pytest.fixture
def plate(page: Page, site: Site) -> Page:
    """A 96-well plate, just opened."""
    open_run_plate(page, site, plate_text(8, 12))
    return page


def open_run_plate(page: Page, site: Site, text: str) -> int:
    from uuid import uuid4

    body = {"study": 1, "title": "Plate under test", "key": str(uuid4()), "text": text}
    run = int(site.client.post("/api/runs", json=body).raise_for_status().json()["run"]["id"])
    page.goto(f"/runs/{run}")
    well(page, "A1").wait_for()
    return run


def draft(page: Page, number: int) -> None:
    expect(page.get_by_text(f"Revision {number}", exact=True)).to_be_visible()


def test_a_pasted_grid_is_laid_out_in_twelve_actions(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    hand = Hand(page)
    hand.paste(plate_text(8, 12, title="Absorbance 450 nm"))
    expect(page.get_by_text("A plate of 96 wells")).to_be_visible()
    hand.click(page.get_by_role("button", name="Open run"))
    well(page, "A1").wait_for()
    hand.drag("A1", "H2")
    hand.press("d")
    hand.type("20 µg/L")
    hand.press("Enter")
    draft(page, 2)
    hand.drag("A3", "H11")
    hand.press("n")
    hand.type("M-101")
    hand.press("Enter")
    draft(page, 3)
    hand.drag("A12", "D12")
    hand.press("b")
    draft(page, 4)
    assert hand.actions <= 12
    assert described(page, "A1") == described(page, "A2") == "Standard Std 1"
    assert described(page, "H2") == "Standard Std 8"
    assert described(page, "A3") == described(page, "A5") == "Sample M-101"
    assert described(page, "H11") == "Sample M-124"
    assert [described(page, f"{row}12") for row in "ABCDE"] == ["Blank Blank"] * 4 + ["no role"]
    legend = page.get_by_role("list", name="What the wells are")
    for text in ("Standard 8 × 2", "Blank 4", "Sample 24 × 3"):
        expect(legend).to_contain_text(text)
    page.get_by_role("button", name="Show the curve").click()
    answers = page.get_by_role("table", name="Answers")
    expect(answers).to_have_attribute("aria-rowcount", "24")
    expect(answers).to_contain_text("M-101")


def test_a_messy_turned_table_becomes_a_line_in_five_actions(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    hand = Hand(page)
    hand.paste(
        "Sample\tBlank\tStd 1\tStd 2\tStd 3\tStd 4\tPond\nConc\t0 mg/L\t500 µg/L\t1 mg/L\t2 mg/L\t4 mg/L\t\n"
        "A880\t0.010\t0.051\t0.102\t0.198\t0.401\t0.077\nA880\t0.011\t0.052\t0.104\t0.200\tOVER\t0.075\n"
    )
    expect(page.get_by_text("Turned:")).to_be_visible()
    hand.click(page.get_by_role("button", name="Open run"))
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Pond read.")
    assert hand.actions <= 5
    expect(page.get_by_role("img", name="Blank-corrected A880 against Concentration / mg/L")).to_be_visible()


def test_wells_are_selected_by_headings_shift_and_ctrl(plate: Page) -> None:
    plate.get_by_role("columnheader", name="Column 3", exact=True).click()
    assert selected(plate) == 8
    plate.get_by_role("rowheader", name="Row B", exact=True).click(modifiers=["Control"])
    assert selected(plate) == 8 + 12 - 1
    plate.get_by_role("columnheader", name="Whole plate").click()
    assert selected(plate) == 96
    well(plate, "C3").click()
    well(plate, "E6").click(modifiers=["Shift"])
    assert selected(plate) == 12
    well(plate, "C3").click(modifiers=["Control"])
    assert selected(plate) == 11
    plate.keyboard.press("e")
    assert selected(plate) == 2 * 12 + 2 * 6


def test_a_plate_is_laid_out_by_keyboard_alone(plate: Page) -> None:
    plate.get_by_role("grid", name=re.compile("arrows move")).focus()
    for key in ("ArrowDown", "ArrowUp"):
        plate.keyboard.press(key)
    for _ in range(7):
        plate.keyboard.press("Shift+ArrowDown")
    plate.keyboard.press("Shift+ArrowRight")
    assert selected(plate) == 16
    plate.keyboard.press("d")
    expect(plate.get_by_label("Top", exact=True)).to_be_focused()
    plate.keyboard.type("100 nM")
    expect(plate.get_by_text("8 groups × 2: 100, 50, 25 … 0.7813 nM")).to_be_visible()
    assert described(plate, "B1") == "Standard Std 2"  # on the plate before it is applied
    draft(plate, 1)
    plate.keyboard.press("Enter")
    draft(plate, 2)
    plate.keyboard.press("Control+z")
    draft(plate, 3)
    assert described(plate, "B1") == "no role"


def test_a_form_says_what_is_wrong_before_it_is_applied(plate: Page) -> None:
    hand = Hand(plate)
    hand.drag("A1", "H1")
    hand.press("d")
    hand.type("20 furlongs")
    expect(plate.get_by_text("“furlongs” in “20 furlongs” is not a unit that Dosis knows.")).to_be_visible()
    expect(plate.get_by_role("button", name="Apply")).to_be_disabled()
    plate.keyboard.press("Escape")
    assert described(plate, "A1") == "no role"


def test_levels_are_worked_out_from_what_was_weighed(plate: Page) -> None:
    hand = Hand(plate)
    hand.drag("A1", "A3")
    hand.press("a")
    plate.get_by_role("radio", name="Standard").click()
    plate.get_by_role("combobox", name="How the Level is given").click()
    plate.get_by_role("option", name="weighed in").click()
    plate.get_by_label("Mass", exact=True).fill("13.61 mg")
    plate.get_by_label("Made up to").fill("100 mL")
    plate.get_by_label("Molar mass / g/mol").fill("136.09")
    expect(plate.get_by_text("13.61 mg ÷ (136.09 g/mol × 100 mL) = 0.00100007 mol/L")).to_be_visible()
    plate.get_by_role("button", name="Apply").click()
    draft(plate, 2)
    assert described(plate, "A3") == "Standard Std 1"


def test_excluding_wells_with_a_reason_and_clearing_them(plate: Page) -> None:
    hand = Hand(plate)
    hand.drag("A12", "D12")
    hand.press("b")
    draft(plate, 2)
    hand.drag("A12", "B12")
    hand.press("x")
    plate.get_by_label("Reason").fill("Edge effect")
    plate.keyboard.press("Enter")
    draft(plate, 3)
    expect(well(plate, "A12")).to_have_attribute("aria-label", re.compile("excluded: Edge effect"))
    hand.drag("A12", "D12")
    hand.press("Delete")
    draft(plate, 4)
    assert described(plate, "A12") == "no role"


def test_a_layout_is_saved_and_laid_on_another_plate(plate: Page, site: Site) -> None:
    hand = Hand(plate)
    hand.drag("A1", "H2")
    hand.press("d")
    hand.type("20 µg/L")
    hand.press("Enter")
    draft(plate, 2)
    plate.get_by_role("button", name="Layouts…").click()
    plate.get_by_label("Save this plate's layout as").fill("Eight in duplicate")
    plate.keyboard.press("Enter")
    expect(plate.get_by_text("Layout “Eight in duplicate” saved.")).to_be_visible()
    open_run_plate(plate, site, plate_text(8, 12, empty=("A1",)))
    plate.get_by_role("button", name="Layouts…").click()
    plate.get_by_role("listitem").filter(has_text="Eight in duplicate").get_by_role("button", name="Apply").click()
    draft(plate, 2)
    assert described(plate, "H2") == "Standard Std 8"
    expect(plate.get_by_text("A1 has a role but no reading.")).to_be_visible()


def test_plate_and_list_are_two_views_of_one_layout(plate: Page) -> None:
    hand = Hand(plate)
    hand.drag("A12", "D12")
    hand.press("b")
    draft(plate, 2)
    plate.get_by_role("radio", name="List").click()
    expect(plate.get_by_role("grid", name=re.compile("Readings by group"))).to_contain_text("Blank")
    plate.get_by_role("radio", name="Plate", exact=True).click()
    assert described(plate, "D12") == "Blank Blank"


@pytest.mark.parametrize(("rows", "columns"), [(16, 24), (32, 48)])
def test_large_plates_are_drawn_and_selected(page: Page, site: Site, rows: int, columns: int) -> None:
    open_run_plate(page, site, plate_text(rows, columns))
    assert page.locator("[id^=well-]").count() == rows * columns
    page.get_by_role("columnheader", name="Column 2", exact=True).click()
    assert selected(page) == rows
    page.get_by_role("button", name="Larger wells").click()
    expect(well(page, "B2")).to_be_visible()


def test_a_column_is_derived_from_two_wavelengths(page: Page, site: Site) -> None:
    two = plate_text(8, 12, title="Wavelength: 450 nm") + "\n\n" + plate_text(8, 12, title="Wavelength: 620 nm")
    open_run_plate(page, site, two)
    hand = Hand(page)
    hand.drag("A12", "B12")
    hand.press("a")
    page.get_by_role("radio", name="Sample").click()
    page.get_by_role("button", name="Apply").click()
    draft(page, 2)
    page.get_by_role("button", name="Show the curve").click()
    page.get_by_role("button", name=re.compile("^Signal (passes|look|fails)")).click()
    page.get_by_role("button", name="Derive a column…").click()
    page.get_by_label("Name", exact=True).fill("Half")
    page.get_by_label("Expression").fill("({450 nm} + {620 nm")
    expect(page.get_by_role("alert")).to_contain_text("has no meaning in an expression")
    page.get_by_label("Expression").fill("({450 nm} + {620 nm})/4")
    first = page.get_by_role("table", name="First readings").get_by_role("row").nth(1)
    expect(first.get_by_role("cell").last).to_have_text("1.000")  # (2 + 2)/4
    page.get_by_role("button", name="Use it as the signal").click()
    expect(page.get_by_role("region", name="Working")).to_contain_text("Half = ({450 nm} + {620 nm})/4")


def test_a_look_up_table_is_kept_and_used_both_ways(page: Page, site: Site) -> None:
    open_run(page, site, "Sample\tConc (psu)\tConductivity (mS/cm)\nStd 1\t10\t15\nStd 2\t20\t25\nQuay\t\t18\n")
    page.get_by_role("button", name=re.compile("^Signal (passes|look|fails)")).click()
    page.get_by_role("button", name="Derive a column…").click()
    page.get_by_label("Name", exact=True).fill("Salinity")
    page.get_by_role("button", name="New table…").click()
    page.get_by_label("Name of the table").fill("salt")
    page.get_by_label("Two columns of the table").fill("mS/cm\tpsu\n10\t5\n20\t11\n")
    page.get_by_role("button", name="Save the table").click()
    expect(page.get_by_text("salt")).to_be_visible()
    page.get_by_label("Expression").fill("lookup(salt, Conductivity)")
    rows = page.get_by_role("table", name="First readings").get_by_role("row")
    expect(rows.nth(1)).to_contain_text("8.000")  # halfway from 5 to 11
    expect(rows.nth(2)).to_contain_text("—")  # 25 is outside the table
    page.get_by_label("Expression").fill("lookback(salt, lookup(salt, Conductivity))")
    expect(rows.nth(1).get_by_role("cell").last).to_have_text("15.00")


def test_a_reading_arrives_from_an_instrument_and_its_faults_are_survived(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_role("radio", name="Instrument").click()
    page.get_by_role("button", name="Spectrophotometer").click()
    read = page.get_by_role("button", name="Read", exact=True)
    expect(read).to_be_enabled(timeout=20_000)  # the lamp warms up first
    page.get_by_role("button", name="lid: closed").click()
    expect(page.get_by_text("The cell compartment is open. Close it and read again.")).to_be_visible()
    expect(read).to_be_disabled()
    page.get_by_role("button", name="lid: open").click()
    page.get_by_role("button", name="cable: firm").click()
    expect(page.get_by_role("button", name="cable: loose")).to_be_visible()
    expect(read).to_be_enabled()
    read.click()
    expect(page.get_by_role("progressbar", name="Reading")).to_be_visible()
    expect(page.get_by_text("The connection to the instrument was lost.")).to_be_visible()
    page.get_by_role("button", name="Fetch the values again").click()
    expect(page.get_by_text("of 61 wavelengths")).to_be_visible()
    # Asked for what is in samples, the scan is one reading of a sample at 61 wavelengths.
    page.get_by_role("combobox", name="The question").click()
    page.get_by_role("option", name="How much is in my samples?").click()
    expect(page.get_by_text("61 readings of each row")).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("button", name=re.compile("^Signal (passes|look|fails)")).click()
    page.get_by_role("button", name="Use 565 nm, the highest on average").click()
    expect(page.get_by_role("region", name="Working")).to_contain_text("565 nm as read")


def test_readings_are_typed_with_the_keyboard(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_role("radio", name="Type", exact=True).click()
    expect(page.get_by_role("grid", name="Typed table")).to_be_focused()
    for cell in ("Std 1", "1", "0.05", "0.051"):
        page.keyboard.type(cell)
        page.keyboard.press("Tab")
    page.keyboard.press("Tab")  # past the last column begins the next row
    paste(page, "Std 2\t2\t0.1\t0.102\nPond\t\t0.07\t0.072")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+y")
    page.get_by_role("button", name="Read this table").click()
    expect(page.get_by_text("2 standards, 1 sample")).to_be_visible()
    page.get_by_role("button", name="Back to typing").click()
    expect(page.get_by_role("gridcell").filter(has_text="0.102")).to_be_visible()


def test_cells_are_filled_down_and_on(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_role("radio", name="Type", exact=True).click()
    grid = page.get_by_role("grid", name="Typed table")
    expect(grid).to_be_focused()
    paste(page, "Std 1\t0.5\nStd 2\t1.0")
    page.locator("#typed-1-0").click()
    page.locator("#typed-5-1").click(modifiers=["Shift"])
    page.keyboard.press("Control+e")
    expect(page.locator("#typed-5-0")).to_have_text("Std 5")
    expect(page.locator("#typed-5-1")).to_have_text("2.5")
    page.keyboard.press("Control+d")
    expect(page.locator("#typed-5-0")).to_have_text("Std 1")
    page.keyboard.press("Control+z")
    expect(page.locator("#typed-5-0")).to_have_text("Std 5")


def test_files_are_chosen_and_kept(page: Page, site: Site) -> None:
    page.goto("/studies/1/new")
    page.get_by_role("radio", name="File").click()
    page.get_by_label("Files of readings").set_input_files("tests/intake/exports/37_plate.xlsx")
    expect(page.get_by_text("A plate of 96 wells")).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    well(page, "H12").wait_for()
    run = page.url.rsplit("/", maxsplit=1)[-1]
    kept = site.client.get(f"/api/runs/{run}/source")
    with open("tests/intake/exports/37_plate.xlsx", "rb") as file:
        assert kept.content == file.read()
    assert "37_plate.xlsx" in kept.headers["content-disposition"]
