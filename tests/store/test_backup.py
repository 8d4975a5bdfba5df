"""Backups made while Dosis works, brought back into a new place and compared; what is damaged or newer is refused."""

import json
import threading
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import pytest

from dosis.store import backup, studies
from dosis.store.backup import BackupError, back_up, keep_nightly, restore
from dosis.store.database import Database, Newer
from dosis.store.private_server import PrivateServer


@pytest.fixture(scope="module")
def made(database: Database, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A backup of the demo, made while somebody goes on working, and tried."""
    file, stop = tmp_path_factory.mktemp("backup") / "dosis.zip", threading.Event()

    def work() -> None:
        while not stop.is_set():
            with database.transaction() as db:
                studies.create(db, f"While it is backed up {uuid4().hex[:8]}", "tester")

    worker = threading.Thread(target=work)
    worker.start()
    try:
        rows = back_up(database.url, file)
    finally:
        stop.set()
        worker.join()
    assert rows["run"] > 10 and rows["revision"] >= rows["run"]
    return file


def contents(url: str) -> dict[str, list[dict[str, object]]]:
    store = Database(url)
    with store.transaction() as db:
        names = [next(iter(row.values())) for row in db.all("SHOW TABLES")]
        found = {name: db.all(f"SELECT * FROM `{name}`") for name in names}
    store.close()
    return found


@pytest.fixture
def brought_back(made: Path, tmp_path: Path) -> Iterator[PrivateServer]:
    restore(made, tmp_path / "home")
    server = PrivateServer(tmp_path / "home", supervise=False)
    server.start()
    yield server
    server.stop()


def test_everything_comes_back_to_the_byte_and_consistent(database: Database, brought_back: PrivateServer) -> None:
    now, then = contents(database.url), contents(brought_back.url)
    assert set(now) == set(then)
    for name, rows in then.items():
        # What was done after the backup began is not in it; all that is, is as it was.
        there = {json.dumps(row, default=repr, sort_keys=True) for row in now[name]}
        lost = [row for row in rows if json.dumps(row, default=repr, sort_keys=True) not in there]
        assert lost == [] or name in ("batch", "batch_item", "run"), name
    # One moment: every study in it has its row in the ledger, and the other way round.
    told = {row["study_id"] for row in then["ledger"] if row["action"] == "create study"}
    assert {row["id"] for row in then["study"] if str(row["name"]).startswith("While")} <= told
    assert Database(brought_back.owner_url).migrate() == []


def test_a_place_in_use_is_not_touched(made: Path, brought_back: PrivateServer) -> None:
    with pytest.raises(BackupError, match="There is a database in"):
        restore(made, brought_back.home)


def damaged(made: Path, to: Path, how: str) -> Path:
    with zipfile.ZipFile(made) as archive:
        parts = {name: archive.read(name) for name in archive.namelist()}
    manifest = json.loads(parts["manifest.json"])
    if how == "altered":
        parts["database.sql"] = parts["database.sql"].replace(b"Autumn", b"Spring")
    elif how == "newer":
        parts["manifest.json"] = json.dumps({**manifest, "form": backup.FORM + 1}).encode()
    elif how == "without a manifest":
        del parts["manifest.json"]
    with zipfile.ZipFile(to, "w") as archive:
        for name, data in parts.items():
            archive.writestr(name, data)
    if how == "cut short":
        to.write_bytes(to.read_bytes()[:-2000])
    if how == "a letter":
        to.write_text("Dear all")
    return to


@pytest.mark.parametrize(
    ("how", "said"),
    [("altered", "damaged"), ("newer", "newer Dosis"), ("without a manifest", "no backup"), ("cut short", "no backup"),
     ("a letter", "no backup")],
)  # fmt: skip
def test_what_is_not_a_whole_backup_is_refused_before_anything_is_made(
    made: Path, tmp_path: Path, how: str, said: str
) -> None:
    file = damaged(made, tmp_path / "bad.zip", how)
    with pytest.raises(BackupError, match=said):
        restore(file, tmp_path / "home")
    assert not (tmp_path / "home").exists()


def test_a_backup_that_fails_leaves_the_one_before(made: Path, tmp_path: Path) -> None:
    file = tmp_path / "kept.zip"
    file.write_bytes(made.read_bytes())
    before = file.read_bytes()
    with pytest.raises(BackupError, match="could not be written out"):
        back_up("mysql://nobody:x@127.0.0.1:9/none", file)
    assert file.read_bytes() == before and [each.name for each in tmp_path.iterdir()] == ["kept.zip"]


def test_nightly_ones_are_made_once_a_day_and_kept_by_number(database: Database, tmp_path: Path) -> None:
    days = [datetime(2026, 11, day, 2, tzinfo=UTC) for day in (1, 2, 3)]
    for day in days:
        assert keep_nightly(database.url, tmp_path, 2, day) is not None
        assert keep_nightly(database.url, tmp_path, 2, day) is None
    assert sorted(file.name for file in tmp_path.iterdir()) == ["nightly-2026-11-02.zip", "nightly-2026-11-03.zip"]
    assert keep_nightly(database.url, tmp_path / "none", 0, days[0]) is None


def test_an_older_program_refuses_a_database_of_a_newer_one(brought_back: PrivateServer) -> None:
    store = Database(brought_back.owner_url)
    assert store.pending() == []
    with store.transaction() as db:
        db.run("DELETE FROM migration WHERE name = '0012_methods.sql'")
    assert store.pending() == ["0012_methods.sql"]
    assert store.migrate() == ["0012_methods.sql"]
    with store.transaction() as db:
        db.run("INSERT INTO migration (name) VALUES ('9999_later.sql')")
    with pytest.raises(Newer, match="9999_later"):
        store.migrate()
    store.close()
