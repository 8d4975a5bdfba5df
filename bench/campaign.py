"""A campaign: thousands of plates of forty curves through a batch into the database, and one worker against two.

`./dosis bench --campaign`, with a number of plates behind it where all 2,500 are too many.
"""

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

import numpy as np

from bench.figures import Figure
from dosis.batches.engine import Cluster
from dosis.batches.runner import Runner
from dosis.batches.work import made_of
from dosis.core.fitting.sigmoids.prepare import prepare
from dosis.demo import screen
from dosis.intake.methods.keep import keep
from dosis.intake.methods.kept import KeptMethod
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changing import changed
from dosis.run.opening import opened
from dosis.store import batches, methods, studies
from dosis.store.batches import Made
from dosis.store.database import Database
from dosis.store.packing import pack
from dosis.store.private_server import PrivateServer

PLATES = 2500
MINUTES = 10.0
SPREAD = 120  # plates that one worker is held against two on
PART = 100


def campaign(plates: int = PLATES) -> list[Figure]:
    """100,000 curves from files to answers in the database, and what a second worker brings."""
    prepare()
    kept = _method()
    return [_into_the_database(kept, plates), _two_against_one(kept)]


def _method() -> KeptMethod:
    found = understand(screen.plate())
    if found.readings is None or found.layout is None:
        raise RuntimeError("The screen of the demo is not understood.")
    layout, method = opened(found.readings, found.layout, "dose")
    layout, method, _ = changed(found.readings, layout, method, screen.changes())
    return keep("Extract screen", found.readings, layout, method, Choices())


def _plates(count: int) -> Iterator[tuple[str, bytes]]:
    """The plate of the demo, each time with another scatter of 3 %."""
    head, lines = screen.plate().split("\n")[:4], screen.plate().split("\n")[4:]
    wells = np.array([line.split("\t")[1:] for line in lines], dtype=float)
    letters = [line.split("\t")[0] for line in lines]
    rng = np.random.default_rng(2500)
    for number in range(1, count + 1):
        values = wells * (1 + 0.03 * rng.standard_normal(wells.shape))
        rows = ["\t".join([letters[r], *(f"{v:.0f}" for v in values[r])]) for r in range(len(letters))]
        yield f"plate {number:04}.txt", "\n".join([*head, *rows]).encode()


def _into_the_database(kept: KeptMethod, plates: int) -> Figure:
    with tempfile.TemporaryDirectory(prefix="dosis-campaign-") as folder:
        server = PrivateServer(Path(folder))
        server.start()
        store = Database(server.owner_url, Path(folder) / "recordings")
        try:
            store.migrate()
            with store.transaction() as db:
                study = studies.create(db, "Campaign", "bench")
                method = methods.keep(db, kept, "", "bench", use=True)
                batch = batches.create(db, "Campaign", study, method, str(uuid4()), "bench")
            part: list[tuple[str, bytes]] = []
            for file in _plates(plates):
                part.append(file)
                if len(part) == PART:
                    _add(store, batch, part)
                    part = []
            if part:
                _add(store, batch, part)
            began = time.perf_counter()
            with store.transaction() as db:
                batches.start(db, batch, "bench")
            runner = Runner(store, lambda: None)
            runner.start()
            while True:
                time.sleep(0.5)
                with store.transaction() as db:
                    head = batches.head(db, batch)
                if head is not None and head.state == "done":
                    break
            seconds = time.perf_counter() - began
            runner.close()
            with store.transaction() as db:
                answers = (db.one("SELECT COUNT(*) AS n FROM answer") or {"n": 0})["n"]
            each = 1000 * seconds / plates
            note = f"{head.done} plates, {head.failed} failed, {answers:,} answers; {each:.0f} ms a plate"
            return Figure("campaign into the database", seconds / 60, "min", MINUTES * plates / PLATES, note)
        finally:
            store.close()
            server.stop()


def _add(store: Database, batch: int, part: list[tuple[str, bytes]]) -> None:
    with store.transaction() as db:
        batches.add(db, batch, part)


def _two_against_one(kept: KeptMethod) -> Figure:
    files, body = list(_plates(SPREAD)), pack(kept)
    seconds = {}
    for workers in (1, 2):
        with Cluster[tuple[str, bytes]](workers) as cluster:
            work = lambda file: (made_of, file[0], file[1], body)  # noqa: E731
            for _ in cluster.each(files[: 4 * workers], work):  # each has loaded what it needs
                pass
            began = time.perf_counter()
            made = [result for _, result in cluster.each(files, work)]
            seconds[workers] = time.perf_counter() - began
        if not all(isinstance(each, Made) for each in made):
            raise RuntimeError("A plate of the campaign was not worked.")
    note = f"{seconds[1]:.1f} s with one, {seconds[2]:.1f} s with two, {SPREAD} plates"
    return Figure("two workers against one", seconds[1] / seconds[2], "x", 1.7, note, at_least=True)
