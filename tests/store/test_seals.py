"""The chain of the ledger on a database of its own: what is rewritten, removed or put in between is found and named."""

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from uuid import uuid4

import pymysql
import pytest
from typer.testing import CliRunner

from dosis.cli import app
from dosis.demo.load import AUTHOR, STUDY, _run
from dosis.demo.phosphate import bent_run, clean_run
from dosis.run.changes import Exclude
from dosis.store import grants, history, house, ledger, runs, seals, studies
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer


@pytest.fixture(scope="module")
def home(tmp_path_factory: pytest.TempPathFactory) -> Iterator[PrivateServer]:
    """A server of its own, whose past is rewritten here."""
    server = PrivateServer(tmp_path_factory.mktemp("sealed") / "lab", supervise=False)
    server.start()
    yield server
    server.stop()


@pytest.fixture
def sealed(home: PrivateServer) -> Iterator[Database]:
    """Two runs with a change, all sealed; and as it was again when the test is over."""
    store = Database(home.owner_url)
    store.migrate()
    with store.transaction() as db:
        for table in ("ledger_seal", "ledger", "answer", "measure", "revision", "readings", "run", "study"):
            db.run(f"DELETE FROM {table}")
        study = studies.create(db, STUDY, AUTHOR)
        for title, table in (("One", bent_run), ("Two", clean_run)):
            made = _run(study, title, table()).model_copy(update={"key": str(uuid4())})
            id = runs.create(db, made, AUTHOR)
            history.change(db, id, 1, str(uuid4()), [Exclude(readings=(3,), reason="bubble")], AUTHOR)
    with store.transaction() as db:
        assert seals.seal(db) == 5 and seals.seal(db) == 0
    yield store
    store.close()


def checked(store: Database) -> seals.Checked:
    with store.transaction() as db:
        return seals.check(db)


def test_what_nobody_has_touched_fits(sealed: Database) -> None:
    found = checked(sealed)
    assert (found.sealed, found.waiting, found.broken) == (5, 0, None) and len(found.head) == 64
    with sealed.transaction() as db:
        ledger.write(db, "tester", "note", "a word more")
    assert checked(sealed).waiting == 1
    with sealed.transaction() as db:
        seals.seal(db)
    after = checked(sealed)
    assert (after.sealed, after.waiting, after.broken) == (6, 0, None) and after.head != found.head


def test_a_clock_that_is_set_back_breaks_nothing(sealed: Database) -> None:
    """Entries stand in the order they were written, whatever time they carry."""
    with sealed.transaction() as db:
        db.run("SET timestamp = UNIX_TIMESTAMP('2021-03-01 00:00:00')")
        ledger.write(db, "tester", "note", "the clock was set back")
        db.run("SET timestamp = DEFAULT")
        ledger.write(db, "tester", "note", "and right again")
    with sealed.transaction() as db:
        assert seals.seal(db) == 2
        rows = db.all("SELECT words, at FROM ledger ORDER BY id DESC LIMIT 2")
    assert [row["words"] for row in rows] == ["and right again", "the clock was set back"]
    assert rows[1]["at"].year == 2021 < rows[0]["at"].year
    found = checked(sealed)
    assert (found.sealed, found.waiting, found.broken) == (7, 0, None)


REWRITTEN = [
    ("UPDATE ledger SET words = 'nothing happened' WHERE action = 'change' LIMIT 1", 3, "was altered"),
    ("UPDATE ledger SET author = 'somebody else' WHERE action = 'create study'", 1, "was altered"),
    ("UPDATE ledger SET at = at - INTERVAL 1 DAY WHERE action = 'open run' ORDER BY id DESC LIMIT 1", 4, "was altered"),
    ("UPDATE revision SET layout = 'x' WHERE number = 2 ORDER BY run_id LIMIT 1", 3, "revision 2 of run"),
    ("UPDATE revision SET digest = REPEAT('x', 32) WHERE number = 1 ORDER BY run_id LIMIT 1", 2, "revision 1 of run"),
    ("UPDATE revision SET outcome = 'x' WHERE number = 2 ORDER BY run_id LIMIT 1", 3, "the outcome of revision 2"),
    ("UPDATE revision AS one, revision AS other SET one.outcome = other.outcome WHERE one.number = 1"
     " AND other.number = 2 AND one.run_id = other.run_id", 2, "the outcome of revision 1"),
    ("UPDATE readings SET source = 'x' ORDER BY run_id LIMIT 1", 2, "or its readings"),
    ("UPDATE readings SET cells = 'x' ORDER BY run_id DESC LIMIT 1", 4, "or its readings"),
    ("DELETE FROM ledger_seal WHERE number = 2", 3, "seal 2 is missing"),
    ("UPDATE ledger_seal SET hash = REPEAT('x', 32) WHERE number = 5", 5, "was altered"),
]  # fmt: skip


