"""A person's hand on a plate: what it does, and how many actions that was."""

import re

from playwright.sync_api import Locator, Page

from dosis.run.wells import parse_well
from tests.browser.conftest import paste


class Hand:
    """Clicks, key chords, pastes and drags, counted; typing into a field that has the focus is none."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.actions = 0

    def paste(self, text: str) -> None:
        self.actions += 1
        paste(self.page, text)

    def click(self, what: Locator) -> None:
        self.actions += 1
        what.click()

    def press(self, chord: str) -> None:
        self.actions += 1
        self.page.keyboard.press(chord)

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)

    def drag(self, first: str, last: str, held: str = "") -> None:
        self.actions += 1
        start, end = (well(self.page, name).bounding_box() for name in (first, last))
        assert start and end
        if held:
            self.page.keyboard.down(held)
        self.page.mouse.move(start["x"] + start["width"] / 2, start["y"] + start["height"] / 2)
        self.page.mouse.down()
        self.page.mouse.move(end["x"] + end["width"] / 2, end["y"] + end["height"] / 2, steps=4)
        self.page.mouse.up()
        if held:
            self.page.keyboard.up(held)


def well(page: Page, name: str) -> Locator:
    row, column = parse_well(name) or (0, 0)
    return page.locator(f"#well-{row}-{column}")


def described(page: Page, name: str) -> str:
    """What a well says it is, without what was read there."""
    return re.sub(r"^\w+: ", "", well(page, name).get_attribute("aria-label") or "").split(",", maxsplit=1)[0]


def selected(page: Page) -> int:
    return page.locator("[role=gridcell][aria-selected=true]").count()
