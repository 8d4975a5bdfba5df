"""Methods through the API: kept, versioned, applied to readings that fit and that do not, and departed from."""

from uuid import uuid4

import httpx
import pytest

from dosis.demo import domoic_acid
from dosis.run.steps.signal import Lookup
from dosis.store.database import Database
from dosis.store.packing import unpack
from dosis.store.shelf import LOOKUPS
from tests.conftest import Site
from tests.tables import PHOSPHATE


def opened(client: httpx.Client, text: str, **more: object) -> httpx.Response:
    body = {"study": 1, "title": "Methods", "key": str(uuid4()), "text": text, **more}
    return client.post("/api/runs", json=body)


def kept(client: httpx.Client, run: int, name: str, **more: object) -> dict:
    made = client.post("/api/methods", json={"run": run, "name": name, **more})
    assert made.status_code == 201, made.text
    return made.json()


@pytest.fixture
def phosphate(site: Site) -> dict:
    """A method kept from the phosphate table, under a name of its own."""
    run = opened(site.client, PHOSPHATE).json()["run"]["id"]
    name = f"Phosphate {uuid4().hex[:6]}"
    return {**kept(site.client, run, name, free=["replicates"]), "name": name, "run": run}


def fit(client: httpx.Client, method: dict, text: str) -> dict:
    return client.post("/api/methods/fits", json={"text": text, "method": {"id": method["id"]}}).json()[0]


def test_the_same_table_fits_its_method_and_gives_the_same_answers(site: Site, phosphate: dict) -> None:
    found = fit(site.client, phosphate, PHOSPHATE)
    assert found["stopped"] == "" and found["remarks"] == [] and found["matched"] > 3
    again = opened(site.client, PHOSPHATE, method={"id": phosphate["id"]}).json()
    first = site.client.get(f"/api/runs/{phosphate['run']}").json()
    assert again["revision"]["outcome"] == first["revision"]["outcome"]
    assert again["run"]["method"] == {
        "id": phosphate["id"], "name": phosphate["name"], "version": 1, "state": "use", "newest": None, "sections": [],
    }  # fmt: skip
    assert site.client.get(f"/api/runs/{again['run']['id']}/departures").json() == []


def test_one_is_proposed_for_readings_that_name_its_rows(site: Site, phosphate: dict) -> None:
    found = site.client.post("/api/methods/fits", json={"text": PHOSPHATE}).json()
    assert [each["proposed"] for each in found] == [True] + [False] * (len(found) - 1)
    assert found[0]["specific"] and found[0]["stopped"] == ""
    assert {each["name"] for each in found} >= {"Viability, IC50", phosphate["name"]}


def test_a_setting_that_is_not_free_departs_and_one_that_is_does_not(site: Site, phosphate: dict) -> None:
    run = opened(site.client, PHOSPHATE, method={"id": phosphate["id"]}).json()
    address = f"/api/runs/{run['run']['id']}"
    steps = {step["kind"]: step for step in run["revision"]["method"]["steps"]}
    for based_on, (kind, field, value, count) in enumerate(
        [("replicates", "cv_limit", 0.2, 0), ("curve", "model", "quadratic", 1)], start=1
    ):
        change = {"kind": "set_step", "step": {**steps[kind], field: value}}
        body = {"based_on": based_on, "key": str(uuid4()), "changes": [change]}
        assert site.client.post(f"{address}/changes", json=body).status_code == 200
        found = site.client.get(f"{address}/departures").json()
        assert len(found) == count
    assert found[0]["what"] == "Curve · model" and found[0]["after"] == "Quadratic"
    why = {"runs": [run["run"]["id"]], "change": {"kind": "departs", "text": "bent standards"}}
    assert site.client.post("/api/runs/keep", json=why).status_code == 200
    assert site.client.get(address).json()["run"]["departs"] == "bent standards"
    assert any("bent standards" in entry["words"] for entry in site.client.get(f"{address}/ledger").json())


