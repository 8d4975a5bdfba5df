"""Home in the browser: runs found, named, tagged, put away, thrown away and brought back; thousands in one study."""

import re
from pathlib import Path
from uuid import uuid4

import pytest
from playwright.sync_api import Locator, Page, expect

from dosis.store.database import Database
from tests.conftest import Site
from tests.tables import PHOSPHATE


@pytest.fixture
def study(site: Site) -> int:
    """A study of three runs."""
    id = int(site.client.post("/api/studies", json={"name": f"House {uuid4().hex[:8]}"}).json()["id"])
    for title in ("Pier, spring", "Pier, neap", "Marsh"):
        text = PHOSPHATE.replace("Pier N", "M-107") if title == "Marsh" else PHOSPHATE
        body = {"study": id, "title": title, "key": str(uuid4()), "text": text}
        site.client.post("/api/runs", json=body).raise_for_status()
    return id


def runs(page: Page) -> Locator:
    return page.get_by_role("list", name="Runs").get_by_role("heading")


def menu(page: Page, title: str, item: str) -> None:
    page.get_by_role("button", name=f"More for {title}", exact=True).focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name=item).click()


def test_runs_are_found_by_title_and_by_what_was_read(page: Page, study: int) -> None:
    page.goto(f"/studies/{study}")
    expect(runs(page)).to_have_text(["Marsh", "Pier, neap", "Pier, spring"])
    find = page.get_by_role("searchbox", name="Find runs")
    find.fill("pier")
    expect(runs(page)).to_have_text(["Pier, neap", "Pier, spring"])
    find.fill("m-107")
    expect(runs(page)).to_have_text(["Marsh"])
    find.fill("nowhere")
    expect(page.get_by_text("No run is like that.")).to_be_visible()
    page.get_by_role("button", name="Show all", exact=True).click()
    page.get_by_role("combobox", name="Order").click()
    page.get_by_role("option", name="by name").click()
    expect(runs(page)).to_have_text(["Marsh", "Pier, neap", "Pier, spring"])


def test_a_run_is_renamed_described_tagged_and_duplicated_by_key(page: Page, study: int) -> None:
    page.goto(f"/studies/{study}")
    menu(page, "Marsh", "Rename…")
    page.get_by_role("textbox", name="Name").fill("Marsh, ebb")
    page.keyboard.press("Enter")
    expect(runs(page).first).to_have_text("Marsh, ebb")
    menu(page, "Marsh, ebb", "Tags…")
    page.get_by_role("textbox", name="Tags").fill("ebb, M 1")
    page.keyboard.press("Enter")
    expect(page.get_by_role("listitem").filter(has_text="Marsh, ebb").get_by_text("M 1", exact=True)).to_be_visible()
    menu(page, "Marsh, ebb", "Describe…")
    page.get_by_role("textbox", name="Description").fill("Second bottle")
    page.get_by_role("button", name="Keep", exact=True).click()
    page.get_by_role("searchbox", name="Find runs").fill("bottle ebb")
    expect(runs(page)).to_have_text(["Marsh, ebb"])
    menu(page, "Marsh, ebb", "Duplicate…")
    page.keyboard.press("Enter")
    page.get_by_role("region", name="Answers").wait_for()
    expect(page.get_by_text("Marsh, ebb, again").first).to_be_visible()
    page.get_by_role("tab", name="Ledger").click()
    expect(page.get_by_text("made as “Marsh, ebb” stands in revision 1")).to_be_visible()


def test_several_runs_are_put_away_and_thrown_away_and_come_back(page: Page, study: int) -> None:
    page.goto(f"/studies/{study}")
    page.get_by_role("radio", name="List").click()
    for title in ("Marsh", "Pier, neap"):
        page.get_by_role("checkbox", name=f"Choose {title}").check()
    page.get_by_role("button", name="With 2 runs…").click()
    page.get_by_role("menuitem", name="Put away").click()
    names = page.get_by_role("list", name="Runs").get_by_role("link")
    expect(names).to_have_text(["Pier, spring"])
    page.get_by_role("button", name="Undo").click()
    expect(names).to_have_count(3)
    page.get_by_role("button", name="More for Marsh").click()
    page.get_by_role("menuitem", name="Throw into the bin…").click()
    expect(page.get_by_text("For 30 days it can all be taken out again")).to_be_visible()
    page.get_by_role("button", name="Throw away").click()
    expect(names).to_have_text(["Pier, neap", "Pier, spring"])
    page.get_by_role("combobox", name="Where").click()
    page.get_by_role("option", name="in the bin (1)").click()
    expect(names).to_have_text(["Marsh"])
    page.get_by_role("button", name="More for Marsh").click()
    page.get_by_role("menuitem", name="Take out of the bin").click()
    expect(page.get_by_text("The bin is empty.")).to_be_visible()


