"""A whole job without the mouse, with the keys counted: paste, open, look, exclude with a reason, undo, take along."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import open_card, paste

TABLE = "\n".join([
    "Sample\tConc (µM)\tA880\tA880", "Blank\t\t0.020\t0.021", "Std 1\t1\t0.120\t0.121", "Std 2\t2\t0.219\t0.222",
    "Std 3\t4\t0.420\t0.418", "Std 4\t8\t0.820\t0.823",
    *(f"Pond {i}\t\t{0.15 + 0.03 * i:.3f}\t{0.151 + 0.03 * i:.3f}" for i in range(20)),
])  # fmt: skip


class Keys:
    """Keys, counted; typing a word is one for each letter."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.count += 1

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.count += len(text)


def test_a_whole_job_is_done_by_key(page: Page) -> None:
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    keys = Keys(page)
    paste(page, TABLE)
    expect(page.get_by_role("button", name="Open run")).to_be_focused()
    keys.press("Enter")
    page.get_by_role("region", name="Answers").wait_for()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("20 of 20 samples read")

    # Ten keys from the top of the page to any answer.
    keys.count = 0
    keys.press("Tab", "Enter")
    expect(page.get_by_role("button", name=re.compile("Pond 0$"))).to_be_focused()
    keys.press("PageDown", "ArrowDown", "ArrowDown", "ArrowDown")
    expect(page.get_by_role("button", name=re.compile("Pond 13$"))).to_be_focused()
    keys.press("Enter")
    expect(page.get_by_role("region", name="Show working", exact=True)).to_contain_text("Read back")
    assert keys.count <= 10
    expect(page.get_by_role("button", name=re.compile("Pond 13$"))).to_be_focused()

    keys.press("x")
    reason = page.get_by_label("Reason")
    expect(reason).to_be_focused()
    keys.type("spilled")
    keys.press("Enter")
    expect(page.get_by_text("Revision 2")).to_be_visible()
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("19 of 20 samples read")
    # Where the work was, it goes on.
    expect(page.get_by_role("button", name=re.compile("Pond 13$"))).to_be_focused()
    keys.press("Control+z")
    expect(page.get_by_role("status", name="Verdict")).to_contain_text("20 of 20 samples read")
    expect(page.get_by_role("button", name=re.compile("Pond 13$"))).to_be_focused()

    keys.count = 0
    keys.press("Control+k")
    page.get_by_placeholder("Find a run").wait_for()
    keys.type("xlsx")
    with page.expect_download() as download:
        keys.press("Enter")
    assert download.value.suggested_filename.endswith(".xlsx")
    assert keys.count <= 6


def test_the_difference_in_the_ledger_is_scrolled_by_key(page: Page) -> None:
    page.goto("/studies/1")
    open_card(page, "Domoic acid, plate 3")
    page.get_by_role("tab", name="Ledger").click()
    part = page.get_by_role("region", name="Difference")
    part.focus()
    expect(part).to_be_focused()
    page.keyboard.press("End")
    page.wait_for_function("document.querySelector('[aria-label=Difference]').scrollTop > 0")
