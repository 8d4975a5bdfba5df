"""Runs stored by earlier versions are read, changed and undone; a set-up that was cut short is taken up again."""

import json
import os
import zlib
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from pydantic import BaseModel

from dosis.demo import diatom
from dosis.demo.phosphate import clean_run
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import SetStep
from dosis.run.evaluate import evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.steps.replicates import ReplicatesStep
from dosis.store import history, runs, studies
from dosis.store.database import Database
from dosis.store.packing import Unreadable, pack, unpack
from dosis.store.private_server import PrivateServer
from dosis.store.worked import worked

# As versions of November 2026 wrote them: without a version, and in the versions that their names tell.
EARLIER = Path(__file__).parent / "earlier"
KINDS: dict[str, type[BaseModel]] = {"method": Method, "layout": Layout, "outcome": Outcome}


def stored(name: str) -> dict[str, Any]:
    return json.loads((EARLIER / f"{name}.json").read_text("utf-8"))


def evaluated(found: dict[str, Any]) -> Outcome:
    """The demo's dose–response run worked through today."""
    intake = understand(diatom.plate())
    assert intake.readings is not None
    return evaluate(intake.readings, read(Layout, found["layout"]), read(Method, found["method"]))


def read(kind: type[BaseModel], data: dict[str, Any]) -> Any:
    """A record as it comes out of a blob in the database."""
    return unpack(kind, zlib.compress(json.dumps(data, separators=(",", ":")).encode()))


@pytest.mark.parametrize("name", sorted(path.stem for path in EARLIER.glob("*.json")))
def test_what_earlier_versions_stored_is_read(name: str) -> None:
    for part, data in stored(name).items():
        found = read(KINDS[part], data)
        assert unpack(KINDS[part], pack(found)) == found
        if part == "outcome":
            assert found.verdict.headline == data["verdict"]["headline"]


def test_settings_that_have_moved_are_where_they_belong() -> None:
    old = stored("dose_method")["method"]
    normalize = next(step for step in old["steps"] if step["kind"] == "normalize")
    assert normalize["hundred"] == "vehicle"
    assert read(Method, old).step("normalize").no_effect == "vehicle"
    largest = {**normalize, "hundred": "largest_mean", "typed_nought": 0.5}
    changed = read(Method, {**old, "steps": [largest]}).step("normalize")
    assert (changed.no_effect, changed.typed_full_effect) == ("greatest_level", 0.5)
    old = stored("concentration")["method"]
    steps = [{**step, "cv_limit": 0.25} if step["kind"] == "checks" else step for step in old["steps"]]
    assert read(Method, {**old, "steps": steps}).step("replicates").cv_limit == 0.25


def test_the_place_of_a_peak_held_at_a_value_is_still_held() -> None:
    peak = {"kind": "dose_curve", "model": "gaussian", "fixed": {"centre": 5.0}, "share": ["width"], "own": {
        "A": {"model": "gaussian", "fixed": {"centre": 6.0}}}}  # fmt: skip
    found = read(Method, {"version": 2, "question": "dose", "steps": [peak]}).step("dose_curve")
    assert found.fixed == {"center": 5.0} and found.own["A"].fixed == {"center": 6.0}
    own = {"kind": "curve", "model": "custom", "expression": "centre + k·x", "start": {"centre": 1.0}}
    assert read(Method, {"version": 2, "steps": [own]}).step("curve").start == {"centre": 1.0}


def test_numbers_stored_without_intervals_are_kept() -> None:
    effect = stored("dose_2")["outcome"]["effects"][0]
    old = {key: value for key, value in effect.items() if key != "shape"} | {"slope": 1.5, "shown_slope": "1.5"}
    outcome = {key: value for key, value in stored("dose_2")["outcome"].items() if key != "version"}
    found = read(Outcome, {**outcome, "effects": [old]}).answers.column("slope").value(0)
    assert (found.value, found.shown, found.lower) == (1.5, "1.5", None)


def test_answers_stored_as_records_stand_in_the_table() -> None:
    """The demo's dose–response run, as it was stored and as it is evaluated today, when the wells of the references
    widen what is said between them."""
    found, old = read(Outcome, stored("dose_2")["outcome"]), stored("dose_2")["outcome"]
    now = evaluated(stored("dose_2"))
    assert found.part.references == now.part.references and found.answers.rows == now.answers.rows
    assert [curve.key for curve in found.curves] == [curve.key for curve in now.curves]
    for column in found.answers.columns:
        same = now.answers.column(column.id)
        assert column.texts == same.texts
        if column.id.startswith("relative"):
            assert not same.lower_texts or column.lower_texts == same.lower_texts
        assert column.values == pytest.approx(same.values, rel=1e-6)
    assert [row.name for row in found.answers.rows] == [effect["name"] for effect in old["effects"]]


