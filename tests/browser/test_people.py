"""People at work together: coming in, rights, review to a signature and on to a new draft, two windows on one run."""

import re
from collections.abc import Iterator
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from dosis.people.rights import LabRole
from dosis.store import accounts
from dosis.store.database import Database
from tests.web.lab import PASSWORD, Lab, lab_of, opened

TEXT = "Level\tReading\n0\t0.05\n1\t0.26\n2\t0.45\n4\t0.86\nPier N\t0.5\nPier S\t0.31\n"


@pytest.fixture(scope="module")
def lab(database: Database) -> Iterator[Lab]:
    with lab_of(database) as found:
        yield found


@pytest.fixture
def contexts(browser: Browser, lab: Lab) -> Iterator[list[BrowserContext]]:
    """Windows of different people, closed at the end."""
    opened: list[BrowserContext] = []
    yield opened
    for each in opened:
        each.close()


def window(browser: Browser, lab: Lab, contexts: list[BrowserContext]) -> Page:
    context = browser.new_context(base_url=lab.url, viewport={"width": 1280, "height": 800})
    contexts.append(context)
    context.set_default_timeout(60_000)
    return context.new_page()


def signed_in(page: Page, email: str, password: str = PASSWORD) -> None:
    page.goto("/")
    page.get_by_label("E-mail").fill(email)
    page.get_by_label("Password").fill(password)
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Signed in as").wait_for()


def somebodys(lab: Lab, title: str) -> tuple[str, int]:
    """The address of an analyst, and a run that they have opened."""
    client = lab.person(LabRole.ANALYST)
    run = opened(client, 1, title, TEXT).raise_for_status().json()["run"]["id"]
    return client.headers["X-Test-Email"], run


def tab(page: Page, name: str) -> None:
    page.get_by_role("tab", name=re.compile(f"^{name}")).click()


def test_the_first_administrator_invites_an_analyst_who_comes_in(
    browser: Browser, lab: Lab, contexts: list[BrowserContext]
) -> None:
    with lab.database.transaction() as db:
        db.run("UPDATE account SET roles = 'reader' WHERE FIND_IN_SET('administrator', roles)")
        link = accounts.link(db, None)
    name = f"Ada {uuid4().hex[:6]}"
    page = window(browser, lab, contexts)
    page.goto(f"/welcome#{link}")
    page.get_by_label("Your name").fill(name)
    page.get_by_label("E-mail").fill(f"{uuid4().hex[:6]}@lab.example")
    page.get_by_label("Password, 12").fill("password1234")
    page.get_by_label("The same").fill("password1234")
    page.get_by_role("button", name="Come in").click()
    expect(page.get_by_role("alert")).to_contain_text("would soon be guessed")
    page.get_by_label("Password, 12").fill(PASSWORD)
    page.get_by_label("The same").fill(PASSWORD)
    page.get_by_role("button", name="Come in").click()
    page.get_by_role("button", name=f"Signed in as {name}").click()
    page.get_by_role("menuitem", name="People").click()
    page.get_by_role("button", name="Invite…").click()
    guest, email = f"Guest {uuid4().hex[:6]}", f"{uuid4().hex[:6]}@lab.example"
    page.get_by_label("Name", exact=True).fill(guest)
    page.get_by_label("E-mail").fill(email)
    page.get_by_role("combobox", name="Study", exact=True).click()
    page.get_by_role("option", name="Autumn mussel survey").click()
    page.get_by_role("button", name="Add").click()
    page.get_by_role("button", name="Make the link").click()
    address = page.get_by_label("One-time link", exact=True).text_content() or ""
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("row", name=re.compile(guest))).to_contain_text("Analyst of Autumn mussel survey")
    other = window(browser, lab, contexts)
    other.goto(address)
    other.get_by_label("Password, 12").fill(PASSWORD)
    other.get_by_label("The same").fill(PASSWORD)
    other.get_by_role("button", name="Come in").click()
    expect(
        other.get_by_role("navigation", name="Studies").get_by_role("link", name=re.compile("survey"))
    ).to_be_visible()
    expect(other.get_by_role("link", name=re.compile("through the season"))).to_have_count(0)
    other.goto(address)
    expect(other.get_by_text("This link does not work.")).to_be_visible()
    page.goto("/ledger")
    page.get_by_label("Find in the Ledger").fill(guest)
    expect(page.get_by_role("row", name=re.compile(f"{guest}.*invited as analyst of"))).to_be_visible()
    page.get_by_role("button", name="Check the chain").click()
    expect(page.get_by_text(re.compile(r"entries fit"))).to_be_visible()


