"""Every screen fits the window: small, usual and large, by day and after dark, with long names and large numbers."""

import re
from pathlib import Path
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import open_card
from tests.conftest import Site

SIZES = [(1024, 700), (1280, 800), (1920, 1080)]
LONG = "Outfall of the old tannery at Ternhaven, northern quay, second tide of the morning"
TABLE = "\n".join([
    "Sample\tConc (µg/L)\tA880", "Blank\t\t0.0201", "Std 1\t1000000\t0.1201", "Std 2\t2000000\t0.2199",
    "Std 3\t4000000\t0.4203", "Std 4\t8000000\t0.8196", *(f"{LONG} {i}\t\t{0.2 + 0.05 * i:.4f}" for i in range(6)),
])  # fmt: skip

# Controls that stand out of the window, or whose text is cut without a title that says it whole.
OUTSIDE = """() => {
  const wide = document.documentElement.scrollWidth - document.documentElement.clientWidth;
  const scrolls = (e) => {
    for (let p = e.parentElement; p; p = p.parentElement)
      if (/auto|scroll|hidden/.test(getComputedStyle(p).overflowX) && p !== document.body) return true;
    return false;
  };
  const found = [];
  for (const e of document.querySelectorAll("button, a, input, select, textarea, h1, h2, h3, [role=combobox]")) {
    const box = e.getBoundingClientRect();
    if (box.width === 0 || getComputedStyle(e).visibility === "hidden") continue;
    if (e.closest(".sr-only, nav[aria-label='Skip to']")) continue;
    const out = box.right > innerWidth + 1 || box.left < -1;
    if (out && !scrolls(e)) found.push(`outside: ${e.textContent || e.getAttribute("aria-label")}`);
    const cut = e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).overflowX === "hidden";
    if (cut && !e.title && !e.querySelector("[title]") && !e.closest("[title]")) found.push(`cut: ${e.textContent}`);
  }
  return wide > 0 ? [`sideways: ${wide}`, ...found] : found;
}"""
AXE = Path("frontend/node_modules/axe-core/axe.min.js")


def long_run(site: Site) -> int:
    body = {"study": 1, "title": LONG, "key": str(uuid4()), "text": TABLE}
    return int(site.client.post("/api/runs", json=body).raise_for_status().json()["run"]["id"])


SCREENS = ["/studies/1", "/studies/1/new", "long", "plate", "dose", "mortality", "relation", "figure", "report", "/api"]
TITLES = {
    "plate": "Domoic acid, plate 3", "dose": "Diatom growth, TP-17", "mortality": "Brine shrimp",
    "relation": "Phosphatase on temperature",
}  # fmt: skip


def go(page: Page, site: Site, screen: str) -> None:
    if screen in TITLES:
        page.goto("/studies/1")
        open_card(page, TITLES[screen])
        page.get_by_role("region", name="Answers").wait_for()
    elif screen == "long":
        page.goto(f"/runs/{long_run(site)}")
        page.get_by_role("region", name="Answers").wait_for()
    elif screen in ("figure", "report"):
        page.goto(f"/runs/{long_run(site)}")
        page.get_by_role("tab", name=screen.capitalize()).click()
        page.locator(f"[data-{screen}]").wait_for()
    else:
        page.goto(screen)
        page.get_by_role("button", name=re.compile("Find or do")).wait_for()
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(250)


@pytest.mark.parametrize(
    ("size", "theme"), [*((size, "light") for size in SIZES), (SIZES[0], "dark")],
    ids=lambda each: each if isinstance(each, str) else f"{each[0]}x{each[1]}",
)  # fmt: skip
def test_no_control_is_off_the_page_and_no_text_is_cut(
    browser: Browser, site: Site, size: tuple[int, int], theme: str
) -> None:
    context = browser.new_context(
        base_url=site.url,
        viewport={"width": size[0], "height": size[1]},
        color_scheme=theme,  # type: ignore[arg-type]
    )
    page = context.new_page()
    wrong = []
    for screen in SCREENS:
        go(page, site, screen)
        assert page.evaluate("document.documentElement.dataset.theme") == theme
        wrong += [f"{screen}: {each}" for each in page.evaluate(OUTSIDE)]
        assert page.get_by_role("main").count() == 1, screen
        assert page.get_by_role("heading", level=1).count() == 1, screen
    context.close()
    assert wrong == []


@pytest.mark.parametrize("screen", ["/studies/1", "/studies/1/new", "plate", "relation", "figure", "report"])
def test_no_serious_finding_after_dark(browser: Browser, site: Site, screen: str) -> None:
    context = browser.new_context(base_url=site.url, viewport={"width": 1280, "height": 800}, color_scheme="dark")
    page = context.new_page()
    go(page, site, screen)
    page.evaluate(AXE.read_text("utf-8"))
    found = page.evaluate("axe.run(document, { resultTypes: ['violations'] })")
    serious = [
        f"{each['id']}: {each['nodes'][0]['html']}" for each in found["violations"]
        if each["impact"] in ("serious", "critical")
    ]  # fmt: skip
    context.close()
    assert serious == []


def test_columns_are_dragged_and_stay_where_they_were_put(page: Page, site: Site) -> None:
    go(page, site, "relation")
    line = page.get_by_role("separator", name="Width of the readings")
    before = page.get_by_role("region", name="Readings").bounding_box()
    box = line.bounding_box()
    assert before and box
    page.mouse.move(box["x"] + 3, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 63, box["y"] + 200, steps=4)
    page.mouse.up()
    after = page.get_by_role("region", name="Readings").bounding_box()
    assert after and after["width"] == pytest.approx(before["width"] + 60, abs=2)
    page.reload()
    page.get_by_role("region", name="Answers").wait_for()
    kept = page.get_by_role("region", name="Readings").bounding_box()
    assert kept and kept["width"] == pytest.approx(after["width"], abs=2)
    line.focus()
    page.keyboard.press("ArrowLeft")
    narrower = page.get_by_role("region", name="Readings").bounding_box()
    assert narrower and narrower["width"] == pytest.approx(after["width"] - 16, abs=2)
    page.keyboard.press("Home")
    back = page.get_by_role("region", name="Readings").bounding_box()
    assert back and back["width"] == pytest.approx(before["width"], abs=2)


def test_a_theme_is_chosen_from_the_menu_on_any_screen_and_kept(page: Page) -> None:
    for address in ("/studies/1", "/studies/1/new", "/api", "/nowhere"):
        page.goto(address)
        page.get_by_role("button", name=re.compile("Find or do")).wait_for()
        page.keyboard.press("Control+k")
        page.get_by_placeholder("Find a run").fill("theme dark")
        page.keyboard.press("Enter")
        expect(page.locator("html")).to_have_attribute("data-theme", "dark")
        page.reload()
        expect(page.locator("html")).to_have_attribute("data-theme", "dark")
        page.get_by_role("button", name=re.compile("Find or do")).wait_for()
        page.keyboard.press("Control+k")
        page.get_by_placeholder("Find a run").fill("theme light")
        page.keyboard.press("Enter")
        expect(page.locator("html")).to_have_attribute("data-theme", "light")
        for wanted in ("New run", "Open the guide", "Home: all studies", "Show all keyboard shortcuts"):
            page.keyboard.press("Control+k")
            page.get_by_placeholder("Find a run").fill(wanted)
            expect(page.get_by_role("option", name=wanted)).to_be_visible()
            page.keyboard.press("Escape")
