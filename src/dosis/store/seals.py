"""The chain of the ledger: every row sealed with what it did and the seal before it, so that a rewritten past is found.

A seal is SHA-256 over the seal before, the row as canonical JSON, and the hash of the revision it made: its layout,
method and outcome, and with the first that is of them the readings and what these were made from. Rows are sealed a
moment after they were committed, in a transaction of their own: nobody waits for another's seal.
"""

import hashlib
import json
import threading
import zlib
from collections.abc import Iterator

import structlog

from dosis.run.record import Record
from dosis.store.database import Cursor, Database, DiskFull, Row, Unavailable
from dosis.store.packing import text_as_stored

log = structlog.get_logger()
EVERY = 2.0  # seconds between two looks for rows without a seal
AT_ONCE = 500
BEFORE_ALL = bytes(32)


class Checked(Record):
    """How the chain stands. sealed, waiting : rows with and still without a seal. broken : the first row that does not
    fit, by its number in the chain, and why; None where all fit. head : the last seal, to be noted elsewhere."""

    sealed: int
    waiting: int
    broken: int | None = None
    why: str = ""
    head: str = ""


def seal(db: Cursor) -> int:
    """Seal the rows that are still without; how many. One process at a time, whoever comes second does nothing."""
    if not (db.one("SELECT GET_LOCK('dosis-seal', 0) AS got") or {}).get("got"):
        return 0
    try:
        last = db.one("SELECT number, hash FROM ledger_seal ORDER BY number DESC LIMIT 1")
        number, before = (last["number"], bytes(last["hash"])) if last else (0, BEFORE_ALL)
        rows = db.all(
            "SELECT ledger.* FROM ledger LEFT JOIN ledger_seal AS own ON own.ledger_id = ledger.id"
            " WHERE own.number IS NULL ORDER BY ledger.id LIMIT %s",
            AT_ONCE,
        )
        for row in rows:
            did = _did(db, row)
            number, before = number + 1, _hash(before, row, did)
            db.run(
                "INSERT INTO ledger_seal (number, ledger_id, did, hash) VALUES (%s, %s, %s, %s)",
                number, row["id"], did, before,
            )  # fmt: skip
        return len(rows)
    finally:
        db.one("SELECT RELEASE_LOCK('dosis-seal') AS freed")


def check(db: Cursor) -> Checked:
    """Work the whole chain out again, with what each row did as it is stored now."""
    count, before = 0, BEFORE_ALL
    waiting = (db.one("SELECT COUNT(*) AS n FROM ledger LEFT JOIN ledger_seal AS own ON own.ledger_id = ledger.id"
                      " WHERE own.number IS NULL") or {"n": 0})["n"]  # fmt: skip
    for found in _sealed(db):
        count += 1
        why = _wrong(db, found, count, before)
        if why:
            return Checked(sealed=count, waiting=waiting, broken=found["number"], why=why)
        before = bytes(found["seal"])
    return Checked(sealed=count, waiting=waiting, head=before.hex() if count else "")


def _sealed(db: Cursor) -> Iterator[Row]:
    last = 0
    while rows := db.all(
        "SELECT own.number, own.did, own.hash AS seal, ledger.* FROM ledger_seal AS own"
        " LEFT JOIN ledger ON ledger.id = own.ledger_id WHERE own.number > %s ORDER BY own.number LIMIT %s",
        last, AT_ONCE,
    ):  # fmt: skip
        yield from rows
        last = rows[-1]["number"]


def _wrong(db: Cursor, found: Row, number: int, before: bytes) -> str:
    """Why a seal does not fit; empty where it does."""
    if found["number"] != number:
        return f"seal {number} is missing"
    if found["id"] is None:
        return "its row was removed from the ledger"
    did = None if found["did"] is None else bytes(found["did"])
    if _hash(before, found, did) != bytes(found["seal"]):
        return f"the row of {found['at']:%Y-%m-%d %H:%M:%S} by {found['author']} (“{found['words'][:80]}”) was altered"
    if did is not None and not _gone(db, found) and _did(db, found) != did:
        return f"revision {found['revision']} of run {found['run_id']}, or its readings, are not what they were"
    if did is not None and not _outcome_fits(db, found["run_id"], found["revision"]):
        return f"the outcome of revision {found['revision']} of run {found['run_id']} is not what it was"
    return ""


