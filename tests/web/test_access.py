"""Who may use what: every route as nobody, reader, analyst of another study and reviewer; and what bodies name."""

import re
from uuid import uuid4

import httpx
import pytest
from fastapi import FastAPI
from fastapi.routing import APIRoute

from dosis.people.rights import LabRole, Right
from dosis.store.database import Database
from dosis.web.access import Access, all_declared, api_routes, declared
from dosis.web.app import create_app
from tests.tables import SMALL
from tests.web.lab import Lab, opened

NOWHERE = 99_999_999


@pytest.fixture(scope="module")
def routes() -> list[APIRoute]:
    app = create_app(Database("mysql://nobody@127.0.0.1:9/none"), None)
    found = list(api_routes(app.routes))
    documented = {(path, method) for path, methods in app.openapi()["paths"].items() for method in methods}
    assert documented <= {(route.path, method.lower()) for route in found for method in route.methods}
    return found


def study_of_their_own(lab: Lab, *roles: LabRole) -> tuple[httpx.Client, int]:
    """Somebody who holds these roles in a new study alone."""
    maker = lab.person(LabRole.ANALYST)
    study = maker.post("/api/studies", json={"name": f"Study {uuid4().hex[:6]}"}).raise_for_status().json()["id"]
    return lab.person(studies={study: roles}), study


def walked(client: httpx.Client, route: APIRoute, run: int, batch: int) -> int:
    """The answer to a route with an empty body, of a run and batch of study 1 where it is of one."""
    access = declared(route)
    assert access is not None
    of = access.of[0] if access.of else ""
    id = {"run": run, "batch": batch, "study": 1}.get(of, NOWHERE)
    path = re.sub(
        r"\{(\w+)\}", lambda m: str(id) if m[1] == "id" else "csv" if m[1] in ("form", "kind") else "1", route.path
    )
    method = next(iter(route.methods))
    return client.request(method, path, json={} if method in ("POST", "PUT") else None).status_code


def test_every_route_says_who_may_use_it(routes: list[APIRoute]) -> None:
    assert len(routes) > 110
    assert all(declared(route) for route in routes)
    app = FastAPI()
    app.get("/api/forgotten")(lambda: None)
    with pytest.raises(RuntimeError, match="/api/forgotten"):
        all_declared(app)


def test_every_route_as_nobody_reader_foreign_analyst_and_reviewer(lab: Lab, routes: list[APIRoute]) -> None:
    worker = lab.person(LabRole.ANALYST)
    run = opened(worker, 1).raise_for_status().json()["run"]["id"]
    methods = worker.get("/api/methods").json()
    new = {"name": "Walked", "study": 1, "method": methods[0]["id"], "key": str(uuid4())}
    batch = worker.post("/api/batches", json=new).raise_for_status().json()["id"]
    nobody, reader, reviewer = lab.nobody(), lab.person(LabRole.READER), lab.person(LabRole.REVIEWER)
    foreign, _ = study_of_their_own(lab, LabRole.ANALYST)
    wrong = []

    def expect(who: str, route: APIRoute, status: int, wanted: set[int] | None) -> None:
        """wanted : the answers that are right; None for anything but a refusal."""
        if (status in (401, 403)) if wanted is None else (status not in wanted):
            wrong.append(f"{who}: {sorted(route.methods)} {route.path} answers {status}")

    for route in routes:
        access = declared(route)
        assert isinstance(access, Access)
        if route.path in ("/api/sign-out", "/api/me/sessions"):
            continue  # they would end the sessions of this test
        right = access.right
        if access.anyone:
            continue  # whom they let in has tests of its own
        expect("nobody", route, walked(nobody, route, run, batch), {401})
        expect("reader", route, walked(reader, route, run, batch), None if right in (None, Right.READ) else {403})
        if right in (Right.WORK, Right.ADMINISTER):
            expect("reviewer", route, walked(reviewer, route, run, batch), {403})
        elif not route.path.endswith(("/step", "/signature")):
            expect("reviewer", route, walked(reviewer, route, run, batch), None)
        if access.of is not None:
            expect("foreign analyst", route, walked(foreign, route, run, batch), {404})
        elif right in (Right.REVIEW, Right.ADMINISTER) or access.lab:
            expect("foreign analyst", route, walked(foreign, route, run, batch), {403})
        else:
            expect("foreign analyst", route, walked(foreign, route, run, batch), None)
    assert wrong == []


def test_what_a_body_names_is_asked_for_too(lab: Lab) -> None:
    """An analyst of one study cannot reach into another through the body of a request."""
    foreign, study = study_of_their_own(lab, LabRole.ANALYST)
    worker = lab.person(LabRole.ANALYST)
    theirs = opened(worker, 1).raise_for_status().json()["run"]["id"]
    own = opened(foreign, study).raise_for_status().json()["run"]["id"]
    assert opened(foreign, 1).status_code == 404
    rename = {"kind": "rename", "title": "Mine now"}
    assert foreign.post("/api/runs/keep", json={"runs": [theirs], "change": rename}).status_code == 404
    assert foreign.post("/api/runs/keep", json={"runs": [own], "change": rename}).status_code == 200
    move = {"runs": [own], "change": {"kind": "move", "study": 1}}
    assert foreign.post("/api/runs/keep", json=move).status_code == 404
    batch = {"name": "Foreign", "study": 1, "method": 1, "key": str(uuid4())}
    assert foreign.post("/api/batches", json=batch).status_code == 404
    assert foreign.get("/api/compare", params={"runs": [own, theirs]}).status_code == 404
    look = foreign.get(f"/api/runs/{own}").json()["revision"]["method"].get("figure") or {}
    others = {"look": {**look, "others": [{"run": theirs, "revision": 1}]}}
    assert foreign.post(f"/api/runs/{own}/figure", json=others).status_code == 404
    assert foreign.post("/api/methods", json={"run": theirs, "name": f"M {uuid4().hex[:6]}"}).status_code == 404
    like = {"study": study, "title": "Like", "key": str(uuid4()), "text": SMALL, "method": {"run": theirs}}
    assert foreign.post("/api/runs", json=like).status_code == 404
    remark = f"/api/runs/{theirs}/review/remarks/1/answers"
    assert foreign.post(remark, json={"text": "mine"}).status_code == 404


