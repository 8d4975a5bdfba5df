"""Tables of twenty shapes from paste to answer, with the actions counted: five at most where a table is plain."""

import json
import re
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import paste
from tests.browser.hand import Hand
from tests.intake.corpus import CORPUS

MOST = 5
PLAIN = {
    "dose and five compounds": "5 of 5 series",
    "time and five trials": "in 5 courses",
    "wavelength and seven scans": "in 7 scans",
    "temperature and rate in triplicate": "Line through 21 points",
    "an error column": "Line through 4 points",
    "two series, each with its SD": "2 of 2 series have a curve",
    "pairs of x and y": "2 of 2 series have a curve",
    "pairs under merged headings": "B IC50",
    "units in a second heading row": "2 of 2 series have a curve",
    "turned": "Pier read",
    "names that look like headings": "4 of 4 samples read",
    "dilutions in words": "4 of 4 samples read",
    "levels worked out": "Pier read",
    "log10 doses": "EC50",
    "counts in words": "LC50",
    "counts at two times in the headings": "LC50",
    "counts as shares": "LD50",
    "German, decimal comma": "2 of 2 samples read",
    "an instrument's log": "2 of 2 series have a curve",
    "pressure and volume": "Line through 5 points",
}


@pytest.mark.parametrize("shape", PLAIN)
def test_a_plain_table_is_answered_in_five_actions(page: Page, shape: str) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    hand = Hand(page)
    hand.paste(CORPUS[shape][0])
    hand.click(page.get_by_role("button", name="Open run"))
    expect(page.get_by_role("status", name="Verdict")).to_contain_text(PLAIN[shape])
    assert hand.actions <= MOST


def test_a_look_up_table_is_read_in_place(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    hand = Hand(page)
    hand.paste(CORPUS["a look-up table"][0])
    hand.click(page.get_by_role("button", name="Open run"))
    hand.click(page.get_by_role("button", name="Read off the table"))
    expect(page.get_by_text("are read off by straight lines")).to_be_visible()
    hand.click(page.get_by_role("button", name="Predict", exact=False).first)
    field = page.get_by_label("Read y at these x")
    hand.click(field)
    hand.type("10; 99")
    page.keyboard.press("Enter")
    table = page.get_by_role("table", name="Predictions")
    # Halfway between 8 (5.3) and 12 (8.2).
    expect(table.get_by_role("row").nth(1)).to_contain_text("6.75")
    expect(table.get_by_role("row").nth(2)).to_contain_text("never extrapolated")
    assert hand.actions <= MOST


NIST: dict[str, Any] = json.loads(Path("tests/reference/nist_nonlinear.json").read_text("utf-8"))["sets"]


@pytest.mark.parametrize("name", ["Misra1a", "BoxBOD", "DanWood", "Rat42", "MGH10"])
def test_an_equation_is_typed_and_comes_to_what_nist_certifies(page: Page, name: str) -> None:
    """From start 1, the worse one, typed. Source: NIST StRD, nonlinear regression."""
    case = NIST[name]
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, "\n".join(["x\tsignal", *(f"{x}\t{y}" for x, y in zip(case["x"], case["y"], strict=True))]))
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("button", name="Own equation").click()
    page.get_by_label("Equation in x and parameters").fill(case["formula"])
    for parameter, start in zip(case["parameters"], case["start1"], strict=True):
        field = page.get_by_label(f"Start of {parameter}")
        page.get_by_role("cell", name=parameter, exact=True).wait_for()
        if field.count():
            field.fill(str(start))
    use = page.get_by_role("button", name="Use this equation")
    expect(use).to_be_enabled()
    page.get_by_text("Result of every start").click()
    expect(page.get_by_role("table", name="Result of every start")).to_contain_text("best")
    use.click()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Own equation through")
    address = page.url.rsplit("/", 1)[1]
    outcome = page.request.get(f"/api/runs/{address}").json()["revision"]["outcome"]
    columns = {column["id"]: column for column in outcome["answers"]["columns"]}
    for parameter, certified in zip(case["parameters"], case["certified"], strict=True):
        assert columns[f"parameter_{parameter}"]["values"][0] == pytest.approx(certified, rel=1e-8)


