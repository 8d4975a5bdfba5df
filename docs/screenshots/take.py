"""Takes the pictures of this folder from the demo data: ./dosis demo in one shell, then this, with its address.

With the link that a new ./dosis serve has printed as a second argument, those of signing in and of people, too.
"""

import sys
from pathlib import Path

import numpy as np
from playwright.sync_api import Browser, Page, sync_playwright

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


def doses(page: Page) -> None:
    """A dose–response run, a potency, and a wall of curves."""
    page.goto("/studies/1")
    page.get_by_role("link", name="Diatom growth, TP-17").click()
    page.get_by_role("table", name="Answers").get_by_title("Show working").first.click()
    page.get_by_text("95 % interval").first.wait_for()
    take(page, "dose")
    page.goto("/studies/1")
    page.get_by_role("link", name="TP-17, lots C and D beside the reference").click()
    page.get_by_role("table", name="Answers").get_by_title("Show working").first.click()
    page.get_by_text("95 % interval").first.wait_for()
    take(page, "potency")
    page.goto("/studies/1")
    page.get_by_role("link", name="Extract screen, plate 1").click()
    page.get_by_role("tab", name="Wall").click()
    page.get_by_role("radio", name="Potency").click()
    take(page, "wall")


def courses(page: Page) -> None:
    """Courses with their lines, scans, and a recording."""
    page.goto("/studies/1")
    page.get_by_role("link", name="Phosphatase at six levels").click()
    page.get_by_role("table", name="Answers").get_by_title("Show working").first.click()
    page.get_by_text("95 % interval").first.wait_for()
    take(page, "rate")
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


def across(page: Page) -> None:
    """A method and its trends."""
    page.goto("/methods")
    page.get_by_role("link", name="Domoic acid, plate immunoassay").click()
    page.get_by_role("heading", name="Expects").wait_for()
    take(page, "method")
    page.get_by_role("link", name="Trends").click()
    page.get_by_role("group", name="QC low over runs").wait_for()
    take(page, "trends")


def reviewed(page: Page) -> None:
    """A run that is signed, and the Ledger of the lab."""
    page.goto("/studies/2")
    page.get_by_role("link", name="Season plate 3").click()
    page.get_by_role("tab", name="Review").click()
    page.get_by_role("list", name="Signatures").wait_for()
    take(page, "review")
    page.goto("/ledger")
    page.get_by_role("button", name="Check the chain").click()
    page.get_by_text("entries fit").wait_for()
    take(page, "lab-ledger")


def people(chromium: Browser, link: str) -> None:
    """Signing in, and the people of a lab: made here, on a server that is empty."""
    page = chromium.new_context(viewport={"width": 1280, "height": 800}).new_page()
    address, password = link.partition("/welcome")[0], "twelve mussels in broth"
    page.goto(link)
    page.get_by_label("Your name").fill("Ternhaven administrator")
    page.get_by_label("E-mail").fill("office@ternhaven.example")
    page.get_by_label("Password, 12").fill(password)
    page.get_by_label("The same").fill(password)
    page.get_by_role("button", name="Come in").click()
    page.get_by_text("No study yet").wait_for()
    key = {"X-Dosis-Page": page.request.get(f"{address}/api/me").json()["page_key"]}
    page.request.post(f"{address}/api/studies", data={"name": "Autumn mussel survey"}, headers=key)
    for name, email, roles, studies in (
        ("Analyst of the day", "bench@ternhaven.example", ["analyst"], {}),
        ("Reviewer", "review@ternhaven.example", ["reviewer"], {}),
        ("Guest from the farm", "farm@ternhaven.example", [], {"1": ["reader"]}),
    ):
        new = {"name": name, "email": email, "roles": roles, "studies": studies}
        page.request.post(f"{address}/api/people", data=new, headers=key)
    page.goto(f"{address}/people")
    page.get_by_text("Guest from the farm").wait_for()
    take(page, "people")
    page.get_by_role("button", name="Signed in as").click()
    page.get_by_role("menuitem", name="Sign out").click()
    page.get_by_role("heading", name="Sign in").wait_for()
    take(page, "sign-in")


def main(address: str, link: str) -> None:
    """Home, new run, the Work view of each kind of run, the Ledger, review, methods, batches, people, a plate."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        context = chromium.new_context(
            base_url=address, viewport={"width": 1280, "height": 800}, permissions=["clipboard-read", "clipboard-write"]
        )
        context.set_default_timeout(120_000)
        page = context.new_page()
        page.goto("/studies/1")
        page.get_by_text("samples read.").first.wait_for()
        take(page, "home")
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
        reviewed(page)
        across(page)
        if link:
            people(chromium, link)
        page.goto("/studies/1/new")
        page.get_by_label("Table of readings").wait_for()
        paste(page, TABLE)
        page.get_by_text("Units found").wait_for()
        take(page, "new-run")
        page.get_by_role("button", name="Start over").click()
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


main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8070", sys.argv[2] if len(sys.argv) > 2 else "")
