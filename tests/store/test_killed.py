"""Kill -9 of application or database in the middle of edits, signatures and a batch: what was acknowledged stays.

A few cycles here; DOSIS_CYCLES=200 makes as many as are asked for before a version is given out.
"""

import base64
import os
import random
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import closing, suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import uuid4

import httpx
import pytest

from dosis.people.rights import LabRole
from dosis.settings import ROOT
from dosis.store import grants, seals
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer
from tests.tables import SMALL
from tests.web.lab import PASSWORD, Lab, hashed

CYCLES = int(os.environ.get("DOSIS_CYCLES", "4"))
SEED = int(os.environ.get("DOSIS_SEED", str(random.SystemRandom().randrange(10**6))))
START = 120.0


class App:
    """The application in processes of its own, which can be killed and started again."""

    def __init__(self, server: PrivateServer, home: Path) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self._environment = {
            **os.environ, "DOSIS_DATABASE_URL": server.url, "DOSIS_MIGRATE_URL": server.owner_url,
            "DOSIS_HOME": str(home), "DOSIS_PORT": str(self.port), "DOSIS_INSTRUMENTS": "", "DOSIS_BACKUPS": "0",
            "PYTHONPATH": str(ROOT / "src"),
        }  # fmt: skip
        self._log = (home / "app.log").open("ab")
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        command = [sys.executable, "-m", "dosis.cli", "serve", "--workers", "2"]
        self._process = subprocess.Popen(
            command, env=self._environment, stdout=self._log, stderr=self._log, start_new_session=True
        )
        self.wait()

    def wait(self) -> None:
        until = time.monotonic() + START
        while time.monotonic() < until:
            with suppress(httpx.HTTPError):
                if httpx.get(f"{self.url}/api/health", timeout=5).status_code == 200:
                    return
            time.sleep(0.1)
        raise AssertionError("The application does not come up.")

    def kill(self) -> None:
        """All of its processes at once, as when the machine loses its power."""
        if self._process is not None:
            with suppress(ProcessLookupError):
                os.killpg(self._process.pid, signal.SIGKILL)
            self._process.wait()

    def close(self) -> None:
        self.kill()
        self._log.close()


@dataclass
class Acknowledged:
    """What the server has said yes to. edits : of a run, by its number; stages : each run's last one."""

    edits: dict[int, list[tuple[int, str]]] = field(default_factory=dict)
    stages: dict[int, str] = field(default_factory=dict)
    doubtful: set[int] = field(default_factory=set)


@pytest.fixture
def server(tmp_path: Path) -> Iterator[PrivateServer]:
    found = PrivateServer(tmp_path / "db", supervise=False)
    found.start()
    yield found
    found.stop()


@pytest.fixture
def app(server: PrivateServer, tmp_path: Path) -> Iterator[App]:
    found = App(server, tmp_path)
    found.start()
    yield found
    found.close()


class Worker(threading.Thread):
    """Opens runs, edits them, hands them in and signs them, until it is told to stop; notes what was acknowledged."""

    def __init__(self, analyst: httpx.Client, reviewer: httpx.Client, study: int, kept: Acknowledged) -> None:
        super().__init__(daemon=True)
        self.analyst, self.reviewer, self.study, self.kept = analyst, reviewer, study, kept
        self.stopping = threading.Event()
        self.mistakes: list[str] = []

    def run(self) -> None:
        while not self.stopping.is_set():
            with suppress(httpx.HTTPError):
                self._one()

    def _sent(self, client: httpx.Client, path: str, body: dict[str, Any]) -> dict[str, Any] | None:
        answer = client.post(path, json=body)
        if answer.status_code == 500:
            self.mistakes.append(answer.text)
        if not answer.is_success:
            return None
        found: dict[str, Any] = answer.json()
        return found

    def _one(self) -> None:
        new = {"study": self.study, "title": f"Run {uuid4().hex[:6]}", "key": str(uuid4()), "text": SMALL}
        made = self._sent(self.analyst, "/api/runs", new)
        if made is None:
            return
        run = made["run"]["id"]
        edits = self.kept.edits.setdefault(run, [(1, new["key"])])
        readings = [each["id"] for each in made["readings"]["readings"]]
        for number, reading in enumerate(readings[1:3], start=1):
            key = str(uuid4())
            change = {"kind": "exclude", "readings": [reading], "reason": "a bubble"}
            body = {"based_on": number, "key": key, "changes": [change]}
            if self._sent(self.analyst, f"/api/runs/{run}/changes", body) is None:
                return
            edits.append((number + 1, key))
        at = f"/api/runs/{run}/review"
        if self._sent(self.analyst, f"{at}/own", {"move": "hand in", "based_on": 3}) is None:
            return
        self.kept.stages[run] = "handed in"
        found = self._sent(self.reviewer, f"{at}/step", {"move": "review", "based_on": 3})
        if found is None:
            return
        self.kept.stages[run] = "reviewed"
        body = {"based_on": 3, "digest": found["digest"], "meaning": "approval", "password": PASSWORD}
        if self._sent(self.reviewer, f"{at}/signature", body) is not None:
            self.kept.stages[run] = "signed"