def test_a_session_that_ends_asks_to_sign_in_and_goes_on_where_it_was(
    browser: Browser, lab: Lab, contexts: list[BrowserContext]
) -> None:
    email, run = somebodys(lab, "Ends in between")
    page = window(browser, lab, contexts)
    signed_in(page, email)
    page.goto(f"/runs/{run}")
    page.get_by_role("region", name="Answers").wait_for()
    with lab.database.transaction() as db:
        db.run("UPDATE session SET ended_at = UTC_TIMESTAMP(6) WHERE account_id ="
               " (SELECT id FROM account WHERE email = %s)", email)  # fmt: skip
    page.get_by_label("E-mail").fill(email)  # asked for by itself: an open run looks after changes
    page.get_by_label("Password").fill(PASSWORD)
    page.keyboard.press("Enter")
    page.get_by_role("region", name="Answers").wait_for()
    assert page.url.endswith(f"/runs/{run}")


def test_a_run_is_handed_in_remarked_on_and_answered(
    browser: Browser, lab: Lab, contexts: list[BrowserContext]
) -> None:
    analyst, run = somebodys(lab, "Piers, handed in")
    hers, his = window(browser, lab, contexts), window(browser, lab, contexts)
    signed_in(hers, analyst)
    hers.goto(f"/runs/{run}")
    tab(hers, "Review")
    hers.get_by_role("button", name="Hand in…").click()
    hers.keyboard.type("both piers, please")
    hers.keyboard.press("Enter")
    expect(hers.get_by_role("status", name="Stage")).to_contain_text("handed in")

    signed_in(his, lab.person(LabRole.REVIEWER).headers["X-Test-Email"])
    his.goto(f"/runs/{run}")
    tab(his, "Review")
    expect(his.get_by_text("Handed in: both piers, please")).to_be_visible()
    his.get_by_role("combobox", name="Remark on").click()
    his.get_by_role("option", name="an answer").click()
    his.get_by_label("Remark", exact=True).fill("Was it diluted?")
    his.keyboard.press("Enter")
    remark = his.get_by_role("region", name="Remarks").get_by_role("listitem")
    expect(remark).to_contain_text("Pier N: Was it diluted?")
    his.get_by_role("button", name="Reviewed…").click()
    his.get_by_role("button", name="It was reviewed").click()
    expect(his.get_by_text("1 remark is still open")).to_be_visible()
    his.keyboard.press("Escape")

    expect(hers.get_by_role("tab", name="Review 1")).to_be_visible()  # within two seconds, by itself
    hers.get_by_label("Answer to the remark on Pier N").fill("No, as it came.")
    hers.keyboard.press("Enter")
    expect(hers.get_by_text("No, as it came.")).to_be_visible()
    his.get_by_role("button", name="Close the remark").click()
    expect(his.get_by_text("Closed by")).to_be_visible()
    expect(his.get_by_text("No, as it came.")).to_be_visible()