def test_lists_show_what_one_may_look_into(lab: Lab) -> None:
    foreign, study = study_of_their_own(lab, LabRole.READER)
    assert [each["id"] for each in foreign.get("/api/studies").json()] == [study]
    assert foreign.get("/api/runs", params={"place": "anywhere"}).json()["total"] == 0
    assert foreign.get("/api/run-facets").json()["questions"] == []
    assert foreign.get("/api/batches").json() == []
    season = next(each for each in foreign.get("/api/methods").json() if each["name"].startswith("Domoic acid"))
    assert foreign.get(f"/api/methods/{season['id']}/trends").json()["runs"] == []
    assert lab.person(LabRole.READER).get(f"/api/methods/{season['id']}/trends").json()["runs"] != []


def test_a_file_in_pieces_is_seen_by_who_sent_it(lab: Lab) -> None:
    one, other = lab.person(LabRole.ANALYST), lab.person(LabRole.ANALYST)
    begun = one.post("/api/files", json={"key": str(uuid4()), "name": "a.csv", "size": 5}).json()["id"]
    assert one.put(f"/api/files/{begun}/pieces/0", content=b"a,b\n1").status_code == 200
    assert one.get(f"/api/files/{begun}").status_code == 200
    assert other.get(f"/api/files/{begun}").status_code == 404
    assert other.post(f"/api/files/{begun}/understood", json={}).status_code == 404
    assert other.delete(f"/api/files/{begun}").status_code == 404
    body = {"study": 1, "title": "Of another's file", "key": str(uuid4()), "file": begun}
    assert other.post("/api/runs", json=body).status_code == 404


def test_rights_are_given_and_taken_at_once(lab: Lab) -> None:
    admin, (own, study) = lab.person(LabRole.ADMINISTRATOR), study_of_their_own(lab, LabRole.READER)
    assert opened(own, study).status_code == 403
    at = f"/api/people/{own.headers['X-Test-Account']}/rights"
    assert admin.put(at, json={"studies": {study: ["analyst"]}}).status_code == 204
    assert opened(own, study).status_code == 201
    assert admin.put(at, json={"roles": ["reader"]}).status_code == 204
    assert opened(own, study).status_code == 403
    assert own.get("/api/studies/1").status_code == 200
    assert admin.put(at, json={"studies": {study: ["administrator"]}}).status_code == 422
    assert admin.put(at, json={"studies": {NOWHERE: ["reader"]}}).status_code == 422


def test_who_exported_what_is_in_the_ledger(lab: Lab) -> None:
    own, admin = lab.person(LabRole.ANALYST), lab.person(LabRole.ADMINISTRATOR)
    run = opened(own, 1).raise_for_status().json()["run"]["id"]
    name = own.get("/api/me").json()["name"]
    for path in ("answers.csv", "source", "figure.svg", "figure.csv", "report.html"):
        assert own.get(f"/api/runs/{run}/{path}").status_code == 200
    found = admin.get("/api/ledger", params={"person": name, "action": "export"}).json()
    assert found["total"] == 5 and {each["run_id"] for each in found["entries"]} == {run}
    assert found["entries"][0]["words"] == "Exported: report as HTML"
    as_csv = admin.get("/api/ledger/file.csv", params={"person": name}).text
    assert as_csv.count("Exported: ") == 5 and "Signed in" in as_csv
    as_json = admin.get("/api/ledger/file.json", params={"run": run}).json()
    assert as_json[0]["action"] == "open run" and as_json[0]["author"] == name
    assert name in admin.get("/api/ledger/facets").json()["people"]
    assert admin.get("/api/ledger", params={"person": name, "until": "2020-01-01"}).json()["total"] == 0


def test_a_run_does_not_name_runs_of_studies_that_are_closed_to_who_reads_it(lab: Lab) -> None:
    worker, study = study_of_their_own(lab, LabRole.ANALYST)
    analyst = lab.person(LabRole.ANALYST)
    run, before, after = (
        opened(analyst, of, title, SMALL).raise_for_status().json()["run"]["id"]
        for of, title in ((study, "Theirs"), (1, "Before it"), (1, "After it"))
    )
    with lab.database.transaction() as db:
        db.run("UPDATE run SET copied_from = %s, from_run = %s WHERE id = %s", before, before, run)
        db.run("UPDATE run SET from_run = %s WHERE id = %s", run, after)
    everybody = lab.person(LabRole.READER).get(f"/api/runs/{run}").json()["run"]
    assert everybody["came_from"]["title"] == everybody["copied_from"]["title"] == "Before it"
    assert [each["title"] for each in everybody["led_to"]] == ["After it"]
    theirs = worker.get(f"/api/runs/{run}").raise_for_status().json()["run"]
    assert (theirs.get("came_from"), theirs.get("copied_from"), theirs["led_to"]) == (None, None, [])
