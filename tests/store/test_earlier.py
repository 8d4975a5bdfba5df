"""Runs stored by earlier versions are read, changed and undone; a set-up that was cut short is taken up again."""

import json
import os
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest

from dosis.demo.phosphate import clean_run
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import SetStep
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome import Outcome
from dosis.run.steps.replicates import ReplicatesStep
from dosis.store import history, runs, studies
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer

EARLIER = Path(__file__).parent / "earlier"  # as versions of November 2026 wrote them


def stored(name: str) -> dict[str, Any]:
    return json.loads((EARLIER / f"{name}.json").read_text("utf-8"))


@pytest.mark.parametrize("name", ["concentration", "mortality"])
def test_what_earlier_versions_stored_is_read(name: str) -> None:
    found = stored(name)
    assert Method.model_validate(found["method"]).steps and Layout.model_validate(found["layout"]).groups
    assert Outcome.model_validate(found["outcome"]).verdict.headline


def test_settings_that_have_moved_are_where_they_belong() -> None:
    old = stored("dose_method")["method"]
    normalize = next(step for step in old["steps"] if step["kind"] == "normalize")
    assert "hundred" in normalize
    assert Method.model_validate(old).step("normalize").no_effect == normalize["hundred"]  # type: ignore[union-attr]
    checks = next(step for step in stored("concentration")["method"]["steps"] if step["kind"] == "checks")
    assert Method.model_validate(stored("concentration")["method"]).step("replicates").cv_limit == checks["cv_limit"]  # type: ignore[union-attr]


def test_a_change_in_an_old_run_can_be_undone(database: Database) -> None:
    """Its answers had no key of their own then; undoing brings them back as they were."""
    found, intake = stored("concentration"), understand(clean_run())
    assert not any(answer.get("key") for answer in found["outcome"]["answers"]) and intake.readings is not None
    with database.transaction() as db:
        id = runs.create(db, runs.NewRun(
            study=studies.create(db, f"Old {uuid4()}", "tester"), title="Old", key=str(uuid4()),
            source_name="pasted table", source=clean_run().encode(), choices=Choices(), readings=intake.readings,
            layout=Layout.model_validate(found["layout"]), method=Method.model_validate(found["method"]),
            outcome=Outcome.model_validate(found["outcome"]),
        ), "tester")  # fmt: skip
    with database.transaction() as db:
        history.change(db, id, 1, str(uuid4()), [SetStep(step=ReplicatesStep(combine="median"))], "tester")
    with database.transaction() as db:
        back = history.undo(db, id, 2, str(uuid4()), "tester")
        count = db.one("SELECT COUNT(*) AS n FROM answer WHERE run_id = %s", id)
    assert [a.name for a in back.outcome.answers] == [a["name"] for a in found["outcome"]["answers"]]
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
        store = Database(private.url)
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
        store = Database(private.url)
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
    store = Database(private.url)
    with store.transaction() as db:
        assert studies.get(db, study) is not None
    store.close()
    private.stop()