def _outcome_fits(db: Cursor, run: int, number: int) -> bool:
    """Whether a stored outcome has the hash that was sealed; of large runs not each is stored, but worked out again."""
    row = db.one("SELECT outcome, digest FROM revision WHERE run_id = %s AND number = %s", run, number)
    if row is None or row["outcome"] is None or row["digest"] is None:
        return True
    try:
        return hashlib.sha256(text_as_stored(row["outcome"])).digest() == bytes(row["digest"])
    except zlib.error:
        return False


def _gone(db: Cursor, row: Row) -> bool:
    """Whether the run was deleted after its time in the bin, which the ledger says itself."""
    run = db.one("SELECT gone_at FROM run WHERE id = %s", row["run_id"])
    return run is not None and run["gone_at"] is not None


def _did(db: Cursor, row: Row) -> bytes | None:
    """The hash of the revision a row made, with its readings and their source; None of a row that made none."""
    if row["run_id"] is None or row["revision"] is None:
        return None
    return made(db, row["run_id"], row["revision"])


def made(db: Cursor, run: int, number: int, *, whole: bool = False) -> bytes | None:
    """SHA-256 over a revision as it is stored: layout, method and outcome; with the first one that is of a set of
    readings, or `whole`, these and their source too. None for no such revision."""
    row = db.one(
        "SELECT layout, method, digest, readings, (SELECT MIN(number) FROM revision AS first"
        " WHERE first.run_id = own.run_id AND first.readings = own.readings) AS begins"
        " FROM revision AS own WHERE run_id = %s AND number = %s",
        run, number,
    )  # fmt: skip
    if row is None:
        return None
    parts = [row["layout"], row["method"], row["digest"] or b"", str(row["readings"]).encode()]
    if whole or row["begins"] == number:  # readings are sealed with the first revision that is of them
        parts += _readings(db, run, row["readings"])
    found = hashlib.sha256()
    for part in parts:
        found.update(len(part).to_bytes(8, "big") + bytes(part))
    return found.digest()


def _readings(db: Cursor, run: int, number: int) -> Iterator[bytes]:
    """A set of readings as it is stored, with what it was made from; of what is large the hashes of its pieces."""
    own = db.one("SELECT cells, choices, source, file_id FROM readings WHERE run_id = %s AND number = %s", run, number)
    if own is None:
        return
    yield from (own["cells"], own["choices"], own["source"])
    blocks = ("SELECT SHA2(numbers, 256) AS hash FROM recording_block WHERE run_id = %s AND number = %s"
              " ORDER BY reading, first")  # fmt: skip
    yield from (each["hash"].encode() for each in db.all(blocks, run, number))
    if own["file_id"] is not None:
        pieces = "SELECT SHA2(data, 256) AS hash FROM file_piece WHERE file_id = %s ORDER BY number"
        yield from (each["hash"].encode() for each in db.all(pieces, own["file_id"]))


def _hash(before: bytes, row: Row, did: bytes | None) -> bytes:
    said = {
        "at": row["at"].isoformat(), "author": row["author"], "study": row["study_id"], "run": row["run_id"],
        "revision": row["revision"], "action": row["action"], "words": row["words"], "did": did.hex() if did else None,
    }  # fmt: skip
    text = json.dumps(said, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(before + text.encode()).digest()


class Sealer:
    """Seals what is new every few seconds, in a thread of its own."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._serve, daemon=True, name="seals")

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def close(self) -> None:
        """End after what is being sealed."""
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(timeout=10)

    def _serve(self) -> None:
        while not self._closing.wait(EVERY):
            try:
                while self._all_at_once() == AT_ONCE and not self._closing.is_set():
                    pass
            except (Unavailable, DiskFull):
                continue  # they are sealed when the database is back
            except Exception:
                log.exception("the ledger is not sealed")

    def _all_at_once(self) -> int:
        with self._database.transaction() as db:
            return seal(db)
