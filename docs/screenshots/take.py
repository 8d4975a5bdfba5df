"""Takes the pictures of this folder from the demo data: ./dosis demo in one shell, then this, with its address."""

import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

HERE = Path(__file__).parent
FLAGS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking"]
TABLE = """Sample\tConc\tA880 rep 1\tA880 rep 2\tDil\tNote
Blank\t0\t0.021\t0.019\t\t
Std 1\t0.5 µM\t0.038\t0.040\t\t
Std 2\t1 µM\t0.057\t0.060\t\t
Std 3\t2.5 µM\t0.112\t0.109\t\t
Std 4\t5 µM\t0.204\t0.208\t\t
Std 5\t10 µM\t0.391\t0.386\t\t
Std 6\t20 µM\t0.688\t0.694\t\t
Pier N\t\t0.143\t0.147\t× 5\t
Pier S\t\t0.231\t0.236\t× 5\t
Outfall\t\t0.612\t0.607\t× 10\tshaken twice
Marsh 1\t\t0.087\t0.085\t× 2\t
Marsh 2\t\tOVER\t0.702\t× 2\trecheck
QC low\t2 µM\t0.094\t0.096\t\t
"""


def take(page: Page, name: str) -> None:
    """One picture, once the fonts are in and nothing moves."""
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(400)
    page.screenshot(path=HERE / f"{name}.png")


def main(address: str) -> None:
    """Home, new run, and the Work view with a sample selected."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        context = chromium.new_context(
            base_url=address, viewport={"width": 1280, "height": 800}, permissions=["clipboard-read", "clipboard-write"]
        )
        page = context.new_page()
        page.goto("/studies/1")
        page.get_by_text("samples read.").first.wait_for()
        take(page, "home")
        page.get_by_role("link", name="Phosphate, marsh transect").click()
        page.get_by_role("table", name="Answers").get_by_text("Creek mouth").click()
        page.get_by_text("Read back", exact=True).first.wait_for()
        take(page, "work")
        page.goto("/studies/1/new")
        page.get_by_label("Table of readings").wait_for()
        page.evaluate("text => navigator.clipboard.writeText(text)", TABLE)
        page.keyboard.press("Control+v")
        page.get_by_text("Units found").wait_for()
        take(page, "new-run")
        chromium.close()


main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8070")
