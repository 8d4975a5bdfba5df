"""Batches on the real cluster and database: every file once, whoever dies; what failed is told and tried again."""

import base64
import gc
import os
import signal
import threading
import time
from pathlib import Path
from uuid import uuid4

import httpx
import pytest
from distributed import LocalCluster

from dosis.batches import engine
from dosis.batches.runner import Runner
from dosis.demo import domoic_acid
from dosis.store import batches
from dosis.store.database import Database
from tests.conftest import Site

PLATE = domoic_acid.plate().encode()
SECONDS = 120


@pytest.fixture(scope="module")
def method(site: Site) -> int:
    """The demo's plate as a method."""
    found = site.client.get("/api/runs", params={"find": "domoic acid plate 3", "study": 1}).json()["runs"]
    made = site.client.post("/api/methods", json={"run": found[0]["id"], "name": f"Plates {uuid4().hex[:6]}"})
    return int(made.json()["id"])


def filled(client: httpx.Client, method: int, files: dict[str, bytes]) -> int:
    new = {"name": "Season", "study": 1, "method": method, "key": str(uuid4())}
    id = client.post("/api/batches", json=new).json()["id"]
    assert client.post("/api/batches", json=new).json()["id"] == id  # sent twice, made once
    body = {"files": [{"name": name, "data": base64.b64encode(data).decode()} for name, data in files.items()]}
    assert client.post(f"/api/batches/{id}/files", json=body).status_code == 204
    return int(id)


def when_done(client: httpx.Client, id: int, state: str = "done") -> dict:
    until = time.monotonic() + SECONDS
    while time.monotonic() < until:
        found = client.get(f"/api/batches/{id}").json()
        if found["head"]["state"] == state:
            return found
        time.sleep(0.2)
    raise AssertionError(found["head"])


def test_files_become_runs_and_what_failed_is_told_and_tried_again(site: Site, method: int) -> None:
    files = {"plate 1.txt": PLATE, "plate 2.txt": PLATE, "letter.txt": b"Dear all,\nthe plates are in the freezer."}
    id = filled(site.client, method, files)
    assert site.client.post(f"/api/batches/{id}/start").status_code == 204
    found = when_done(site.client, id)
    assert (found["head"]["done"], found["head"]["failed"], found["head"]["waiting"]) == (2, 1, 0)
    assert [item["state"] for item in found["items"]] == ["done", "done", "failed"]
    assert "numbers" in found["items"][2]["words"] and found["items"][2]["run_id"] is None
    run = site.client.get(f"/api/runs/{found['items'][0]['run_id']}").json()
    assert run["run"]["title"] == "plate 1" and run["run"]["method"]["id"] == method
    assert site.client.get(f"/api/runs/{run['run']['id']}/source").content == PLATE
    answers = site.client.get(f"/api/batches/{id}/answers").json()
    assert len(answers) == 2 * len(run["revision"]["outcome"]["answers"]["rows"])
    assert {each["file"] for each in answers} == {"plate 1.txt", "plate 2.txt"}
    lines = site.client.get(f"/api/batches/{id}/answers.csv").text.splitlines()
    assert len(lines) == len(answers) + 1 and lines[0].endswith("Value,Lower,Upper,Unit")
    # Only those that failed are tried again, and runs that are there are left alone.
    assert site.client.post(f"/api/batches/{id}/start?again=true").status_code == 204
    again = when_done(site.client, id)
    assert [item["tried"] for item in again["items"]] == [1, 1, 2]
    assert [item["run_id"] for item in again["items"]] == [item["run_id"] for item in found["items"]]
    more = {"files": [{"name": "x.txt", "data": base64.b64encode(PLATE).decode()}]}
    assert site.client.post(f"/api/batches/{id}/files", json=more).status_code == 422


def test_an_empty_batch_does_not_begin(site: Site, method: int) -> None:
    new = {"name": "Empty", "study": 1, "method": method, "key": str(uuid4())}
    id = site.client.post("/api/batches", json=new).json()["id"]
    assert "no file left" in site.client.post(f"/api/batches/{id}/start").json()["detail"]
    assert site.client.get("/api/batches/999999").status_code == 404


def workers() -> list[int]:
    """The processes of all clusters of this process, whichever runner has them."""
    clusters = [each for each in gc.get_objects() if isinstance(each, engine.Cluster)]
    return [pid for cluster in clusters if hasattr(cluster, "_client") for pid in cluster.processes()]


