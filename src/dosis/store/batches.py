"""Batches: many files to many runs by one method. Each item is done once, whoever works it and however often."""

import zlib
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal
from uuid import uuid4

from dosis.intake.understanding import Choices
from dosis.run.changes import ChangeError
from dosis.run.record import Record, Time
from dosis.store import ledger, runs
from dosis.store.database import Cursor, Row
from dosis.store.packing import unpack
from dosis.store.within import within
from dosis.store.worked import Worked

BatchState = Literal["filling", "running", "stopped", "done"]
ItemState = Literal["waiting", "done", "failed"]


class BatchHead(Record):
    """A batch in a list. left : seconds until it is done, by how fast it has gone; None where that is not known."""

    id: int
    name: str
    study_id: int
    study: str
    method_id: int
    method: str
    version: int
    state: BatchState
    author: str
    created_at: Time
    waiting: int
    done: int
    failed: int
    left: float | None


class ItemHead(Record):
    """A file of a batch and what came of it. verdict, headline : of its run."""

    number: int
    name: str
    state: ItemState
    run_id: int | None
    title: str | None
    verdict: str
    words: str
    tried: int


class AnswerLine(Record):
    """An answer of a run of a batch."""

    file: str
    run_id: int
    run: str
    verdict: str
    name: str
    role: str
    value: float | None
    lower: float | None
    upper: float | None
    censor: str
    unit: str


_HEAD = (
    "SELECT batch.id, batch.name, batch.study_id, study.name AS study, batch.method_id, method.name AS method,"
    " batch.version, batch.state, batch.author, batch.created_at, COALESCE(counts.waiting, 0) AS waiting,"
    " COALESCE(counts.done, 0) AS done, COALESCE(counts.failed, 0) AS failed, counts.lately,"
    " TIMESTAMPDIFF(MICROSECOND, batch.started_at, UTC_TIMESTAMP(6)) / 1e6 AS gone"
    " FROM batch JOIN study ON study.id = batch.study_id JOIN method ON method.id = batch.method_id LEFT JOIN ("
    "SELECT item.batch_id, COUNT(IF(item.state = 'waiting', 1, NULL)) AS waiting,"
    " COUNT(IF(item.state = 'done', 1, NULL)) AS done, COUNT(IF(item.state = 'failed', 1, NULL)) AS failed,"
    " COUNT(IF(item.ended_at >= of.started_at, 1, NULL)) AS lately"
    " FROM batch_item AS item JOIN batch AS of ON of.id = item.batch_id GROUP BY item.batch_id"
    ") AS counts ON counts.batch_id = batch.id"
)


def create(db: Cursor, name: str, study: int, method: tuple[int, int], key: str, author: str) -> int:
    """A batch that is still to be filled; the same key makes it once."""
    id = db.run_once(
        "INSERT INTO batch (name, study_id, method_id, version, author, create_key) VALUES (%s, %s, %s, %s, %s, %s)",
        name, study, *method, author, key,
    )  # fmt: skip
    if id is None:
        return int((db.one("SELECT id FROM batch WHERE create_key = %s", key) or {})["id"])
    return id


def add(db: Cursor, id: int, files: Sequence[tuple[str, bytes]]) -> None:
    """Add files, named and as they came. Raises ChangeError where it is not being filled any more."""
    row = db.one("SELECT state FROM batch WHERE id = %s FOR UPDATE", id)
    if row is None or row["state"] != "filling":
        raise ChangeError("This batch has begun; make another for more files.")
    last = (db.one("SELECT COALESCE(MAX(number), 0) AS n FROM batch_item WHERE batch_id = %s", id) or {"n": 0})["n"]
    db.run_many(
        "INSERT INTO batch_item (batch_id, number, name, item_key, source) VALUES (%s, %s, %s, %s, %s)",
        [(id, last + i, name[:200], str(uuid4()), zlib.compress(data, 1)) for i, (name, data) in enumerate(files, 1)],
    )


def listed(db: Cursor, method: int | None = None, studies: Collection[int] | None = None) -> list[BatchHead]:
    """Batches, of a method or all, the newest first; in these studies where not in all."""
    where, values = within("batch.study_id", studies)
    if method is not None:
        where, values = f"{where} AND batch.method_id = %s", [*values, method]
    rows = db.all(f"{_HEAD} WHERE {where} ORDER BY batch.id DESC LIMIT 500", *values)
    return [_head(row) for row in rows]


def head(db: Cursor, id: int) -> BatchHead | None:
    """One batch; None where there is none."""
    row = db.one(f"{_HEAD} WHERE batch.id = %s", id)
    return _head(row) if row else None


def _head(row: Row) -> BatchHead:
    waiting, lately, gone = row["waiting"], row.pop("lately"), row.pop("gone")
    left = None
    if row["state"] == "running" and lately and gone:
        left = float(gone) / lately * waiting
    kept = {name: row[name] for name in BatchHead.model_fields if name != "left"}
    return BatchHead.model_validate({**kept, "left": left})


def items(db: Cursor, id: int, first: int, count: int, state: ItemState | None = None) -> list[ItemHead]:
    """Some of its files, in order."""
    where = "" if state is None else " AND item.state = %s"
    rows = db.all(
        "SELECT item.number, item.name, item.state, item.run_id, run.title, COALESCE(run.state, '') AS verdict,"
        " item.words, item.tried FROM batch_item AS item LEFT JOIN run ON run.id = item.run_id AND run.gone_at IS NULL"
        f" WHERE item.batch_id = %s{where} ORDER BY item.number LIMIT %s OFFSET %s",
        id, *([state] if state else []), count, first,
    )  # fmt: skip
    return [ItemHead.model_validate(row) for row in rows]