def test_a_reviewed_run_is_signed_and_a_new_draft_follows_it(
    browser: Browser, lab: Lab, contexts: list[BrowserContext]
) -> None:
    analyst, run = somebodys(lab, "Piers, to be signed")
    hers, his = window(browser, lab, contexts), window(browser, lab, contexts)
    signed_in(hers, analyst)
    signed_in(his, lab.person(LabRole.REVIEWER).headers["X-Test-Email"])
    for page in (hers, his):
        page.goto(f"/runs/{run}")
        tab(page, "Review")
    hers.get_by_role("button", name="Hand in…").click()
    hers.get_by_role("button", name="Hand in", exact=True).click()
    his.get_by_role("button", name="Reviewed…").click()  # it appears by itself
    his.get_by_role("button", name="It was reviewed").click()
    his.get_by_role("button", name="Sign…").click()
    dialog = his.get_by_role("dialog", name="Sign this run")
    expect(dialog.get_by_role("table", name="What is signed")).to_contain_text("Pier N")
    digest = re.search(r"[0-9a-f]{64}", dialog.text_content() or "")
    dialog.get_by_label("Your password").fill("not the password")
    dialog.get_by_role("button", name="Sign", exact=True).click()
    expect(his.get_by_text("The password is not right.")).to_be_visible()
    dialog.get_by_label("Your password").fill(PASSWORD)
    his.keyboard.press("Enter")
    assert digest
    expect(his.get_by_role("list", name="Signatures")).to_contain_text(digest[0])

    expect(hers.get_by_role("status", name="Stage")).to_contain_text("signed")
    tab(hers, "Work")
    hers.get_by_role("gridcell").first.click()
    hers.keyboard.press("x")
    hers.get_by_role("dialog").get_by_role("button", name="Exclude").click()
    expect(hers.get_by_text("Open a new draft of it to change it.")).to_be_visible()
    hers.keyboard.press("Escape")
    tab(hers, "Review")
    hers.get_by_role("button", name="Open a new draft…").click()
    hers.keyboard.type("a level was mistyped")
    hers.keyboard.press("Enter")
    expect(hers.get_by_role("status", name="Stage")).to_contain_text("follows revision 1")


def test_a_second_window_learns_of_a_change_within_two_seconds(
    browser: Browser, lab: Lab, contexts: list[BrowserContext]
) -> None:
    email, run = somebodys(lab, "Two windows")
    page = window(browser, lab, contexts)
    signed_in(page, email)
    page.goto(f"/runs/{run}")
    page.get_by_text("Revision 1", exact=True).wait_for()
    other = lab.person(LabRole.ANALYST)
    change = {"kind": "exclude", "readings": [1], "reason": "a bubble"}
    body = {"based_on": 1, "key": str(uuid4()), "changes": [change]}
    other.post(f"/api/runs/{run}/changes", json=body).raise_for_status()
    expect(page.get_by_text("Revision 2", exact=True)).to_be_visible()
    name = other.get("/api/me").json()["name"]
    expect(page.get_by_text(re.compile(f"{name} changed this run"))).to_be_visible()


def test_a_reader_is_told_what_they_may_not_do(browser: Browser, lab: Lab, contexts: list[BrowserContext]) -> None:
    _, run = somebodys(lab, "For readers")
    page = window(browser, lab, contexts)
    signed_in(page, lab.person(LabRole.READER).headers["X-Test-Email"])
    page.goto(f"/runs/{run}")
    expect(page.get_by_role("status", name="Stage")).to_contain_text("You may look at this run")
    page.get_by_role("gridcell").first.click()
    page.keyboard.press("x")
    page.get_by_role("dialog").get_by_role("button", name="Exclude").click()
    expect(page.get_by_text("Only analysts of this study may do this.")).to_be_visible()
    page.get_by_role("button", name="Signed in as").click()
    expect(page.get_by_role("menuitem", name="People")).to_have_count(0)


def test_who_has_no_right_yet_is_told_whom_to_ask(browser: Browser, lab: Lab, contexts: list[BrowserContext]) -> None:
    page = window(browser, lab, contexts)
    signed_in(page, lab.person().headers["X-Test-Email"])
    expect(page.get_by_text("No study for you yet.")).to_be_visible()
    expect(page.get_by_role("button", name="New study")).to_have_count(0)
