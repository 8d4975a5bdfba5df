"""Potency from paste to units, NOEC, budgets, what decides an answer and what to read next, by mouse and keys."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import open_run, paste
from tests.conftest import Site
from tests.run.test_influence import TABLE
from tests.run.test_noec import AT, CONTROL
from tests.run.test_potency import RATS


def answer(page: Page, name: str) -> str:
    row = page.get_by_role("region", name="Answers").get_by_role("row", name=re.compile(f"^{re.escape(name)}")).first
    row.wait_for()
    return row.text_content() or ""


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).first.click()


def open_step(page: Page, name: str) -> None:
    page.get_by_role("button", name=re.compile(f"^{name}")).first.click()


def typed(page: Page, label: str, text: str) -> None:
    page.get_by_label(label, exact=True).fill(text)
    page.keyboard.press("Enter")


def test_a_potency_in_units_of_its_reference(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, RATS)
    expect(page.get_by_text("How strong is it beside a reference?").first).to_be_visible()
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_text("Not parallel to S: U")).to_be_visible()
    assert "not parallel" in answer(page, "U")
    typed(page, "Declared potency of the reference", "200")
    typed(page, "Unit of potency", "IU/mg")
    expect(page.get_by_role("region", name="Answers")).to_contain_text("Potency IU/mg")
    expect(page.get_by_text("T 228", exact=False).first).to_be_visible()
    variance = page.get_by_role("region", name="Analysis of variance")
    expect(variance).to_contain_text("Non-parallelism")
    expect(variance).to_contain_text("8218")
    open_step(page, "Checks")
    choose(page, "Parallel by", "equivalence is shown")
    expect(page.get_by_text("Not shown to be parallel: T, U.")).to_be_visible()
    answers = page.get_by_role("region", name="Answers")
    answers.get_by_role("row", name=re.compile("^T")).first.get_by_role("cell").nth(1).click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("Fieller")


def test_noec_beside_an_effect_dose(page: Page, site: Site) -> None:
    rows = ["Sample\tDose (mg/L)\tResponse", *(f"Vehicle\t\t{y}" for y in CONTROL)]
    rows += [f"TP-17\t{x:g}\t{y}" for x, ys in AT.items() for y in ys]
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, "\n".join(rows))
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("region", name="Answers").wait_for()
    open_step(page, "No effect")
    expect(page.get_by_text("Switched off; an effect dose says more.")).to_be_visible()
    choose(page, "Test against the control", "Williams")
    expect(page.get_by_text("NOEC 3, LOEC 10 mg/L", exact=False)).to_be_visible()
    expect(page.get_by_role("region", name=re.compile("Against the control"))).to_contain_text("not shown")
    typed(page, "Risk in percent", "60")
    expect(page.get_by_text("Type a percentage between 0 and 50, such as 5.")).to_be_visible()


def test_a_budget_what_decides_and_what_next(page: Page, site: Site) -> None:
    open_run(page, site, TABLE)
    open_step(page, "Uncertainty")
    expect(page.get_by_text("Intervals are of the regression alone.")).to_be_visible()
    page.get_by_role("button", name="Add a source").click()
    typed(page, "Size of source 1 in percent", "100*0.2/10")
    expect(page.get_by_label("Size of source 1 in percent")).to_have_value("2")
    expect(page.get_by_role("region", name="Answers")).to_contain_text("U (k = 2)")
    page.get_by_role("region", name="Answers").get_by_role("row", name=re.compile("Pond")).first.click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("of the variance")
    page.get_by_role("button", name="What decides this answer?").click()
    decides = page.get_by_role("region", name="What decides this answer")
    expect(decides).to_contain_text("Std 3 4")
    expect(decides).to_contain_text("without it")
    page.get_by_role("button", name="What next?").click()
    plan = page.get_by_role("region", name="What next")
    expect(plan).to_contain_text("for the whole curve (D)")
    typed(page, "Half-width wanted, in percent", "20")
    expect(plan).to_contain_text("± 20 %")
    decides.get_by_role("button", name="Std 3 4").first.click()
    expect(page.get_by_role("region", name="Show working")).to_contain_text("Std 3")


def test_preparations_are_said_in_the_assign_dialog(page: Page, site: Site) -> None:
    open_run(page, site, TABLE)
    for name in ("Pond", "Marsh"):
        page.get_by_role("region", name="Answers").get_by_role("row", name=re.compile(name)).first.click()
        page.keyboard.press("a")
        page.get_by_role("textbox", name=re.compile("A preparation of")).fill("Water")
        page.get_by_role("button", name="Assign", exact=True).click()
        page.get_by_role("dialog").wait_for(state="hidden")
    table = page.get_by_role("region", name="Preparations taken together")
    expect(table).to_contain_text("Water")
    expect(table).to_contain_text("nested, REML; t 12.7 of 1 df")