def test_samples_stored_as_records_stand_in_the_table() -> None:
    old = stored("concentration")["outcome"]
    table = read(Outcome, old).answers
    for i, answer in enumerate(old["answers"]):
        assert table.column("in_sample").values[i] == answer["in_sample"]["value"]
        assert table.column("in_reading").lower_texts[i] == answer["in_reading"]["shown_lower"]
        assert table.column("recovery").texts[i] == answer["shown_recovery"]
        assert table.rows[i].remarks[:1] == () or table.rows[i].remarks[0].short == answer["remarks"][0]["short"]
    assert read(Outcome, stored("mortality")["outcome"]).part.kind == "mortality"


def test_a_newer_form_is_refused_with_a_sentence() -> None:
    layout = stored("dose_2")["layout"]
    with pytest.raises(Unreadable, match=r"newer version.*version 99 of its form.*Open it with the newer"):
        read(Layout, {**layout, "version": 99})
    with pytest.raises(Unreadable, match=r"newer version.*the field “tides”"):
        read(Layout, {**layout, "tides": 3})
    with pytest.raises(Unreadable, match=r"cannot be read: groups: Input should be a valid"):
        read(Layout, {**layout, "groups": 7})


def test_a_change_in_an_old_run_can_be_undone(database: Database) -> None:
    """Its answers had no key of their own then; undoing brings them back as they were."""
    found, intake = stored("concentration"), understand(clean_run())
    assert not any(answer.get("key") for answer in found["outcome"]["answers"]) and intake.readings is not None
    with database.transaction() as db:
        id = runs.create(db, runs.NewRun(
            study=studies.create(db, f"Old {uuid4()}", "tester"), title="Old", key=str(uuid4()),
            source_name="pasted table", source=clean_run().encode(), choices=Choices(), readings=intake.readings,
            worked=worked(
                read(Layout, found["layout"]), read(Method, found["method"]), read(Outcome, found["outcome"])
            ),
        ), "tester")  # fmt: skip
    with database.transaction() as db:
        history.change(db, id, 1, str(uuid4()), [SetStep(step=ReplicatesStep(combine="median"))], "tester")
    with database.transaction() as db:
        back = history.undo(db, id, 2, str(uuid4()), "tester").revision
        count = db.one("SELECT COUNT(*) AS n FROM answer WHERE run_id = %s", id)
    assert [row.name for row in back.outcome.answers.rows] == [a["name"] for a in found["outcome"]["answers"]]
    assert count == {"n": len(found["outcome"]["answers"])}


def folder_cut_short(home: Path) -> None:
    """What a kill in the middle of the first set-up leaves: system tables, but neither mark nor schema."""
    (home / "data" / "mysql").mkdir(parents=True)
    (home / "data" / "ibdata1").write_bytes(b"\0" * 4096)
    (home / "password").touch()


def test_a_first_start_cut_short_starts_again_by_itself(tmp_path: Path) -> None:
    os.umask(0o022)
    folder_cut_short(tmp_path)
    private = PrivateServer(tmp_path, supervise=False)
    private.start()
    try:
        store = Database(private.owner_url)
        assert store.migrate()
        store.close()
        assert (tmp_path / "password").read_text().strip()
    finally:
        private.stop()


def test_a_migration_cut_short_is_taken_up_again(tmp_path: Path) -> None:
    """Tables are there, the row that says so is not: each file is applied again without harm, and nothing is lost."""
    os.umask(0o022)
    private = PrivateServer(tmp_path, supervise=False)
    private.start()
    try:
        store = Database(private.owner_url)
        names = store.migrate()
        with store.transaction() as db:
            study = studies.create(db, "Kept", "tester")
            db.run("DELETE FROM migration")
        assert store.migrate() == names and store.migrate() == []
        with store.transaction() as db:
            assert studies.get(db, study) is not None
        store.close()
    finally:
        private.stop()
    private.start()  # with a mark and a schema, nothing is made anew
    store = Database(private.owner_url)
    with store.transaction() as db:
        assert studies.get(db, study) is not None
    store.close()
    private.stop()
