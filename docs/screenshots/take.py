"""Takes the pictures of this folder from the demo data: ./dosis demo in one shell, then this, with its address."""

import sys
from pathlib import Path

import numpy as np
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


def paste(page: Page, text: str) -> None:
    """From the clipboard, as a person does."""
    page.evaluate("text => navigator.clipboard.writeText(text)", text)
    page.keyboard.press("Control+v")


def drag(page: Page, first: str, last: str) -> None:
    """From the middle of one well to the middle of another."""
    for well, act in ((first, page.mouse.down), (last, page.mouse.up)):
        box = page.locator(f"#{well}").bounding_box() or {"x": 0, "y": 0, "width": 0, "height": 0}
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        act()


def plate() -> str:
    """An immunoassay plate as a reader prints it."""
    rng = np.random.default_rng(12)
    level = np.exp(rng.uniform(np.log(0.1), np.log(12), (8, 12)))
    level[:, 2:11] = np.repeat(level[:, 2:11:3], 3, axis=1)
    level[:, :2] = (20 / 3.0 ** np.arange(8))[:, None]
    signal = (0.09 + 2.03 / (1 + (level / 1.62) ** 1.18)) * (1 + 0.02 * rng.standard_normal((8, 12))) + 0.043
    signal[:, 11] = 0.043
    lines = ["Absorbance 450 nm", "\t".join(["", *map(str, range(1, 13))])]
    lines += ["\t".join(["ABCDEFGH"[r], *(f"{value:.3f}" for value in signal[r])]) for r in range(8)]
    return "\n".join(lines)


def timed() -> str:
    """Brine shrimp under two lots of TP-17, counted on four days."""
    rng = np.random.default_rng(4)
    rows = ["Lot\tTime (h)\tTP-17 (mg/L)\tExposed\tDead"]
    for lot, first in (("Lot A", 9.0), ("Lot B", 16.0)):
        for hours in (24, 48, 72, 96):
            half = first * (24 / hours) ** 0.8 + 1
            for dose in (0, 0.5, 1, 2, 4, 8, 16, 32):
                killed = 0.03 + 0.97 / (1 + (half / dose) ** 3) if dose else 0.03
                rows.append(f"{lot}\t{hours}\t{dose:g}\t20\t{rng.binomial(20, killed)}")
    return "\n".join(rows)


def doses(page: Page) -> None:
    """A dose–response run, a mortality run, and a wall of curves."""
    for title, name in (("Diatom growth, TP-17", "dose"), ("Brine shrimp, TP-17, 48 h", "mortality")):
        page.goto("/studies/1")
        page.get_by_role("link", name=title).click()
        page.get_by_role("table", name="Answers").get_by_title("Show working").first.click()
        page.get_by_text("95 % interval").first.wait_for()
        take(page, name)
    page.goto("/studies/1")
    page.get_by_role("link", name="Phosphatase on temperature").click()
    page.get_by_role("table", name="Predictions").get_by_title("Show working").first.click()
    page.get_by_text("95 % interval").first.wait_for()
    take(page, "relation")
    page.goto("/studies/1")
    page.get_by_role("link", name="Extract screen, plate 1").click()
    page.get_by_role("tab", name="Wall").click()
    page.get_by_role("radio", name="Potency").click()
    take(page, "wall")
    page.goto("/studies/1")
    page.get_by_role("link", name="Diatom growth, TP-17").click()
    page.get_by_role("combobox", name="Wells show").click()
    page.get_by_role("option", name="Deviation").click()
    take(page, "deviation")
    page.goto("/studies/1/new")
    page.get_by_label("Table of readings").wait_for()
    paste(page, timed())
    page.get_by_text("each time point is a series").wait_for()
    page.get_by_role("button", name="Open run").click()
    page.get_by_role("radio", name="over time").click()
    take(page, "time")


def courses(page: Page) -> None:
    """Courses with their lines, a kinetic plate beside the wall of its wells, scans, and a recording."""
    page.goto("/studies/1")
    page.get_by_role("link", name="Phosphatase at six levels").click()
    page.get_by_role("table", name="Answers").get_by_title("Show working").first.click()
    page.get_by_text("95 % interval").first.wait_for()
    take(page, "rate")
    page.goto("/studies/1")
    page.get_by_role("link", name="Phosphatase plate, eight temperatures").click()
    page.get_by_role("tab", name="Wall").click()
    take(page, "kinetic-plate")
    page.goto("/studies/1")
    page.get_by_role("link", name="Phycoerythrin fading, scans").click()
    page.locator("path[data-scan]").first.wait_for()
    take(page, "spectrum")
    page.goto("/studies/1")
    page.get_by_role("link", name="Turbidity probe over a tide").click()
    page.get_by_role("button", name="Calibrate").first.click()
    page.locator("path[data-trace]").first.wait_for()
    take(page, "recording")


def printed(page: Page) -> None:
    """The figure of a dose run, and the report of a plate."""
    page.goto("/studies/1")
    page.get_by_role("link", name="Diatom growth, TP-17").click()
    page.get_by_role("tab", name="Figure").click()
    page.locator("[data-figure] svg").wait_for()
    take(page, "figure")
    page.goto("/studies/1")
    page.get_by_role("link", name="Domoic acid, plate 3").click()
    page.get_by_role("tab", name="Report").click()
    page.locator("[data-report]").wait_for()
    take(page, "report")


def main(address: str) -> None:
    """Home, new run, an instrument, the Work view of each kind of run, the wall, the Ledger, a plate being laid out."""
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
        page.goto("/studies/1")
        page.get_by_role("link", name="Domoic acid, plate 3").click()
        page.get_by_role("table", name="Answers").get_by_text("M-106").click()
        page.get_by_text("Read back", exact=True).first.wait_for()
        take(page, "assay")
        page.get_by_role("tab", name="Ledger").click()
        page.get_by_role("table", name="Layout").wait_for()
        take(page, "ledger")
        doses(page)
        courses(page)
        printed(page)
        page.goto("/studies/1/new")
        page.get_by_label("Table of readings").wait_for()
        paste(page, TABLE)
        page.get_by_text("Units found").wait_for()
        take(page, "new-run")
        page.get_by_role("button", name="Start over").click()
        page.get_by_role("radio", name="Instrument").click()
        page.get_by_role("button", name="Read", exact=True).wait_for()
        page.get_by_text("warming up").wait_for(state="hidden")
        take(page, "instrument")
        page.get_by_role("radio", name="Paste").click()
        paste(page, plate())
        page.get_by_text("A plate of 96 wells").wait_for()
        page.get_by_role("button", name="Open run").click()
        page.locator("#well-0-0").wait_for()
        drag(page, "well-0-0", "well-7-1")
        page.keyboard.press("d")
        page.keyboard.type("20 µg/L")
        page.get_by_label("Each step ÷").fill("3")
        page.get_by_text("0.009145 µg/L").wait_for()
        take(page, "plate")
        chromium.close()


main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8070")