def test_a_change_makes_version_2_and_runs_say_which_they_used(site: Site, phosphate: dict) -> None:
    run = opened(site.client, PHOSPHATE, method={"id": phosphate["id"]}).json()["run"]["id"]
    same = site.client.post("/api/methods", json={"run": run, "name": phosphate["name"], "free": ["replicates"]})
    assert same.status_code == 422 and "says the same already" in same.json()["detail"]
    made = kept(site.client, run, phosphate["name"], free=[], words="nothing is free")
    assert made == {"id": phosphate["id"], "version": 2}
    other = site.client.get(f"/api/runs/{phosphate['run']}").json()["run"]["method"]
    assert (other["version"], other["state"], other["newest"]) == (1, "retired", 2)
    view = site.client.get(f"/api/methods/{phosphate['id']}").json()
    assert view["number"] == 2 and [each["state"] for each in view["head"]["versions"]] == ["retired", "use"]
    assert view["head"]["runs"] == 2 and view["head"]["versions"][1]["words"] == "nothing is free"


def test_draft_in_use_retired_go_one_way(site: Site, phosphate: dict) -> None:
    body = site.client.get(f"/api/methods/{phosphate['id']}").json()["body"]
    edit = {"based_on": 1, "about": "For sea water.", "source": "", "free": [], "levels": 3, "blanks": 1, "qcs": 0,
            "use": False}  # fmt: skip
    assert site.client.post(f"/api/methods/{phosphate['id']}/versions", json=edit).json()["version"] == 2
    address = f"/api/methods/{phosphate['id']}/versions"
    states = lambda: [v["state"] for v in site.client.get(f"/api/methods/{phosphate['id']}").json()["head"]["versions"]]  # noqa: E731
    assert states() == ["use", "draft"]
    assert site.client.post(f"{address}/2/state", json={"state": "use"}).status_code == 204
    assert states() == ["retired", "use"]
    assert site.client.post(f"{address}/2/state", json={"state": "draft"}).status_code == 422
    assert site.client.post(f"{address}/9/state", json={"state": "use"}).status_code == 404
    # A file of the first version is read in as a draft of the same method.
    file = site.client.get(f"{address}/1/file").json()
    assert file == body
    assert site.client.post("/api/methods/file", json=file).json() == {"id": phosphate["id"], "version": 3}
    assert states() == ["retired", "use", "draft"]


PLATE = domoic_acid.plate()


@pytest.fixture(scope="module")
def immunoassay(site: Site) -> dict:
    """A plate method, kept from the demo's plate."""
    found = site.client.get("/api/runs", params={"find": "domoic acid plate 3", "study": 1}).json()["runs"]
    return kept(site.client, found[0]["id"], f"Domoic acid {uuid4().hex[:6]}")


def rows(text: str, keep: int) -> str:
    return "\n".join(text.splitlines()[:keep])


TABLE_UNFIT = [
    ("levels cannot be converted", PHOSPHATE.replace("µM", "mg/L"), "cannot be converted", ""),
    ("no standards", "\n".join(line for line in PHOSPHATE.splitlines() if not line.startswith("Std")), "levels", ""),
    ("fewer levels", "\n".join(line for line in PHOSPHATE.splitlines() if not line.startswith("Std 5")), "", "levels"),
    ("no blanks", "\n".join(line for line in PHOSPHATE.splitlines() if "lank" not in line), "", "blanks"),
    ("a plate", PLATE, "levels of standards", ""),
]


@pytest.mark.parametrize(("_", "text", "stopped", "said"), TABLE_UNFIT, ids=[t[0] for t in TABLE_UNFIT])
def test_readings_that_do_not_fit_a_table_method_are_told(
    site: Site, phosphate: dict, _: str, text: str, stopped: str, said: str
) -> None:
    found = fit(site.client, phosphate, text)
    told = " ".join(each["text"] for each in found["remarks"])
    assert (stopped in found["stopped"]) if stopped else (found["stopped"] == "" and said in told), found
    made = opened(site.client, text, method={"id": phosphate["id"]})
    assert made.status_code == (422 if stopped else 201)
    if stopped:
        assert stopped in made.json()["detail"]