@pytest.mark.parametrize(("sql", "broken", "why"), REWRITTEN, ids=[each[0][:48] for each in REWRITTEN])
def test_a_rewritten_past_is_found_and_named(sealed: Database, sql: str, broken: int, why: str) -> None:
    with sealed.transaction() as db:
        db.run(sql)
    found = checked(sealed)
    assert found.broken == broken and why in found.why, found


def test_a_row_cannot_be_removed_while_it_is_sealed(sealed: Database) -> None:
    import pymysql

    with pytest.raises(pymysql.err.IntegrityError), sealed.transaction() as db:
        db.run("DELETE FROM ledger WHERE action = 'change'")
    with sealed.transaction() as db:
        db.run("SET FOREIGN_KEY_CHECKS = 0")
        db.run("DELETE FROM ledger WHERE action = 'change' LIMIT 1")
        db.run("SET FOREIGN_KEY_CHECKS = 1")
    assert checked(sealed).broken == 3 and "removed" in checked(sealed).why


def test_a_run_that_is_gone_after_its_time_in_the_bin_breaks_nothing(sealed: Database) -> None:
    with sealed.transaction() as db:
        id = int((db.one("SELECT MIN(id) AS id FROM run") or {})["id"])
        house.keep_runs(db, [id], house.Bin(binned=True), "tester")
        db.run("UPDATE run SET binned_at = %s WHERE id = %s", datetime(2026, 1, 1), id)
    with sealed.transaction() as db:
        house.purge(db)
    with sealed.transaction() as db:
        seals.seal(db)
    found = checked(sealed)
    assert found.broken is None and found.sealed == 7


def test_the_command_line_says_how_the_chain_stands(
    home: PrivateServer, sealed: Database, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setenv("DOSIS_HOME", str(home.home.parent))
    done = CliRunner().invoke(app, ["verify"])
    assert done.exit_code == 0 and "5 entries fit" in done.output
    with sealed.transaction() as db:
        db.run("UPDATE ledger SET words = 'x' WHERE action = 'create study'")
    done = CliRunner().invoke(app, ["verify"])
    assert done.exit_code == 1 and "does not fit from entry 1 on" in done.output
    monkeypatch.setenv("DOSIS_HOME", str(tmp_path / "none"))
    assert CliRunner().invoke(app, ["verify"]).exit_code == 2


def test_the_program_itself_can_neither_change_nor_delete_what_is_written_once(database: Database) -> None:
    with database.transaction() as db:
        assert not grants.may_rewrite(db)
    forbidden = [
        *(f"UPDATE {table} SET id = id" for table in ("ledger", "signature", "review_step")),
        *(f"DELETE FROM {table}" for table in grants.WRITTEN_ONCE), "UPDATE ledger_seal SET hash = hash",
        *(f"TRUNCATE {table}" for table in grants.WRITTEN_ONCE), "ALTER TABLE ledger DROP COLUMN words",
        "DROP TABLE ledger_seal", "CREATE TRIGGER rewrite BEFORE INSERT ON ledger FOR EACH ROW SET NEW.words = ''",
    ]  # fmt: skip
    for sql in forbidden:
        with pytest.raises(pymysql.err.OperationalError, match="denied"), database.transaction() as db:
            db.run(sql)


def test_an_account_that_could_rewrite_the_ledger_is_noticed(owner: Database) -> None:
    with owner.transaction() as db:
        assert grants.may_rewrite(db)