def test_a_worker_that_is_killed_and_a_server_that_stops_lose_and_double_nothing(
    site: Site, database: Database, method: int
) -> None:
    """While a batch runs, its workers are killed one after the other; then the server ends, and another goes on."""
    count = 24
    id = filled(site.client, method, {f"plate {i}.txt": PLATE for i in range(count)})
    first = Runner(database, lambda: None)
    with database.transaction() as db:
        # The server of the site looks for batches, too: whichever is first holds it.
        batches.start(db, id, "tester")
    first.start()
    done = lambda: site.client.get(f"/api/batches/{id}").json()["head"]["done"]  # noqa: E731
    until = time.monotonic() + SECONDS
    killed = 0
    while done() < count // 2 and time.monotonic() < until:
        if killed < 2 and done() > 2 * killed:
            for pid in workers():
                os.kill(pid, signal.SIGKILL)
            killed += 1
        time.sleep(0.1)
    first.close()
    second = Runner(database, lambda: None)
    second.start()
    found = when_done(site.client, id)
    second.close()
    assert killed == 2 and (found["head"]["done"], found["head"]["failed"]) == (count, 0)
    runs = [item["run_id"] for item in found["items"]]
    assert len(set(runs)) == count
    with database.transaction() as db:
        made = db.one("SELECT COUNT(*) AS n FROM run JOIN batch_item AS i ON i.item_key = run.create_key"
                      " WHERE i.batch_id = %s", id)  # fmt: skip
        twice = db.all("SELECT run_id FROM revision WHERE run_id IN (SELECT run_id FROM batch_item WHERE batch_id = %s)"
                       " GROUP BY run_id HAVING COUNT(*) <> 1", id)  # fmt: skip
    assert made == {"n": count} and twice == []


def test_a_stopped_batch_keeps_what_is_done_and_goes_on(site: Site, method: int) -> None:
    id = filled(site.client, method, {f"plate {i}.txt": PLATE for i in range(40)})
    site.client.post(f"/api/batches/{id}/start")
    until = time.monotonic() + SECONDS
    while site.client.get(f"/api/batches/{id}").json()["head"]["done"] < 3 and time.monotonic() < until:
        time.sleep(0.02)
    site.client.post(f"/api/batches/{id}/stop")
    time.sleep(2)
    found = when_done(site.client, id, "stopped")["head"]
    assert 3 <= found["done"] < 40 and found["failed"] == 0
    site.client.post(f"/api/batches/{id}/start")
    assert when_done(site.client, id)["head"]["done"] == 40


def test_a_piece_of_work_that_ends_its_worker_again_and_again_is_told() -> None:
    with engine.Cluster[int](1) as cluster:
        found = dict(cluster.each([0, 1], lambda item: (_die_at, item, 1)))
    assert found[0] == 0 and isinstance(found[1], engine.Lost)


def test_a_worker_that_is_slow_to_come_back_loses_no_work(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Patience that is over before a worker can be back: what it had at hand is handed out again."""
    monkeypatch.setattr(engine, "PATIENCE", 0.5)
    with engine.Cluster[int](1) as cluster:
        assert dict(cluster.each([7], lambda item: (_die_thrice, item, tmp_path / "deaths"))) == {7: 7}


def _die_thrice(item: int, deaths: Path) -> int:
    died = len(deaths.read_bytes()) if deaths.exists() else 0
    if died < 3:
        deaths.write_bytes(b"x" * (died + 1))
        os.kill(os.getpid(), signal.SIGKILL)
    return item


def _die_at(item: int, at: int) -> int:
    if item == at:
        os.kill(os.getpid(), signal.SIGKILL)
    return item


def test_a_scheduler_that_is_there_already_is_used() -> None:
    with (
        LocalCluster(n_workers=1, threads_per_worker=1, dashboard_address="127.0.0.1:0", silence_logs=50) as there,
        engine.Cluster[int](address=there.scheduler_address) as cluster,
    ):
        assert cluster.processes() == [] and cluster.count() == 1
        assert sorted(cluster.each([3, -4], lambda item: (abs, item))) == [(-4, 4), (3, 3)]


def test_nothing_is_handed_out_beyond_what_is_needed() -> None:
    """Files are read as they are wanted, so that a campaign does not lie in memory."""
    asked: list[int] = []

    def items() -> object:
        for i in range(200):
            asked.append(i)
            yield i

    stop = threading.Event()
    with engine.Cluster[int](1) as cluster:
        for item, _ in cluster.each(items(), lambda item: (abs, item), lambda: not stop.is_set()):  # type: ignore[arg-type]
            if item == 3:
                stop.set()
    assert len(asked) < 20
