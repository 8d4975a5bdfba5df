"""Review and signature: from draft to signed and on to a new draft, and what stands in the way."""

from typing import Any
from uuid import uuid4

import httpx
import pytest

from dosis.people.rights import LabRole
from dosis.store import seals
from tests.web.lab import PASSWORD, Lab, opened


@pytest.fixture(scope="module")
def analyst(lab: Lab) -> httpx.Client:
    return lab.person(LabRole.ANALYST)


@pytest.fixture(scope="module")
def reviewer(lab: Lab) -> httpx.Client:
    return lab.person(LabRole.REVIEWER)


@pytest.fixture
def run(analyst: httpx.Client) -> int:
    made = opened(analyst, 1, f"Reviewed {uuid4().hex[:6]}").raise_for_status().json()
    return int(made["run"]["id"])


def move(client: httpx.Client, run: int, what: str, based_on: int = 1, words: str = "") -> httpx.Response:
    place = "step" if what in ("review", "send back") else "own"
    body = {"move": what, "based_on": based_on, "words": words}
    return client.post(f"/api/runs/{run}/review/{place}", json=body)


def sign(client: httpx.Client, run: int, based_on: int = 1, **other: Any) -> httpx.Response:
    digest = client.get(f"/api/runs/{run}/review").json()["digest"]
    body = {"based_on": based_on, "digest": digest, "meaning": "approval", "password": PASSWORD, **other}
    return client.post(f"/api/runs/{run}/review/signature", json=body)


def edit(client: httpx.Client, run: int, based_on: int) -> httpx.Response:
    readings = client.get(f"/api/runs/{run}").json()["readings"]["readings"]
    change = {"kind": "exclude", "readings": [readings[-1]["id"]], "reason": "a bubble"}
    body = {"based_on": based_on, "key": str(uuid4()), "changes": [change]}
    return client.post(f"/api/runs/{run}/changes", json=body)


def signed(analyst: httpx.Client, reviewer: httpx.Client, run: int) -> dict[str, Any]:
    for client, what in ((analyst, "hand in"), (reviewer, "review")):
        move(client, run, what).raise_for_status()
    found: dict[str, Any] = sign(reviewer, run).raise_for_status().json()
    return found


def test_a_run_is_handed_in_reviewed_signed_and_then_stays_as_it_is(
    lab: Lab, analyst: httpx.Client, reviewer: httpx.Client, run: int
) -> None:
    found = signed(analyst, reviewer, run)
    assert found["stage"] == "signed" and [each["stage"] for each in found["steps"]] == [
        "handed in", "reviewed", "signed"
    ]  # fmt: skip
    name = reviewer.get("/api/me").json()["name"]
    signature = found["signatures"][0]
    assert (signature["name"], signature["meaning"], signature["revision"]) == (name, "approval", 1)
    with lab.database.transaction() as db:
        assert signature["digest"] == (seals.made(db, run, 1, whole=True) or b"").hex()
    answer = edit(analyst, run, 1)
    assert (answer.status_code, answer.json()["title"]) == (409, "This run is signed.")
    undone = analyst.post(f"/api/runs/{run}/undo", json={"based_on": 1, "key": str(uuid4())})
    assert undone.status_code == 409
    place = f"reading:{analyst.get(f'/api/runs/{run}').json()['readings']['readings'][0]['id']}"
    note = analyst.put(f"/api/runs/{run}/notes", json={"place": place, "text": "later"})
    assert (note.status_code, note.json()["kind"]) == (409, "locked")
    keep = {"runs": [run], "change": {"kind": "bin", "binned": True}}
    assert "is signed" in analyst.post("/api/runs/keep", json=keep).json()["detail"]
    tags = {"runs": [run], "change": {"kind": "tags", "add": ["kept"]}}
    assert analyst.post("/api/runs/keep", json=tags).status_code == 200  # how it is found is not what was signed
    report = analyst.get(f"/api/runs/{run}/report.html").text
    assert name in report and signature["digest"] in report


def test_a_new_draft_follows_what_was_signed(analyst: httpx.Client, reviewer: httpx.Client, run: int) -> None:
    signed(analyst, reviewer, run)
    assert move(analyst, run, "new draft").status_code == 422  # without a reason
    found = move(analyst, run, "new draft", words="one level was mistyped").raise_for_status().json()
    assert (found["stage"], found["follows"]) == ("draft", 1)
    assert edit(analyst, run, 1).status_code == 200
    head = analyst.get(f"/api/runs/{run}").json()["run"]
    assert (head["stage"], head["follows"]) == ("draft", 1)
    words = [each["words"] for each in analyst.get(f"/api/runs/{run}/ledger").json()]
    assert any("which follows revision 1, signed by" in each and "mistyped" in each for each in words)
    assert len(analyst.get(f"/api/runs/{run}/review").json()["signatures"]) == 1  # of revision 1, as it was


