"""The guide beside the work, and the page of the API, in the browser."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import open_run
from tests.conftest import Site
from tests.tables import PHOSPHATE


def test_a_step_a_check_and_a_statistic_lead_to_their_paragraph_and_the_work_stays(page: Page, site: Site) -> None:
    open_run(page, site, PHOSPHATE)
    working = page.get_by_role("region", name="Working")
    for step, about, title in (
        ("Blank", "Blank", "Blank"),
        ("Curve", "RMSE", "SSE and RMSE"),
        ("Checks", "QC recovered", "QC recovered"),
    ):
        button = working.get_by_role("button", name=re.compile(f"^{step}")).first
        if button.get_attribute("aria-expanded") == "false":
            button.click()
        if step == "Curve":
            working.get_by_text("All statistics").click()
        page.get_by_role("button", name=f"Guide: {about}", exact=True).first.click()
        heading = page.get_by_role("complementary", name="Guide").get_by_role("heading", name=title, exact=True)
        expect(heading).to_be_in_viewport()
    expect(page.get_by_role("table", name="Answers")).to_be_visible()
    page.keyboard.press("F1")
    expect(page.get_by_role("complementary", name="Guide")).to_have_count(0)


def test_the_guide_is_searched_by_the_words_a_person_has(page: Page) -> None:
    page.keyboard.press("F1")
    guide = page.get_by_role("complementary", name="Guide")
    expect(guide.get_by_role("searchbox")).to_be_focused()
    page.keyboard.type("spearman")
    expect(guide.get_by_role("heading", level=3)).not_to_have_count(0)
    expect(guide.locator("section").first).to_contain_text("Spearman")
    page.keyboard.type(" qqq")
    expect(guide).to_contain_text("Nothing in the guide holds these words.")
    page.keyboard.press("Escape")
    expect(guide).to_have_count(0)


def test_the_api_is_described_from_its_own_document(page: Page) -> None:
    page.keyboard.press("Control+k")
    page.keyboard.type("api")
    page.get_by_role("option", name="Read about the API").click()
    expect(page.get_by_role("heading", name="API", exact=True)).to_be_visible()
    changes = page.get_by_role("article").filter(has_text="/api/runs/{id}/changes")
    expect(changes).to_contain_text("409 when the run has moved on")
    changes.get_by_role("button").first.click()
    expect(changes.get_by_role("table", name=re.compile("^Fields of "))).to_contain_text("whole number")