def answers(db: Cursor, id: int) -> list[AnswerLine]:
    """Every answer of its runs, as they stand now, in the order of the files."""
    rows = db.all(
        "SELECT item.name AS file, run.id AS run_id, run.title AS run, run.state AS verdict, answer.name, answer.role,"
        " answer.value, answer.lower, answer.upper, answer.censor, answer.unit FROM batch_item AS item"
        " JOIN run ON run.id = item.run_id JOIN answer ON answer.run_id = run.id"
        " WHERE item.batch_id = %s AND run.gone_at IS NULL ORDER BY item.number, answer.answer_key",
        id,
    )
    return [AnswerLine.model_validate(row) for row in rows]


def start(db: Cursor, id: int, author: str, *, again: bool = False) -> None:
    """Let it run: for the first time, on where it was stopped, or those again that have failed."""
    row = db.one("SELECT * FROM batch WHERE id = %s FOR UPDATE", id)
    if row is None or row["state"] == "running":
        return
    if again:
        db.run("UPDATE batch_item SET state = 'waiting', words = '' WHERE batch_id = %s AND state = 'failed'", id)
    count = (db.one("SELECT COUNT(*) AS n FROM batch_item WHERE batch_id = %s AND state = 'waiting'", id) or {})["n"]
    if count == 0:
        raise ChangeError("There is no file left in this batch that has not been worked.")
    db.run("UPDATE batch SET state = 'running', started_at = UTC_TIMESTAMP(6) WHERE id = %s", id)
    how = "again those that failed of" if again else "on with" if row["started_at"] else "begun:"
    ledger.write(db, author, "run batch", f"Batch {how} “{row['name']}”, {count} files", study=row["study_id"])


def stop(db: Cursor, id: int, author: str) -> None:
    """Stop it after what is being worked; what is done stays."""
    row = db.one("SELECT * FROM batch WHERE id = %s FOR UPDATE", id)
    if row is not None and row["state"] == "running":
        db.run("UPDATE batch SET state = 'stopped' WHERE id = %s", id)
        ledger.write(db, author, "stop batch", f"Batch “{row['name']}” stopped", study=row["study_id"])


def running(db: Cursor) -> list[int]:
    """The batches that are to be worked."""
    return [row["id"] for row in db.all("SELECT id FROM batch WHERE state = 'running' ORDER BY id")]


def waiting(db: Cursor, id: int, after: int, count: int) -> list[tuple[int, str, bytes]]:
    """The next files to be worked after that number: number, name and bytes."""
    rows = db.all(
        "SELECT number, name, source FROM batch_item WHERE batch_id = %s AND state = 'waiting' AND number > %s"
        " ORDER BY number LIMIT %s",
        id, after, count,
    )  # fmt: skip
    return [(row["number"], row["name"], zlib.decompress(row["source"])) for row in rows]


@dataclass(frozen=True)
class Made:
    """A run of a file, still to be stored.

    choices, cells : packed. count : of what, in words. headline : its verdict told whole. noted : what did not fit.
    """

    choices: bytes
    cells: bytes
    worked: Worked
    count: str
    headline: str
    noted: str


def finished(db: Cursor, id: int, number: int, made: Made) -> int | None:
    """Store an item's run, in one transaction with the item itself; None where that was done already."""
    item = db.one("SELECT * FROM batch_item WHERE batch_id = %s AND number = %s FOR UPDATE", id, number)
    batch = db.one("SELECT * FROM batch WHERE id = %s", id)
    if item is None or batch is None or item["state"] == "done":
        return None
    title = item["name"].rsplit(".", 1)[0][:200].strip() or item["name"]
    noted = f"; what did not fit: {made.noted}" if made.noted else ""
    run = runs.create(
        db,
        runs.NewRun(
            study=batch["study_id"], title=title, key=item["item_key"], source_name=item["name"],
            source=zlib.decompress(item["source"]), choices=unpack(Choices, made.choices), worked=made.worked,
            cells=made.cells, count=made.count, method=(batch["method_id"], batch["version"]),
            noted=f"in the batch “{batch['name']}”{noted}",
        ),
        batch["author"],
    )  # fmt: skip
    _ended(db, id, number, "done", run, made.headline)
    return run


def failed(db: Cursor, id: int, number: int, why: str) -> None:
    """Note why an item made no run."""
    _ended(db, id, number, "failed", None, why)


def _ended(db: Cursor, id: int, number: int, state: ItemState, run: int | None, words: str) -> None:
    db.run(
        "UPDATE batch_item SET state = %s, run_id = %s, words = %s, tried = tried + 1, ended_at = UTC_TIMESTAMP(6)"
        " WHERE batch_id = %s AND number = %s AND state = 'waiting'",
        state, run, words, id, number,
    )  # fmt: skip


def ended(db: Cursor, id: int) -> None:
    """Note that nothing of it is waiting any more."""
    db.run(
        "UPDATE batch SET state = 'done', ended_at = UTC_TIMESTAMP(6) WHERE id = %s AND state = 'running'"
        " AND NOT EXISTS (SELECT 1 FROM batch_item WHERE batch_id = %s AND state = 'waiting')",
        id, id,
    )  # fmt: skip


def is_running(db: Cursor, id: int) -> bool:
    """Whether it is to go on."""
    return (db.one("SELECT state FROM batch WHERE id = %s", id) or {}).get("state") == "running"
