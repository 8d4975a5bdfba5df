"""Working the batches of a server: one at a time, found in the database, so that a restart goes on where it was."""

import threading
from collections.abc import Callable, Iterator

import structlog

from dosis.batches.engine import Cluster
from dosis.batches.work import Failed, made_of
from dosis.store import batches, methods
from dosis.store.batches import Made
from dosis.store.database import Database, DiskFull, Unavailable
from dosis.store.packing import pack

log = structlog.get_logger()
LOOK = 2.0  # seconds after which batches that another process has begun, or left, are looked for
TAKE = 16  # files that are read from the database at once
IDLE = 90.0  # seconds the workers are kept when there is nothing for them

Item = tuple[int, str, bytes]


class Runner:
    """Works batches in a thread of its own from `start` on, which any number of servers on one database may do.

    Each batch is held by a lock of the database while it is worked; where the one that holds it dies, another goes on.

    Parameters
    ----------
    ready : waited for before the first file, as the fitting loops may still be compiling.
    """

    def __init__(self, database: Database, ready: Callable[[], None], address: str = "") -> None:
        self._database, self._ready, self._address = database, ready, address
        self._wake, self._closing = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._serve, daemon=True, name="batches")

    def start(self) -> None:
        """Begin to look for batches."""
        self._thread.start()

    def wake(self) -> None:
        """Look at once: there is something to do."""
        self._wake.set()

    def close(self) -> None:
        """Stop after what is being stored; what is not done stays waiting."""
        self._closing.set()
        self._wake.set()
        if self._thread.is_alive():
            self._thread.join(timeout=20)

    def _serve(self) -> None:
        while not self._closing.is_set():
            try:
                if self._any():
                    self._work()
            except (Unavailable, DiskFull):
                pass  # the batch stays as it is, and goes on when the database is back
            except Exception:  # a cluster that does not start, or is gone: this thread must not be
                log.exception("batches stopped")
            self._wake.wait(LOOK)
            self._wake.clear()

    def _any(self) -> list[int]:
        with self._database.transaction() as db:
            return batches.running(db)

    def _work(self) -> None:
        """Start workers, and keep them while there is something to do and for a while after."""
        self._ready()
        workers: Cluster[Item] = Cluster(address=self._address)
        with workers as cluster:
            idle = 0.0
            while not self._closing.is_set() and idle < IDLE:
                found = self._any()
                for id in found:
                    self._one(cluster, id)
                idle = 0.0 if found else idle + LOOK
                self._wake.wait(LOOK)
                self._wake.clear()

    def _one(self, cluster: Cluster[Item], id: int) -> None:
        """Work a batch, unless another process is at it."""
        with self._database.transaction() as held:
            if not (held.one("SELECT GET_LOCK(%s, 0) AS got", f"dosis-batch-{id}") or {}).get("got"):
                return
            try:
                self._held(cluster, id)
            finally:
                held.one("SELECT RELEASE_LOCK(%s) AS freed", f"dosis-batch-{id}")

    def _held(self, cluster: Cluster[Item], id: int) -> None:
        with self._database.transaction() as db:
            head = batches.head(db, id)
            kept = methods.version(db, head.method_id, head.version) if head else None
        if kept is None:
            return
        body = pack(kept)

        def go_on() -> bool:
            with self._database.transaction() as db:
                return not self._closing.is_set() and batches.is_running(db, id)

        for item, result in cluster.each(self._waiting(id), lambda item: (made_of, item[1], item[2], body), go_on):
            self._store(id, item, result)
        with self._database.transaction() as db:
            batches.ended(db, id)

    def _waiting(self, id: int) -> Iterator[Item]:
        last = 0
        while True:
            with self._database.transaction() as db:
                found = batches.waiting(db, id, last, TAKE)
            yield from found
            if not found:
                return
            last = found[-1][0]

    def _store(self, id: int, item: Item, result: Made | Failed | Exception) -> None:
        number = item[0]
        if isinstance(result, Made):
            try:
                with self._database.transaction() as db:
                    batches.finished(db, id, number, result)
                return
            except (Unavailable, DiskFull):
                raise
            except Exception as error:  # else this one would be worked again and again
                result = error
        with self._database.transaction() as db:
            if isinstance(result, Failed):
                batches.failed(db, id, number, result.why)
            else:
                log.warning("batch item failed", batch=id, item=number, error=repr(result))
                batches.failed(db, id, number, f"Dosis could not work it: {result}. Tell us about this file.")