COURSES = "\n".join(["Time (s)\tA\tB", *(f"{t}\t{0.1 + t / 100:.3f}\t{0.2 + t / 90:.3f}" for t in range(0, 200, 10))])
PLATE_UNFIT = [
    ("a table", PHOSPHATE, "plates of 96 wells", ""),
    ("another size", "\n".join(["\t".join(["", *map(str, range(1, 7))]),
     *("\t".join([r, *["0.5"] * 6]) for r in "ABCD")]), "8 × 12", ""),
    ("empty wells", PLATE.replace(PLATE.splitlines()[-1], "\t".join(["H", *[""] * 12])), "", "no reading"),
    ("time courses", COURSES, "", ""),
]  # fmt: skip


@pytest.mark.parametrize(("_", "text", "stopped", "said"), PLATE_UNFIT, ids=[t[0] for t in PLATE_UNFIT])
def test_readings_that_do_not_fit_a_plate_method_are_told(
    site: Site, immunoassay: dict, _: str, text: str, stopped: str, said: str
) -> None:
    found = fit(site.client, immunoassay, text)
    told = " ".join(each["text"] for each in found["remarks"])
    if said:
        assert found["stopped"] == "" and said in told
    else:
        assert found["stopped"] != "" and stopped in found["stopped"], found
        assert opened(site.client, text, method={"id": immunoassay["id"]}).status_code == 422


def test_a_plate_is_laid_out_as_its_method_says_in_one_request(site: Site, immunoassay: dict) -> None:
    found = site.client.post("/api/methods/fits", json={"text": PLATE}).json()
    assert found[0]["proposed"]
    made = opened(site.client, PLATE, method={"id": immunoassay["id"]}).json()
    roles = [group["role"] for group in made["revision"]["layout"]["groups"]]
    assert (roles.count("standard"), roles.count("sample"), roles.count("qc"), roles.count("blank")) == (8, 22, 2, 1)
    demo = site.client.get("/api/runs", params={"find": "domoic acid plate 3", "study": 1}).json()["runs"][0]["id"]
    same = site.client.get(f"/api/runs/{demo}").json()["revision"]["outcome"]["answers"]["columns"]
    answers = made["revision"]["outcome"]["answers"]["columns"]
    lead = lambda columns: next(c for c in columns if c["id"] == "in_sample")["texts"]  # noqa: E731
    assert sorted(lead(answers)) == sorted(lead(same))


def test_a_run_like_another_needs_no_kept_method(site: Site) -> None:
    first = opened(site.client, PHOSPHATE).json()["run"]["id"]
    made = opened(site.client, PHOSPHATE, method={"run": first})
    assert made.status_code == 201 and made.json()["run"]["method"] is None
    assert opened(site.client, PHOSPHATE, method={"run": 10**9}).status_code == 404
    assert opened(site.client, PHOSPHATE, method={"id": 10**9}).status_code == 404


def test_what_a_replaced_or_removed_layout_held_is_kept(database: Database) -> None:
    name = f"Table {uuid4().hex[:6]}"
    first = Lookup(name=name, x=(0.0, 1.0), y=(0.0, 2.0))
    second = first.model_copy(update={"y": (0.0, 3.0)})
    with database.transaction() as db:
        LOOKUPS.keep(db, first, "one")
        LOOKUPS.keep(db, second, "two")
        id = next(each.id for each in LOOKUPS.all(db) if each.body.name == name)
        LOOKUPS.remove(db, id, "three")
        before = db.all("SELECT body, author, ended_by FROM shelf_before WHERE name = %s ORDER BY id", name)
    assert [unpack(Lookup, row["body"]) for row in before] == [first, second]
    assert [(row["author"], row["ended_by"]) for row in before] == [("one", "two"), ("two", "three")]
