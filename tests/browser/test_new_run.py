"""From a pasted table to answers, in the browser."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import paste
from tests.tables import PHOSPHATE, fluorescein_table


def cell(page: Page, name: str, column: int) -> str:
    row = page.get_by_role("table", name="Answers").get_by_role("row").filter(has_text=name)
    return row.get_by_role("cell").nth(column).inner_text()


def test_a_published_table_becomes_its_published_answers_in_three_actions(page: Page) -> None:
    """Miller & Miller, fluorescein: 6.21 and 11.13 pg/mL on the screen."""
    page.get_by_role("button", name="New run").click()  # one
    page.get_by_label("Table of readings").wait_for()
    paste(page, fluorescein_table())  # two
    page.get_by_role("button", name="Open run").click()  # three
    page.get_by_role("table", name="Answers").wait_for()
    # The first lies below the lowest standard above zero, 2 pg/mL: a bound, until extrapolating is asked for.
    assert [cell(page, f"Unknown {y}", 3) for y in ("2.9", "13.5", "23")] == ["< 2", "6.21", "11.13"]
    assert cell(page, "Unknown 13.5", 4) == "5.59 – 6.83"
    expect(page.get_by_role("img", name="Fluorescence against Concentration / pg/mL")).to_be_visible()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("2 of 3 samples read.")


def test_what_was_understood_can_be_changed_on_the_spot(page: Page) -> None:
    page.get_by_role("button", name="New run").click()
    page.get_by_label("Table of readings").wait_for()
    paste(page, PHOSPHATE)
    expect(page.get_by_text("1 blank, 5 standards, 2 samples, 1 QC")).to_be_visible()
    page.get_by_role("combobox", name="Role of row 8").click()
    page.get_by_role("option", name="QC").click()
    expect(page.get_by_text("1 blank, 5 standards, 1 sample, 2 QCs")).to_be_visible()
    page.get_by_role("button", name=re.compile("OVER.*row 9")).click()
    page.get_by_role("menuitem", name="Missing").click()
    expect(page.get_by_text("kept as “missing”")).to_be_visible()
    page.get_by_role("combobox", name="Column 4 holds").click()
    page.get_by_role("option", name="leave out").click()
    expect(page.get_by_text("one reading each")).to_be_visible()
    page.get_by_label("Unit of the levels").fill("mmol/L")
    page.get_by_label("Unit of the levels").press("Enter")
    page.get_by_role("button", name="Show in mmol/L (convert)").click()
    expect(page.get_by_text("concentrations are in mmol/L")).to_be_visible()
    expect(page.get_by_text("Converted from µM.")).to_be_visible()
    page.get_by_label("Unit of the levels").fill("nM")
    page.get_by_label("Unit of the levels").press("Enter")
    page.get_by_role("button", name="The numbers are in nM (relabel)").click()
    expect(page.get_by_text("concentrations are in nM")).to_be_visible()
    page.get_by_label("Unit of the levels").fill("mmol/L")
    page.get_by_label("Unit of the levels").press("Enter")
    page.get_by_role("button", name="The numbers are in mmol/L (relabel)").click()
    page.get_by_label("Name", exact=True).fill("Pier in October")
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_role("region", name="Answers")).to_contain_text("mmol/L")
    assert page.title() == "Pier in October · Dosis"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("   \n", "There is nothing to read yet"),
        ("0.1\n0.2\n0.3", "Only one column was found"),
        ("Pier\tnorth\nMarsh\tsouth", "There are no numbers in this table"),
        ("1\t2\n" * 60_000, "more than 50,000 rows"),
        ("1\t2\n" * 8_300_000, "33.2 MB of text"),
    ],
)
def test_a_bad_paste_is_explained_and_another_may_follow(page: Page, text: str, said: str) -> None:
    page.get_by_role("button", name="New run").click()
    page.get_by_label("Table of readings").wait_for()
    paste(page, text)
    expect(page.get_by_text(said)).to_be_visible(timeout=20_000)
    expect(page.get_by_role("button", name="Open run")).to_be_disabled()
    paste(page, PHOSPHATE)
    expect(page.get_by_text("1 blank, 5 standards, 2 samples, 1 QC")).to_be_visible()
    expect(page.get_by_role("button", name="Open run")).to_be_enabled()


def test_ten_thousand_rows_open_and_scroll(page: Page) -> None:
    rows = "\n".join(f"Sample {i}\t\t{0.1 + i / 20_000:.4f}" for i in range(10_000))
    page.get_by_role("button", name="New run").click()
    page.get_by_label("Table of readings").wait_for()
    paste(page, f"Name\tConc (µM)\tA\nStd 1\t1\t0.05\nStd 2\t2\t0.9\nStd 3\t3\t1.8\n{rows}")
    expect(page.get_by_text("3 standards, 10,000 samples")).to_be_visible(timeout=20_000)
    pasted = page.get_by_role("table", name="Pasted table")
    pasted.evaluate("table => table.scrollTo(0, table.scrollHeight)")
    expect(pasted.get_by_text("Sample 9999", exact=True)).to_be_visible()  # the first rows came first
    page.get_by_role("button", name="Open run").click()
    answers = page.get_by_role("table", name="Answers")
    expect(answers).to_be_visible(timeout=90_000)
    answers.locator("xpath=..").evaluate("frame => frame.scrollTo(0, frame.scrollHeight)")
    expect(answers.get_by_text("Sample 9999", exact=True)).to_be_visible()
    assert answers.get_by_role("row").count() < 100  # only what is seen is drawn


def test_an_unknown_address_and_an_unknown_run_say_so(page: Page) -> None:
    page.goto("/nowhere")
    expect(page.get_by_text("There is nothing at this address.")).to_be_visible()
    page.goto("/runs/999999")
    expect(page.get_by_text("No such run.")).to_be_visible()


def test_home_shows_the_demo_runs_as_cards_and_makes_studies(page: Page) -> None:
    page.goto("/studies/1")
    page.get_by_role("searchbox", name="Find runs").fill("marsh transect")
    card = page.get_by_role("link", name=re.compile("Phosphate, marsh transect"))
    expect(card).to_contain_text("6 of 7 samples read.")
    page.get_by_role("button", name="New study").click()
    page.get_by_label("Name of the study").fill("Winter survey")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Winter survey")).to_be_visible()
    expect(page.get_by_text("No runs in this study yet.")).to_be_visible()
