"""Methods in the browser: kept, applied in two actions, departed from, run over many files, and charted."""

import re
from pathlib import Path
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect

from dosis.demo import season
from tests.browser.conftest import open_run, paste
from tests.browser.test_home import menu
from tests.conftest import Site
from tests.tables import PHOSPHATE


@pytest.fixture
def study(site: Site) -> int:
    return int(site.client.post("/api/studies", json={"name": f"Methods {uuid4().hex[:8]}"}).json()["id"])


def pasted(page: Page, study: int, text: str, query: str = "") -> None:
    page.goto(f"/studies/{study}/new{query}")
    page.get_by_role("heading", name="Bring readings in").wait_for()
    paste(page, text)


def test_keep_apply_batch_chart(page: Page, site: Site, study: int, tmp_path: Path) -> None:
    """A plate of the season is kept as a method; eight plates and a letter are worked by it; the chart leads back."""
    found = site.client.get("/api/runs", params={"find": "Season plate 1", "study": 2}).json()["runs"]
    first = next(each["id"] for each in found if each["title"] == "Season plate 1")
    name = f"Plates {uuid4().hex[:6]}"
    # A copy of it: what is kept from a run is what the run is worked by, and others look at the season.
    asked = {"key": str(uuid4()), "title": f"Copied for {name}"}
    first = site.client.post(f"/api/runs/{first}/duplicate", json=asked).raise_for_status().json()["run"]["id"]

    # Keep: from the run's own menu.
    page.goto(f"/runs/{first}")
    menu(page, asked["title"], "Keep as a method…")
    page.get_by_role("textbox", name="Name", exact=True).fill(name)
    expect(page.get_by_text("A new method; this is its version 1.")).to_be_visible()
    page.get_by_role("button", name="Keep and take in use").click()
    expect(page.get_by_role("heading", name="Expects")).to_be_visible()
    expect(page.get_by_text("on plates of 8 × 12 wells")).to_be_visible()

    # Apply: readings in, and one click.
    pasted(page, study, season.plate(2))
    by = page.get_by_role("region", name="Method")
    expect(by).to_contain_text("They are as it expects.")
    page.get_by_role("combobox", name="By a method").click()
    page.get_by_role("option", name=re.compile(name)).click()
    expect(by).to_contain_text(f"By the method {name}, version 1")
    page.get_by_role("button", name="Open run").click()
    expect(page.get_by_text("22 of 22 samples read.")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile(name))).to_be_visible()

    # Batch: files, one of which is no readings at all.
    files = [tmp_path / f"plate {n}.txt" for n in range(3, 11)]
    for n, file in enumerate(files, start=3):
        file.write_text(season.plate(n), "utf-8")
    letter = tmp_path / "letter.txt"
    letter.write_text("The plates are in the freezer.", "utf-8")
    page.get_by_role("link", name=re.compile(name)).click()
    page.get_by_role("button", name="Many files…").click()
    page.get_by_label("Files", exact=True).set_input_files([*files, letter])
    page.get_by_role("combobox", name="Study").click()
    page.get_by_role("option", name=re.compile(r"^Methods")).last.click()
    page.get_by_role("button", name="Work 9 files").click()
    expect(page.get_by_role("status")).to_contain_text("1 could not be worked", timeout=90_000)
    failed = page.get_by_role("row", name=re.compile("letter.txt"))
    expect(failed).to_contain_text("There are no numbers")
    page.get_by_role("radio", name="Answers").click()
    expect(page.get_by_role("cell", name="QC low")).to_have_count(8)

    # Chart: what is watched, and a point that leads to its run.
    page.goto(page.get_by_role("link", name=name, exact=True).get_attribute("href") or "")
    page.get_by_role("link", name="Trends", exact=True).click()
    page.get_by_role("button", name=re.compile("QC low")).click()
    points = page.get_by_role("group", name="QC low over runs").get_by_role("link")
    expect(points).to_have_count(10)
    points.nth(4).click()
    expect(page.get_by_role("navigation", name="Where you are")).to_contain_text("plate 5")


def test_a_departure_is_marked_until_it_is_as_the_method_says(page: Page, site: Site, study: int) -> None:
    run = open_run(page, site, PHOSPHATE)
    name = f"Phosphate {uuid4().hex[:6]}"
    made = site.client.post("/api/methods", json={"run": run, "name": name}).json()
    body = {"study": study, "title": "Departing", "key": str(uuid4()), "text": PHOSPHATE, "method": {"id": made["id"]}}
    page.goto(f"/runs/{site.client.post('/api/runs', json=body).json()['run']['id']}")
    page.get_by_role("radio", name="Through 0").click()
    told = page.get_by_text("Departs from its method:")
    expect(told).to_be_visible()
    expect(page.get_by_text("No reason is given yet.")).to_be_visible()
    page.get_by_role("button", name="Say why…").click()
    page.get_by_role("textbox", name="Reason").fill("the blank was lost")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Reason: the blank was lost")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(told).to_be_hidden()


