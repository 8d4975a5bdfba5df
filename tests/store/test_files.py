"""Files in pieces: kept as they came, read in, stopped, swept away; and long recordings laid out and laid out again."""

import pickle
from pathlib import Path
from uuid import uuid4

import numpy as np
import pytest
from numpy.testing import assert_array_equal

from dosis.intake.text import IntakeError
from dosis.intake.understanding import Choices
from dosis.run.recording import BIN, LONG, Recording, opened
from dosis.store import files, recordings, revisions, runs, scratch
from dosis.store.database import Database
from dosis.store.worked import readings_of
from tests.conftest import Site

N = LONG + 3 * BIN + 5


def bytes_of(folder: Path, n: int = N) -> bytes:
    rng = np.random.default_rng(8)
    t = np.arange(n) / 500
    rows = np.column_stack((t, np.sin(t) + 0.1 * rng.standard_normal(n), np.cos(t))).astype("<f4")
    rows[:, 0] = np.arange(n)
    rows[n // 2, 1] = np.nan
    np.save(folder / "probe.npy", rows)
    return (folder / "probe.npy").read_bytes()


def kept(database: Database, data: bytes, name: str = "probe.npy") -> int:
    with database.transaction() as db:
        id = files.begin(db, files.NewFile(key=str(uuid4()), name=name, size=len(data)), "tester")
        for number in range(-(-len(data) // files.PIECE)):
            files.put(db, id, number, data[number * files.PIECE : (number + 1) * files.PIECE])
    return id


def test_pieces_come_in_any_order_and_again(database: Database, tmp_path: Path) -> None:
    data = bytes_of(tmp_path)
    new = files.NewFile(key=str(uuid4()), name="probe.npy", size=len(data))
    with database.transaction() as db:
        id = files.begin(db, new, "tester")
        assert files.begin(db, new, "tester") == id
        count = -(-len(data) // files.PIECE)
        assert count > 2
        for number in (*reversed(range(count)), 0):
            files.put(db, id, number, data[number * files.PIECE : (number + 1) * files.PIECE])
        found = files.state(db, id)
        assert found is not None and (found.pieces, found.there) == (count, count)
        for number, piece in ((0, b"x"), (count, b"x"), (count - 1, b"x" * files.PIECE), (-1, b"x" * files.PIECE)):
            with pytest.raises(IntakeError, match="cut short"):
                files.put(db, id, number, piece)
        assert not files.put(db, 10**9, 0, b"x")
    with files.StoredFile(database, id) as file:
        assert b"".join(file.pieces()) == data
        file.seek(files.PIECE - 3)
        assert file.read(7) == data[files.PIECE - 3 : files.PIECE + 4]
        assert file.seek(-4, 2) == len(data) - 4 and file.read() == data[-4:] and file.read(1) == b""


def test_a_file_that_has_not_come_whole_or_is_too_large_is_refused(database: Database) -> None:
    with database.transaction() as db:
        with pytest.raises(IntakeError, match=r"2\.0 GB; Dosis takes files of up to 2 GB"):
            files.begin(db, files.NewFile(key=str(uuid4()), name="a", size=2_000_000_001), "tester")
        id = files.begin(db, files.NewFile(key=str(uuid4()), name="a", size=2_000_000_000), "tester")
    with pytest.raises(IntakeError, match="not come whole"):
        files.looked_at(database.url, id, Choices(), 5)
    with pytest.raises(IntakeError, match="not come whole"):
        files.read_in(database.url, database.scratch, 10**9, Choices())


def test_reading_can_be_stopped_and_begun_again(
    database: Database, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    id = kept(database, bytes_of(tmp_path))
    fetch = files.StoredFile._fetch

    def stopped_later(self: files.StoredFile, number: int) -> None:
        if number == 2:
            with database.transaction() as db:
                files.stop(db, id)
        fetch(self, number)

    before = set(database.scratch.glob("*"))
    with monkeypatch.context() as patched, pytest.raises(IntakeError, match="was stopped"):
        patched.setattr(files.StoredFile, "_fetch", stopped_later)
        files.read_in(database.url, database.scratch, id, Choices(question="recording"))
    assert set(database.scratch.glob("*")) == before
    found = files.read_in(database.url, database.scratch, id, Choices(question="recording"))
    assert readings_of(found.cells).curves.x.size == N
    with database.transaction() as db:
        state = files.state(db, id)
        assert state is not None and state.done >= state.pieces


def test_what_no_run_names_is_swept_away_after_a_day(database: Database) -> None:
    with database.transaction() as db:
        old, young = (files.begin(db, files.NewFile(key=str(uuid4()), name="a", size=9), "tester") for _ in range(2))
        files.put(db, old, 0, b"123456789")
        db.run("UPDATE file SET created_at = created_at - INTERVAL 25 HOUR WHERE id = %s", old)
        db.run("UPDATE file SET created_at = created_at - INTERVAL 23 HOUR WHERE id = %s", young)
        files.begin(db, files.NewFile(key=str(uuid4()), name="b", size=9), "tester")
        assert files.state(db, old) is None and files.state(db, young) is not None
        files.remove(db, young)
        assert files.state(db, young) is None


def test_a_run_of_a_long_file_is_the_same_on_a_machine_that_lays_it_out_anew(
    site: Site, database: Database, tmp_path: Path
) -> None:
    data = bytes_of(tmp_path)
    client, wanted = site.client, np.load(tmp_path / "probe.npy").astype(float)
    begun = client.post("/api/files", json={"key": str(uuid4()), "name": "probe.npy", "size": len(data)}).json()
    for number in range(begun["pieces"]):
        piece = data[number * begun["piece"] : (number + 1) * begun["piece"]]
        client.put(f"/api/files/{begun['id']}/pieces/{number}", content=piece).raise_for_status()
    look = client.post(f"/api/files/{begun['id']}/understood", json={"first": 10}).raise_for_status().json()
    assert look["ready"] and look["question"] == "recording" and len(look["rows"]) == 10
    new = {"study": 1, "title": "probe", "key": str(uuid4()), "file": begun["id"], "question": "recording"}
    view = client.post("/api/runs", json=new, timeout=300).raise_for_status().json()
    run = view["run"]["id"]
    assert view["run"]["source_name"] == "probe.npy" and view["readings"]["axis"]["count"] == N
    assert "missing: Column 2 1" in view["revision"]["outcome"]["steps"][0]["sentence"]
    again = client.post("/api/runs", json=new, timeout=300).json()
    assert again["run"]["id"] == run
    assert client.get(f"/api/runs/{run}/source").content == data

    asked = f"/api/runs/{run}/revisions/1/courses?points=500"
    lines = client.get(asked).json()
    with database.transaction() as db:
        path = recordings.path_in(revisions.cells_of(db, run, 1))
        assert path is not None
        for each in database.scratch.glob(f"{path.stem}*"):
            each.unlink()
        found = runs.readings(db, run).curves
    assert path.exists()
    assert_array_equal(found.x, wanted[:, 0])
    assert_array_equal(found.y, wanted[:, 1:].T)
    assert found.extremes is not None
    assert client.get(asked).json() == lines
    drawn = lines["courses"][0]
    assert len(drawn["x"]) <= 500
    assert np.nanmax(wanted[:, 1]) == max(drawn["y"]) and np.nanmin(wanted[:, 1]) == min(drawn["y"])

    # Understood anew it is read from the same file; the file stays as long as the run does.
    choices = {"columns": [{"column": 2, "kind": "ignore"}], "question": "recording"}
    body = {"based_on": 1, "key": str(uuid4()), "choices": choices}
    anew = client.post(f"/api/runs/{run}/intake", json=body, timeout=300).raise_for_status().json()
    assert len(anew["readings"]["readings"]) == 1
    assert client.get(f"/api/runs/{run}/intake").json()["file"] == begun["id"]
    client.delete(f"/api/files/{begun['id']}").raise_for_status()
    assert client.get(f"/api/files/{begun['id']}").status_code == 200
    assert client.get("/api/files/999999999").status_code == 404


def test_files_that_were_not_used_for_long_make_room(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(scratch, "MOST", 3 * 8_000 * 3)
    paths = [tmp_path / f"{scratch.new_name()}.npy" for _ in range(5)]
    for age, path in enumerate(paths):
        numbers = scratch.room(path)((3, 900))
        numbers[:] = age
        if age == 3:
            assert scratch.used(paths[0])  # opened again, it is the youngest but the one that is made
        scratch.kept(path, opened(path, 900))
        for each in tmp_path.glob("*.npy"):
            each.touch() if each == path else None
    there = [path.exists() for path in paths]
    assert there[0] and there[4] and not there[1]
    assert not scratch.used(paths[1])


def test_another_process_is_handed_the_file_in_place_of_the_numbers(tmp_path: Path) -> None:
    path = tmp_path / f"{scratch.new_name()}.npy"
    scratch.room(path)((3, 5_000))[:] = np.arange(15_000).reshape(3, 5_000)
    found = opened(path, 4_000)
    sent = pickle.dumps(found)
    assert len(sent) < 1_000
    assert_array_equal(pickle.loads(sent).y, found.y)
    small = Recording(found.x.copy(), found.y.copy())
    assert_array_equal(pickle.loads(pickle.dumps(small)).y, found.y)


def test_a_disk_without_room_is_said(tmp_path: Path) -> None:
    with pytest.raises(IntakeError, match=r"no room for it: .* GB are needed"):
        scratch.room(tmp_path / "a.npy")((3, 10**16))
    assert not list(tmp_path.iterdir())