def test_who_handed_in_does_not_review_unless_the_lab_allows_it(lab: Lab) -> None:
    both, admin = lab.person(LabRole.ANALYST, LabRole.REVIEWER), lab.person(LabRole.ADMINISTRATOR)
    run = opened(both, 1, "By one").raise_for_status().json()["run"]["id"]
    move(both, run, "hand in").raise_for_status()
    assert "somebody else" in move(both, run, "review").json()["detail"]
    assert admin.put("/api/lab-settings", json={"own_review": True}).status_code == 204
    assert move(both, run, "review").status_code == 200
    assert admin.put("/api/lab-settings", json={"own_review": False}).status_code == 204
    assert "somebody else" in sign(both, run).json()["detail"]


def test_a_remark_is_answered_and_closed_before_the_review_ends(
    lab: Lab, analyst: httpx.Client, reviewer: httpx.Client, run: int
) -> None:
    move(analyst, run, "hand in").raise_for_status()
    remark = {"place": "answer:Unknown", "named": "Unknown", "text": "Why is this one not diluted?"}
    assert analyst.post(f"/api/runs/{run}/review/remarks", json=remark).status_code == 403
    made = reviewer.post(f"/api/runs/{run}/review/remarks", json=remark).raise_for_status().json()["remarks"][0]
    assert "1 remark is still open" in move(reviewer, run, "review").json()["detail"]
    at = f"/api/runs/{run}/review/remarks/{made['id']}"
    reader = lab.person(LabRole.READER)
    assert reader.post(f"{at}/answers", json={"text": "I may only look."}).status_code == 403
    answered = analyst.post(f"{at}/answers", json={"text": "It was measured undiluted."}).json()["remarks"][0]
    assert answered["answers"][0]["text"] == "It was measured undiluted."
    assert analyst.post(f"{at}/close").status_code == 403
    assert reviewer.post(f"{at}/close").json()["remarks"][0]["closed_by"]
    assert reviewer.post(f"{at}/close").status_code == 404
    assert analyst.post(f"{at}/answers", json={"text": "too late"}).status_code == 404
    assert move(reviewer, run, "review").status_code == 200
    assert reviewer.post(f"/api/runs/{run}/review/remarks", json={**remark, "place": "elsewhere"}).status_code == 422


def test_a_run_goes_back_with_a_reason_and_is_taken_back(
    analyst: httpx.Client, reviewer: httpx.Client, run: int
) -> None:
    assert "nothing to review" in move(reviewer, run, "review").json()["detail"]
    move(analyst, run, "hand in").raise_for_status()
    assert edit(analyst, run, 1).json()["title"] == "This run is handed in."
    assert move(reviewer, run, "send back").status_code == 422
    assert move(reviewer, run, "send back", words="blanks are missing").json()["stage"] == "draft"
    assert edit(analyst, run, 1).status_code == 200
    assert move(analyst, run, "hand in").status_code == 409  # the revision that was looked at is not the one there is
    move(analyst, run, "hand in", 2).raise_for_status()
    assert move(analyst, run, "take back", 2).json()["stage"] == "draft"


def test_what_was_not_shown_is_not_signed(analyst: httpx.Client, reviewer: httpx.Client, run: int) -> None:
    move(analyst, run, "hand in").raise_for_status()
    assert "only one that was reviewed" in sign(reviewer, run).json()["detail"]
    move(reviewer, run, "review").raise_for_status()
    assert "not what the run is now" in sign(reviewer, run, digest="0" * 64).json()["detail"]
    assert sign(reviewer, run, password="not the password").status_code == 401
    assert sign(reviewer, run, based_on=7).status_code == 409
    secret = reviewer.post("/api/me/tokens", json={"name": "script", "scope": "work"}).json()["secret"]
    script = {"Authorization": f"Bearer {secret}"}
    body = {"based_on": 1, "digest": "0" * 64, "meaning": "approval", "password": PASSWORD}
    answer = httpx.post(f"{reviewer.base_url}/api/runs/{run}/review/signature", json=body, headers=script)
    assert answer.status_code == 403  # a script's scope has no review in it
    assert sign(reviewer, run).status_code == 200
    assert sign(reviewer, run).status_code == 422  # once


def test_the_chain_holds_every_step_of_the_review(
    lab: Lab, analyst: httpx.Client, reviewer: httpx.Client, run: int
) -> None:
    digest = signed(analyst, reviewer, run)["digest"]
    with lab.database.transaction() as db:
        words = [row["words"] for row in db.all("SELECT words FROM ledger WHERE run_id = %s ORDER BY id", run)]
    assert words[-3:] == ["Handed in for review", "Reviewed", f"Signed as approval: revision 1, SHA-256 {digest}"]


def test_runs_are_listed_by_the_stage_of_their_review(analyst: httpx.Client, reviewer: httpx.Client, run: int) -> None:
    move(analyst, run, "hand in").raise_for_status()
    wanted = {"study": 1, "stage": "handed in", "count": 200}
    found = reviewer.get("/api/runs", params=wanted).json()["runs"]
    assert run in [each["id"] for each in found] and {each["stage"] for each in found} == {"handed in"}
    assert run not in [
        each["id"] for each in reviewer.get("/api/runs", params={**wanted, "stage": "draft"}).json()["runs"]
    ]
    assert "handed in" in [each["text"] for each in reviewer.get("/api/run-facets").json()["stages"]]
