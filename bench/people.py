"""Many people at once: fifty edit 96-well runs of their own, calmly, then as fast as nobody does, then beside a long
one of fifty thousand rows.

`./dosis bench --people`, with how many behind it.
"""

import os
import socket
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import closing, suppress
from pathlib import Path
from uuid import uuid4

import httpx
import numpy as np

from bench.figures import Figure
from dosis.people.rights import LabRole
from dosis.settings import ROOT
from dosis.store import accounts, sessions
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer

PEOPLE, WORKERS = 50, 2
CALM, SECONDS = 5.0, 30.0  # seconds between two edits of a person, and how long they go on
FAST = 25.0  # edits a second, of all together
ROWS = 49_900


def _wells() -> str:
    """Ninety-six readings with their roles: standards, blanks and samples in triplicate."""
    rows = ["Sample\tConc (µM)\tA880 rep 1\tA880 rep 2\tA880 rep 3", "Blank\t0\t0.050\t0.052\t0.051"]
    rows += [f"Std {x}\t{x}\t{0.05 + 0.1 * x:.3f}\t{0.051 + 0.1 * x:.3f}\t{0.049 + 0.1 * x:.3f}" for x in range(1, 9)]
    rows += [f"S{i}\t\t{0.1 + i / 40:.3f}\t{0.102 + i / 40:.3f}\t{0.099 + i / 40:.3f}" for i in range(23)]
    return "\n".join(rows)


class Person:
    """Somebody with a run of their own, who excludes a well and takes it in again, at a pace."""

    def __init__(self, client: httpx.Client, study: int, text: str) -> None:
        self.client = client
        body = {"study": study, "title": "Readings", "key": str(uuid4()), "text": text}
        found = client.post("/api/runs", json=body).raise_for_status().json()
        self.run, self.revision = found["run"]["id"], 1
        self.well = found["readings"]["readings"][40]["id"]
        self.took: list[float] = []
        self.failed = 0

    def edit(self) -> None:
        change = {"kind": "exclude", "readings": [self.well], "reason": "bubble"}
        if self.revision % 2 == 0:
            change = {"kind": "include", "readings": [self.well]}
        body = {"based_on": self.revision, "key": str(uuid4()), "changes": [change]}
        began = time.perf_counter()
        answer = self.client.post(f"/api/runs/{self.run}/changes", json=body)
        self.took.append(time.perf_counter() - began)
        if answer.is_success:
            self.revision += 1
        else:
            self.failed += 1

    def work(self, every: float, until: float, offset: float) -> None:
        at = time.perf_counter() + offset
        while at < until:
            time.sleep(max(at - time.perf_counter(), 0))
            self.edit()
            at += every


def people(count: int = PEOPLE) -> list[Figure]:
    """How long an edit takes when all are at work, 19 of 20 times."""
    with tempfile.TemporaryDirectory(prefix="dosis-people-") as folder:
        server = PrivateServer(Path(folder) / "db")
        server.start()
        url, process = _served(server, Path(folder))
        try:
            with closing(Database(server.url)) as store:
                everybody = _signed_in(store, url, count)
                return [_calm(everybody), _fast(everybody), *_large(everybody)]
        finally:
            process.terminate()
            process.wait()
            server.stop()


def _served(server: PrivateServer, home: Path) -> tuple[str, subprocess.Popen[bytes]]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    environment = {
        **os.environ, "DOSIS_DATABASE_URL": server.url, "DOSIS_MIGRATE_URL": server.owner_url, "DOSIS_PORT": str(port),
        "DOSIS_HOME": str(home), "DOSIS_INSTRUMENTS": "", "DOSIS_WORKERS": str(WORKERS),
        "PYTHONPATH": str(ROOT / "src"),
    }  # fmt: skip
    process = subprocess.Popen([sys.executable, "-m", "dosis.cli", "serve"], env=environment, stdout=subprocess.DEVNULL)
    url = f"http://127.0.0.1:{port}"
    while True:
        with suppress(httpx.HTTPError):
            if httpx.get(f"{url}/api/health").status_code == 200:
                return url, process
        time.sleep(0.2)


def _signed_in(store: Database, url: str, count: int) -> list[Person]:
    with store.transaction() as db:
        study = db.run("INSERT INTO study (name) VALUES ('Bench')")
        secrets = []
        for i in range(count):
            wanted = accounts.NewPerson(name=f"Person {i}", email=f"{i}@lab.example", roles=(LabRole.ANALYST,))
            account = accounts.come_in(db, accounts.invite(db, wanted, "bench"), "none")
            secrets.append(sessions.begin(db, account or 0, "127.0.0.1", "bench"))
    return [Person(_client(url, secret), study, _wells()) for secret in secrets]


def _client(url: str, secret: str) -> httpx.Client:
    client = httpx.Client(base_url=url, timeout=120, cookies={"dosis": secret})
    client.headers["X-Dosis-Page"] = client.get("/api/me").raise_for_status().json()["page_key"]
    return client


def _at_work(everybody: list[Person], every: float) -> tuple[float, int, int]:
    """The 95th percentile of their edits in ms, how many there were, and how many failed."""
    for each in everybody:
        each.took, each.failed = [], 0
    until = time.perf_counter() + SECONDS
    threads = [
        threading.Thread(target=each.work, args=(every, until, every * i / len(everybody)))
        for i, each in enumerate(everybody)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    took = [seconds for each in everybody for seconds in each.took]
    failed = sum(each.failed for each in everybody)
    # Refused edits are quick: with one of them there is no figure.
    return np.inf if failed else 1000 * float(np.quantile(took, 0.95)), len(took), failed


def _calm(everybody: list[Person]) -> Figure:
    slow, count, failed = _at_work(everybody, CALM)
    note = f"{count} edits, {failed} failed"
    return Figure(f"{len(everybody)} people, one edit each {CALM:g} s, p95", slow, "ms", 300, note)


def _fast(everybody: list[Person]) -> Figure:
    slow, count, failed = _at_work(everybody, len(everybody) / FAST)
    return Figure(f"{FAST:g} edits a second, p95", slow, "ms", 1000, f"{count} edits, {failed} failed")


def _large(everybody: list[Person]) -> list[Figure]:
    """The calm pace once more, while one of them edits a long table over and over."""
    rng = np.random.default_rng(5)
    rows = ["Sample\tConc (µM)\tA880", *(f"Std {x}\t{x}\t{0.05 + 0.1 * x:.3f}" for x in (1, 2, 4, 8))]
    rows += [f"S{i}\t\t{0.05 + 0.8 * rng.random():.3f}" for i in range(ROWS)]
    long = Person(everybody[0].client, 1, "\n".join(rows))
    done = threading.Event()

    def edits() -> None:
        while not done.is_set():
            long.edit()

    thread = threading.Thread(target=edits)
    thread.start()
    slow, count, failed = _at_work(everybody[1:], CALM)
    done.set()
    thread.join()
    note = f"{count} edits, {failed + long.failed} failed"
    each = 1000 * float(np.median(long.took))
    return [
        Figure(f"the same beside edits of {ROWS:,} rows, p95", slow, "ms", 300, note),
        Figure(f"an edit of {ROWS:,} rows beside them", each, "ms", None, f"{len(long.took)} edits"),
    ]
