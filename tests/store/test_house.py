"""Keeping house: what is done to runs stands in their ledger, is found again, and nothing is lost before its time."""

from uuid import uuid4

import pytest

from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import ChangeError, Exclude
from dosis.run.evaluate import evaluate
from dosis.run.method import default_method
from dosis.store import history, house, ledger, listing, revisions, runs, studies
from dosis.store.database import Database
from dosis.store.duplicates import duplicate
from dosis.store.listing import Wanted
from dosis.store.worked import worked
from tests.conftest import Site
from tests.tables import PHOSPHATE


def made(database: Database, study: int, title: str, text: str = PHOSPHATE, author: str = "Ada") -> int:
    intake, method = understand(text), default_method("concentration")
    assert intake.layout is not None and intake.readings is not None
    with database.transaction() as db:
        new = runs.NewRun(
            study=study, title=title, key=str(uuid4()), source_name="pasted table", source=text.encode(),
            choices=Choices(), readings=intake.readings,
            worked=worked(intake.layout, method, evaluate(intake.readings, intake.layout, method)),
        )  # fmt: skip
        return runs.create(db, new, author)


@pytest.fixture
def study(database: Database) -> int:
    with database.transaction() as db:
        return studies.create(db, f"House {uuid4()}", "Ada")


def titles(database: Database, **wanted: object) -> list[str]:
    with database.transaction() as db:
        return [run.title for run in listing.listed(db, Wanted.model_validate(wanted)).runs]


def keep(database: Database, ids: list[int], change: house.RunKept) -> int:
    with database.transaction() as db:
        return house.keep_runs(db, ids, change, "Bea")


def said(database: Database, run: int) -> list[str]:
    with database.transaction() as db:
        return [f"{entry.author}: {entry.words}" for entry in ledger.of_run(db, run)]


def test_each_thing_that_is_done_stands_in_the_ledger(database: Database, study: int) -> None:
    run = made(database, study, "Phosphate")
    with database.transaction() as db:
        other = studies.create(db, "Other", "Ada")
    done = [
        (house.Rename(title="  Phosphate, pier "), "Renamed from “Phosphate” to “Phosphate, pier”"),
        (house.Describe(text="After the storm.\nTwo bottles."), "Described: “After the storm. Two bottles.”"),
        (house.SetTags(add=("storm", "pier")), "Tagged pier, storm"),
        (house.SetTags(add=("low water",), remove=("pier",)), "Tagged low water; tag taken off: pier"),
        (house.Move(study=other), "to “Other”"),
        (house.Archive(archived=True), "Put away"), (house.Archive(archived=False), "Brought back"),
        (house.Bin(binned=True), "Thrown into the bin; gone for good after 30 days"),
        (house.Bin(binned=False), "Taken out of the bin"),
    ]  # fmt: skip
    for change, words in done:
        assert keep(database, [run, run], change) == 1
        assert words in said(database, run)[-1] and said(database, run)[-1].startswith("Bea: ")
        if not isinstance(change, house.SetTags) or change.remove:
            count = len(said(database, run))
            assert keep(database, [run], change) == 0 and len(said(database, run)) == count
    with database.transaction() as db:
        head = runs.head(db, run)
        assert head is not None
        assert (head.title, head.tags, head.study_id) == ("Phosphate, pier", ("low water", "storm"), other)
        assert revisions.get(db, run).number == 1  # type: ignore[union-attr]


def test_all_or_nothing_is_done(database: Database, study: int) -> None:
    run = made(database, study, "One")
    with pytest.raises(ChangeError, match="not there any more"):
        keep(database, [run, 10**9], house.Rename(title="Two"))
    with pytest.raises(ChangeError, match="choose another"):
        keep(database, [run], house.Move(study=10**9))
    assert titles(database, study=study) == ["One"]
    keep(database, [run], house.SetTags(add=tuple(map(str, range(20)))))
    with pytest.raises(ChangeError, match="at most 20 tags"):
        keep(database, [run], house.SetTags(add=("one more",)))


def test_runs_are_found_by_what_they_are_and_what_was_read(database: Database, study: int) -> None:
    storm = made(database, study, "After the storm", PHOSPHATE.replace("Pier N", "M-107"))
    calm = made(database, study, "Calm 100%", author="Bea")
    keep(database, [storm], house.SetTags(add=("Storm_2",)))
    keep(database, [calm], house.Describe(text="before the dredging"))
    found = {
        "storm": ["After the storm"], "m-107": ["After the storm"], "M-107 storm": ["After the storm"],
        "M-107 calm": [], "100%": ["Calm 100%"], "1_0": [], "storm_2": ["After the storm"], "stormX2": [],
        "dredging": ["Calm 100%"], "": ["Calm 100%", "After the storm"],
    }  # fmt: skip
    for text, wanted in found.items():
        assert titles(database, study=study, find=text) == wanted, text
    assert titles(database, study=study, person="Bea") == ["Calm 100%"]
    assert titles(database, study=study, tag="storm_2") == ["After the storm"]
    assert titles(database, study=study, question="dose") == []
    assert len(titles(database, study=study, question="concentration")) == 2
    assert titles(database, study=study, sort="title") == ["After the storm", "Calm 100%"]
    assert titles(database, study=study, sort="created") == ["Calm 100%", "After the storm"]
    assert titles(database, study=study, count=1, first=1) == ["After the storm"]
    assert titles(database, study=study, until="2020-01-01") == []
    assert len(titles(database, study=study, since="2020-01-01")) == 2
    with database.transaction() as db:
        states = [run.card.state for run in listing.listed(db, Wanted(study=study)).runs]
        assert titles(database, study=study, state=states[0].value)
        facets = listing.facets(db, study)
    assert [(f.text, f.count) for f in facets.questions] == [("concentration", 2)]
    assert [(f.text, f.count) for f in facets.tags] == [("Storm_2", 1)]
    assert {f.text for f in facets.people} == {"Ada", "Bea"}