def test_what_does_not_fit_is_said_before_anything_is_computed(page: Page, site: Site, study: int) -> None:
    run = open_run(page, site, PHOSPHATE)
    made = site.client.post("/api/methods", json={"run": run, "name": f"Fit {uuid4().hex[:6]}"}).json()
    pasted(page, study, PHOSPHATE.replace("µM", "mg/L"), f"?method={made['id']}")
    by = page.get_by_role("region", name="Method")
    expect(by).to_contain_text("which cannot be converted")
    expect(page.get_by_role("button", name="Open run")).to_be_disabled()
    by.get_by_role("button", name="Without it").click()
    expect(page.get_by_role("button", name="Open run")).to_be_enabled()


def test_a_new_run_like_another_is_worked_as_it_is(page: Page, site: Site) -> None:
    run = open_run(page, site, PHOSPHATE)
    menu(page, "Run under test", "New run like this…")
    page.get_by_role("heading", name="Bring readings in").wait_for()
    paste(page, PHOSPHATE)
    expect(page.get_by_role("region", name="Method")).to_contain_text("Worked as the run Run under test")
    page.get_by_role("button", name="Open run").click()
    page.wait_for_url(lambda url: re.search(r"/runs/\d+$", url) is not None and not url.endswith(f"/{run}"))


def test_runs_are_compared_from_the_list(page: Page, site: Site, study: int) -> None:
    for title, text in (("Pier, spring", PHOSPHATE), ("Pier, neap", PHOSPHATE.replace("0.391", "0.402"))):
        body = {"study": study, "title": title, "key": str(uuid4()), "text": text}
        site.client.post("/api/runs", json=body).raise_for_status()
    page.goto(f"/studies/{study}")
    for title in ("Pier, spring", "Pier, neap"):
        page.get_by_role("checkbox", name=f"Choose {title}").check()
    page.get_by_role("button", name="With 2 runs…").click()
    page.get_by_role("menuitem", name="Compare…").click()
    expect(page.get_by_role("heading", name="Are the curves the same?")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^slope"))).to_contain_text("p 0.")
    expect(page.get_by_text("All are worked in the same way.")).to_be_visible()


def test_a_link_leads_to_an_answer_and_to_a_revision(page: Page, site: Site) -> None:
    run = open_run(page, site, PHOSPHATE)
    page.goto(f"/runs/{run}?answer=Pier%20N")
    working = page.get_by_role("region", name="Show working")
    expect(working).to_contain_text("Pier N")
    working.get_by_role("button", name="Link").click()
    assert page.evaluate("navigator.clipboard.readText()").endswith(f"/runs/{run}?answer=Pier%20N")
    working.get_by_role("button", name="Write a note on Pier N…").click()
    page.keyboard.type("filtered on board")
    page.keyboard.press("Enter")
    expect(working).to_contain_text("Note: filtered on board")
    page.goto(f"/runs/{run}?revision=1")
    expect(page.get_by_role("region", name="Ledger")).to_contain_text("Note on Pier N")
    page.goto(f"/runs/{run}?answer=Nobody")
    expect(page.get_by_text("This run has no answer “Nobody” any more.")).to_be_visible()


def test_readings_are_replaced(page: Page, site: Site) -> None:
    run = open_run(page, site, PHOSPHATE)
    menu(page, "Run under test", "Replace the readings…")
    page.get_by_role("heading", name="Replace the readings").wait_for()
    paste(page, PHOSPHATE.replace("0.391", "0.399"))
    expect(page.get_by_role("region", name="Method")).to_contain_text("They are as it expects.")
    page.get_by_role("button", name="Replace the readings").click()
    page.wait_for_url(f"**/runs/{run}")
    expect(page.get_by_text("Revision 2", exact=True)).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Revision 3", exact=True)).to_be_visible()


def test_limits_of_a_chart_are_chosen(page: Page, site: Site) -> None:
    found = next(
        each for each in site.client.get("/api/methods").json() if each["name"].startswith("Domoic acid, plate")
    )
    page.goto(f"/methods/{found['id']}/trends")
    page.get_by_role("button", name=re.compile("Midpoint")).click()
    page.get_by_role("button", name="Choose others…").click()
    page.get_by_role("radio", name="Typed").click()
    page.get_by_role("textbox", name="Center").fill("1.6")
    page.get_by_role("textbox", name="SD").fill("0.1")
    page.get_by_role("button", name="Hold against these").click()
    expect(page.get_by_text(re.compile("Center 1.600 and limits from typed center and SD"))).to_be_visible()
    page.get_by_role("button", name="Choose others…").click()
    page.get_by_role("radio", name="The first 20 runs").click()
    page.get_by_role("button", name="Hold against these").click()
    expect(page.get_by_text(re.compile("limits from (all|the first)"))).to_be_visible()
    page.get_by_role("button", name="Validation summary").click()
    expect(page.get_by_role("row", name=re.compile("Precision: QC low"))).to_be_visible()