ORDER = ("draft", "handed in", "reviewed", "signed")


def lost(db: Database, kept: Acknowledged) -> list[str]:
    """What was acknowledged and is not there, or there twice."""
    found = []
    with db.transaction() as rows:
        for run, edits in kept.edits.items():
            there = {row["number"]: row for row in rows.all("SELECT * FROM revision WHERE run_id = %s", run)}
            told = [row["revision"] for row in rows.all(
                "SELECT revision FROM ledger WHERE run_id = %s AND action IN ('open run', 'change')", run
            )]  # fmt: skip
            for number, key in edits:
                if number not in there or there[number]["change_key"] != key:
                    found.append(f"revision {number} of run {run}")
                if told.count(number) != 1:
                    found.append(f"{told.count(number)} entries of revision {number} of run {run}")
        for run, stage in kept.stages.items():
            row = rows.one("SELECT stage FROM run WHERE id = %s", run) or {"stage": "gone"}
            # One step more may have been made whose answer was lost.
            if row["stage"] == "gone" or ORDER.index(row["stage"]) < ORDER.index(stage):
                found.append(f"run {run} is {row['stage']}, not {stage}")
            signed = rows.all("SELECT digest FROM signature WHERE run_id = %s", run)
            if len(signed) != (row["stage"] == "signed"):
                found.append(f"{len(signed)} signatures of run {run}, which is {row['stage']}")
            if signed and bytes(signed[0]["digest"]) != seals.made(rows, run, 3, whole=True):
                found.append(f"the signature of run {run} is of something else")
    return found


@pytest.mark.slow
def test_nothing_acknowledged_is_lost_when_anything_is_killed(
    server: PrivateServer, app: App, capsys: pytest.CaptureFixture[str]
) -> None:
    with capsys.disabled():
        print(f"\n{CYCLES} cycles, DOSIS_SEED={SEED}")
    chance = random.Random(SEED)
    with closing(Database(server.url)) as store:
        lab = Lab(app.url, store, hashed(PASSWORD))
        analyst, reviewer = lab.person(LabRole.ANALYST), lab.person(LabRole.REVIEWER)
        study = analyst.post("/api/studies", json={"name": "Killed"}).raise_for_status().json()["id"]
        batch, files = started_batch(analyst, study)
        kept, mistakes = Acknowledged(), list[str]()
        for cycle in range(CYCLES):
            worker = Worker(analyst, reviewer, study, kept)
            worker.start()
            time.sleep(chance.uniform(0.05, 1.2))
            if cycle % 2:
                server.kill()
                time.sleep(chance.uniform(0, 0.3))
                server.start()
            else:
                app.kill()
                app.start()
            app.wait()
            worker.stopping.set()
            worker.join(timeout=120)
            mistakes += worker.mistakes
            assert lost(store, kept) == [], f"cycle {cycle}"
        assert mistakes == []
        assert len(kept.edits) >= CYCLES
        until = time.monotonic() + 300
        while analyst.get(f"/api/batches/{batch}").json()["head"]["state"] == "running" and time.monotonic() < until:
            time.sleep(0.5)
        with store.transaction() as db:
            done = db.all("SELECT run_id FROM batch_item WHERE batch_id = %s AND run_id IS NOT NULL", batch)
            assert len({row["run_id"] for row in done}) == len(done) == files
            while seals.seal(db):
                pass
            assert seals.check(db).broken is None
            assert not grants.may_rewrite(db)


def started_batch(analyst: httpx.Client, study: int) -> tuple[int, int]:
    """A batch of small tables, begun; its number, and of how many files."""
    methods = analyst.get("/api/methods").raise_for_status().json()
    line = next(each for each in methods if each["name"].startswith("Standard line"))
    new = {"name": "Among it all", "study": study, "method": line["id"], "key": str(uuid4())}
    batch = analyst.post("/api/batches", json=new).raise_for_status().json()["id"]
    data = base64.b64encode(SMALL.encode()).decode()
    files = [{"name": f"{i}.txt", "data": data} for i in range(8)]
    analyst.post(f"/api/batches/{batch}/files", json={"files": files}).raise_for_status()
    analyst.post(f"/api/batches/{batch}/start").raise_for_status()
    return int(batch), len(files)
