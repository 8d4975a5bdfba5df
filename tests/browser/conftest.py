"""The real interface in headless Chromium, each test with a fresh context."""

import re
from collections.abc import Iterator
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.conftest import Site

CHROMIUM = "/usr/bin/chromium"
SECONDS = 60  # a loaded machine is slow, not wrong
expect.set_options(timeout=1000 * SECONDS)
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield chromium
        chromium.close()


@pytest.fixture
def page(browser: Browser, site: Site) -> Iterator[Page]:
    """A page at home; an error on its console that no test expects fails the test."""
    context = browser.new_context(
        base_url=site.url, viewport={"width": 1280, "height": 800}, permissions=["clipboard-read", "clipboard-write"]
    )
    context.set_default_timeout(1000 * SECONDS)
    page = context.new_page()
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.goto("/studies/1")  # the demo, whichever study was worked in last
    page.get_by_role("navigation", name="Studies").get_by_role("link").first.wait_for()  # the keys are listened to
    yield page
    context.close()
    assert errors == []


def current_draft(page: Page) -> int:
    """The number of the revision shown: demo runs have been worked in before, in whatever order tests come."""
    return int((page.get_by_text(re.compile(r"^Revision \d+$")).text_content() or "").removeprefix("Revision "))


def paste(page: Page, text: str) -> None:
    """Paste as a person does: from the clipboard, with the keyboard."""
    page.evaluate("text => navigator.clipboard.writeText(text)", text)
    page.keyboard.press("Control+v")


def open_card(page: Page, title: str) -> None:
    """A run of Home, found by its title: of many the cards in view are drawn."""
    page.get_by_role("searchbox", name="Find runs").fill(title)
    page.get_by_role("list", name="Runs").get_by_role("link", name=re.compile(re.escape(title))).first.click()


def open_run(page: Page, site: Site, text: str) -> int:
    """A run opened through the API and shown in the page."""
    body = {"study": 1, "title": "Run under test", "key": str(uuid4()), "text": text}
    run = int(site.client.post("/api/runs", json=body).raise_for_status().json()["run"]["id"])
    page.goto(f"/runs/{run}")
    page.get_by_role("region", name="Answers").wait_for()
    return run