def test_what_is_away_is_not_listed_and_what_is_in_the_bin_not_changed(database: Database, study: int) -> None:
    one, two, three = (made(database, study, title) for title in ("One", "Two", "Three"))
    keep(database, [one], house.Archive(archived=True))
    keep(database, [two, one], house.Bin(binned=True))
    assert titles(database, study=study) == ["Three"]
    assert titles(database, study=study, place="bin", sort="title") == ["One", "Two"]
    assert titles(database, study=study, place="archived") == []
    with database.transaction() as db:
        assert runs.in_study(db, study) == [three]
        assert studies.get(db, study).runs == 1  # type: ignore[union-attr]
    with pytest.raises(ChangeError, match="in the bin"), database.transaction() as db:
        history.change(db, two, 1, str(uuid4()), (Exclude(readings=(1,), reason="bubble"),), "Ada")
    keep(database, [one], house.Bin(binned=False))
    assert titles(database, study=study, place="archived") == ["One"]
    assert sorted(titles(database, study=study, place="anywhere")) == ["One", "Three"]


@pytest.mark.parametrize(("hours", "gone"), [(30 * 24 - 1, False), (30 * 24 + 1, True)])
def test_the_bin_is_emptied_after_thirty_days(database: Database, study: int, hours: int, gone: bool) -> None:
    run, other = made(database, study, "Old"), made(database, study, "Other")
    keep(database, [run], house.Bin(binned=True))
    with database.transaction() as db:
        db.run("UPDATE run SET binned_at = binned_at - INTERVAL %s HOUR WHERE id = %s", hours, run)
        house.purge(db)
        assert (runs.head(db, run) is None) is gone
        assert (revisions.row_of(db, run) is None) is gone
        assert runs.head(db, other) is not None
        assert (
            "deleted after 30 days"
            in db.one("SELECT words FROM ledger WHERE run_id = %s ORDER BY id DESC", run)["words"]
        ) is gone  # type: ignore[index]
    assert titles(database, study=study, place="bin") == ([] if gone else ["Old"])


def test_a_duplicate_begins_where_the_other_stands(database: Database, study: int) -> None:
    run = made(database, study, "One")
    with database.transaction() as db:
        history.change(db, run, 1, str(uuid4()), (Exclude(readings=(1,), reason="bubble"),), "Ada")
    keep(database, [run], house.SetTags(add=("storm",)))
    key = str(uuid4())
    with database.transaction() as db:
        copy = duplicate(db, run, key, "One again", "Bea")
        assert copy is not None and copy != run
        assert duplicate(db, run, key, "One again", "Bea") == copy
        assert duplicate(db, 10**9, str(uuid4()), "x", "Bea") is None
        mine, other = revisions.get(db, copy), revisions.get(db, run)
        assert mine is not None and other is not None
        assert mine.number == 1 and (mine.layout, mine.method, mine.outcome) == (
            other.layout, other.method, other.outcome,
        )  # fmt: skip
        assert runs.readings(db, copy) == runs.readings(db, run)
        assert runs.source(db, copy) == runs.source(db, run)
        head = runs.head(db, copy)
        assert head is not None and head.copied_from is not None and head.copied_from.id == run
        assert head.tags == ("storm",)
        history.change(db, copy, 1, str(uuid4()), (Exclude(readings=(2,), reason="bubble"),), "Bea")
        assert revisions.get(db, run).number == 2  # type: ignore[union-attr]
    assert "made as “One” stands in revision 2" in said(database, copy)[0]
    assert "Duplicated as “One again”" in said(database, run)[-1]


def test_studies_are_kept_too(site: Site) -> None:
    id = site.client.post("/api/studies", json={"name": "Spring"}).json()["id"]
    for change in ({"kind": "rename", "title": "Spring 2026"}, {"kind": "describe", "text": "Six weeks"},
                   {"kind": "archive", "archived": True}):  # fmt: skip
        assert site.client.post(f"/api/studies/{id}/keep", json={"change": change}).status_code == 204
    found = site.client.get(f"/api/studies/{id}").json()
    assert (found["name"], found["description"], found["archived"]) == ("Spring 2026", "Six weeks", True)
    answer = site.client.post("/api/studies/999999/keep", json={"change": {"kind": "archive", "archived": True}})
    assert answer.status_code == 404
    bad = site.client.post("/api/runs/keep", json={"runs": [1], "change": {"kind": "tags", "add": ["a,b"]}})
    assert bad.status_code == 422 and "add" in bad.text


def test_a_run_is_duplicated_with_its_curves_over_the_wire(site: Site) -> None:
    rows = site.client.get("/api/runs", params={"study": 1, "question": "recording"}).json()["runs"]
    new = {"key": str(uuid4()), "title": "Tide again"}
    made_ = site.client.post(f"/api/runs/{rows[0]['id']}/duplicate", json=new)
    assert made_.status_code == 201
    lines = [
        site.client.get(f"/api/runs/{id}/revisions/{number}/courses?points=50").json()
        for id, number in ((rows[0]["id"], rows[0]["revision"]), (made_.json()["run"]["id"], 1))
    ]
    assert lines[0] == lines[1]
    keep_ = {"runs": [made_.json()["run"]["id"]], "change": {"kind": "bin", "binned": True}}
    assert site.client.post("/api/runs/keep", json=keep_).json() == {"altered": 1}