def test_runs_move_to_another_study_which_is_renamed_and_put_away(page: Page, site: Site, study: int) -> None:
    other = site.client.post("/api/studies", json={"name": f"Elsewhere {uuid4().hex[:6]}"}).json()
    page.goto(f"/studies/{study}")
    menu(page, "Marsh", "Move to a study…")
    page.get_by_role("combobox", name="Study", exact=True).click()
    page.get_by_role("option", name=other["name"]).click()
    page.get_by_role("button", name="Move", exact=True).click()
    expect(runs(page)).to_have_count(2)
    page.get_by_role("link", name=re.compile(other["name"])).click()
    expect(runs(page)).to_have_text(["Marsh"])
    page.get_by_role("button", name="More for the study").click()
    page.get_by_role("menuitem", name="Rename the study…").click()
    page.get_by_role("textbox", name="Name").fill("Gone north")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Gone north")).to_be_visible()
    page.get_by_role("button", name="More for the study").click()
    page.get_by_role("menuitem", name="Put the study away").click()
    expect(page.get_by_text("put away", exact=True)).to_be_visible()


def test_thousands_of_runs_are_drawn_as_they_come_into_view(page: Page, study: int, database: Database) -> None:
    with database.transaction() as db:
        run = db.one("SELECT id FROM run WHERE study_id = %s ORDER BY id LIMIT 1", study)["id"]  # type: ignore[index]
        for title in ("'Copy ', seq", "'Older ', seq"):
            db.run(
                "INSERT INTO run (study_id, title, create_key, question, state)"
                f" SELECT study_id, CONCAT({title}), UUID(), question, state FROM run, seq_1_to_1500 WHERE id = %s",
                run,
            )
        db.run(
            "INSERT INTO revision (run_id, number, origin, readings, layout, method, outcome, digest, program, working,"
            " card, author, words, change_key)"
            " SELECT new.id, 1, 1, 1, layout, method, outcome, digest, program, working, card, author, words, UUID()"
            " FROM revision JOIN run AS new ON new.study_id = %s AND new.id > %s + 2"
            " WHERE revision.run_id = %s AND revision.number = 1",
            study, run, run,
        )  # fmt: skip
    page.goto(f"/studies/{study}")
    expect(page.get_by_text("3,003 runs")).to_be_visible()
    assert page.get_by_role("list", name="Runs").get_by_role("listitem").count() < 60
    page.get_by_role("list", name="Runs").evaluate("each => each.parentElement.scrollTo(0, 1e9)")
    expect(page.get_by_role("heading", name="Pier, spring")).to_be_visible()
    assert page.get_by_role("list", name="Runs").get_by_role("listitem").count() < 60


def test_a_study_is_taken_along_and_read_in_again(page: Page, study: int, tmp_path: Path) -> None:
    page.goto(f"/studies/{study}")
    page.get_by_role("button", name="More for the study").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Take the study along, as one file").click()
    download.value.save_as(tmp_path / "study.zip")
    page.get_by_role("button", name="New study").click()
    (tmp_path / "other.zip").write_bytes(b"nothing")
    page.get_by_label("File of a study").set_input_files(tmp_path / "other.zip")
    expect(page.get_by_role("alert")).to_contain_text("no archive of a study")
    page.get_by_label("File of a study").set_input_files(tmp_path / "study.zip")
    page.wait_for_url(lambda url: re.search(r"/studies/\d+$", url) is not None and not url.endswith(f"/{study}"))
    expect(runs(page)).to_have_text(["Marsh", "Pier, neap", "Pier, spring"])