def test_a_cell_and_a_heading_are_set_right_and_the_intake_is_opened_again(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(
        page, "Sample\tConc (µM)\tA880\nBlank\t\t0.02\nStd 1\t1\t0.12\nStd 2\t2\t0.22\nStd 3\t4\t0.42\nPier\t\t0.3O\n"
    )
    cell = page.get_by_role("cell", name="0.3O")
    cell.get_by_role("button").click()
    page.get_by_role("menuitem", name="Set it right").click()
    page.keyboard.type("0.30")
    page.keyboard.press("Enter")
    expect(page.get_by_title("0.30 — typed was “0.3O”")).to_be_visible()
    page.get_by_role("columnheader").get_by_text("A880").dblclick()
    page.keyboard.type("A890")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Name of the signal")).to_have_value("A890")
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Pier read")
    page.get_by_role("link", name="Intake…").click()
    page.get_by_role("button", name="Choose row 3").click()
    page.get_by_role("button", name="Choose row 4").click(modifiers=["Shift"])
    page.get_by_role("combobox", name="Role of row 4").click()
    page.get_by_role("option", name="Not used").click()
    expect(page.get_by_text("1 standard,")).to_be_visible()
    page.get_by_role("button", name="Save as a revision").click()
    expect(page.get_by_text("Revision 2")).to_be_visible()
    expect(page.get_by_role("status", name="Verdict")).not_to_contain_text("Pier read.")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Pier read")


def test_a_run_is_asked_something_else(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, CORPUS["temperature and rate in triplicate"][0])
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Line through 21 points")
    page.get_by_role("combobox", name="The question of this run").click()
    page.get_by_role("option", name="Dose–response").click()
    expect(page.get_by_role("button", name=re.compile("^Half effect"))).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("Line through 21 points")


def test_a_line_is_weighted_by_its_column_of_errors(page: Page) -> None:
    """Miller & Miller, Statistics and Chemometrics for Analytical Chemistry, weighted regression."""
    case = json.loads(Path("tests/reference/cal_weighted_miller.json").read_text("utf-8"))
    data, published = case["data"], case["published_values"]
    rows = zip(data["x"], data["y"], data["sd"], strict=True)
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, "\n".join(["Dial\tAbsorbance\tSD", *(f"{x}\t{y}\t{s}" for x, y, s in rows)]))
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("button", name="Weight them by their errors").click()
    expect(page.get_by_text("weights 1/error²")).to_be_visible()
    outcome = page.request.get(f"/api/runs/{page.url.rsplit('/', 1)[1]}").json()["revision"]["outcome"]
    columns = {column["id"]: column for column in outcome["answers"]["columns"]}
    assert columns["parameter_slope"]["values"][0] == pytest.approx(published["weighted_slope"], abs=5e-5)
    assert columns["parameter_intercept"]["values"][0] == pytest.approx(published["weighted_intercept"], abs=5e-5)


def test_of_very_many_columns_those_in_view_are_drawn_and_all_can_be_reached(page: Page) -> None:
    names = [f"CMP-{i:04d}" for i in range(400)]
    rows = [
        [f"{10 / 4**k:g}", *(f"{100 / (1 + 10 / 4**k / (0.1 + 0.01 * i)):.2f}" for i in range(400))] for k in range(6)
    ]
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, "\n".join("\t".join(row) for row in [["Dose (µM)", *names], *rows]))
    table = page.get_by_role("table", name="Pasted table")
    expect(table).to_have_attribute("aria-colcount", "403")
    expect(table.get_by_role("columnheader", name="CMP-0000")).to_be_visible()
    expect(table.get_by_role("columnheader", name="CMP-0399")).to_have_count(0)
    assert table.get_by_role("columnheader").count() < 40
    table.evaluate("table => table.scrollTo(table.scrollWidth, 0)")
    last = table.get_by_role("columnheader", name="CMP-0399")
    expect(last).to_be_in_viewport()
    # Its numbers stand under it.
    number = table.get_by_role("row").nth(1).get_by_role("cell", name=rows[0][-1], exact=True).last
    heading, below = last.bounding_box(), number.bounding_box()
    assert heading and below and abs(heading["x"] - below["x"]) < 2
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_text("400 of 400 series have a half-effect dose")).to_be_visible(timeout=60_000)
