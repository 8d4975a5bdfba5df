"""Revisions: a run's states, numbered and appended. A save names the revision it started from."""

import json
from dataclasses import dataclass
from datetime import datetime

from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.working import WorkingLine
from dosis.run.record import Record
from dosis.store import ledger
from dosis.store.cards import card_of
from dosis.store.database import Cursor
from dosis.store.packing import pack, pack_finite, unpack
from dosis.store.working import Working


class Revision(Record):
    """A state of a run, as the screen shows it; the working is asked for one group at a time.

    readings : the number of the set of readings it is of.
    """

    number: int
    origin: int
    undo_to: int | None
    redo_to: int | None
    readings: int = 1
    author: str
    words: str
    created_at: datetime
    layout: Layout
    method: Method
    outcome: Outcome


@dataclass(frozen=True)
class State:
    """What a run is in a revision: of which it is a state, of which readings, laid out and worked how."""

    origin: int
    readings: int
    layout: Layout
    method: Method


@dataclass(frozen=True)
class NewRevision:
    """A state to append."""

    number: int
    origin: int
    undo_to: int | None
    redo_to: int | None
    layout: Layout
    method: Method
    outcome: Outcome
    words: str
    key: str
    action: str
    readings: int = 1


class Stale(Exception):
    """The run has moved on from the revision a save started from."""

    def __init__(self, current: int, since: list[ledger.Entry]) -> None:
        super().__init__(current)
        self.current = current
        self.since = since


def lock(db: Cursor, run: int, based_on: int, key: str) -> int | None:
    """Hold the run for this transaction; the revision a change of that key has already made, if it has.

    The key is looked up once the run is held, so that the same save sent twice at once is made once. Raises Stale when
    it is new and `based_on` is not the run's current revision.
    """
    row = db.one("SELECT current FROM run WHERE id = %s FOR UPDATE", run)
    made = db.one("SELECT number FROM revision WHERE run_id = %s AND change_key = %s", run, key)
    if made:
        return int(made["number"])
    if row and row["current"] != based_on:
        raise Stale(row["current"], ledger.of_run(db, run, after=based_on))
    return None


def append(db: Cursor, run: int, new: NewRevision, author: str) -> Revision:
    """Write a revision, make it current, replace the run's answers, and write the ledger."""
    packed, outcome = pack_finite(new.outcome, exclude={"working"})
    working = pack(Working(lines=outcome.working))
    db.run(
        "INSERT INTO revision (run_id, number, origin, undo_to, redo_to, readings, layout, method, outcome, working,"
        " card, author, words, change_key) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
        run, new.number, new.origin, new.undo_to, new.redo_to, new.readings, pack(new.layout), pack(new.method),
        packed, working, pack(card_of(outcome)), author, new.words, new.key,
    )  # fmt: skip
    db.run("UPDATE run SET current = %s WHERE id = %s", new.number, run)
    db.run("DELETE FROM answer WHERE run_id = %s", run)
    _write_answers(db, run, outcome)
    ledger.write(db, author, new.action, new.words, run=run, revision=new.number)
    made = db.one("SELECT created_at FROM revision WHERE run_id = %s AND number = %s", run, new.number) or {}
    return Revision(
        number=new.number, origin=new.origin, undo_to=new.undo_to, redo_to=new.redo_to,
        readings=new.readings, author=author,
        words=new.words, created_at=made["created_at"], layout=new.layout, method=new.method,
        outcome=outcome.model_copy(update={"working": {}}),
    )  # fmt: skip


# All answers as one document: written row by row, thousands take as long as working them out.
_ANSWERS = """INSERT INTO answer (run_id, answer_key, name, role, value, lower, upper, censor, unit)
SELECT %s, k, name, role, value, lower, upper, censor, %s FROM JSON_TABLE(%s, '$[*]' COLUMNS (
    k VARCHAR(300) PATH '$[0]', name VARCHAR(200) PATH '$[1]', role VARCHAR(20) PATH '$[2]', value DOUBLE PATH '$[3]',
    lower DOUBLE PATH '$[4]', upper DOUBLE PATH '$[5]', censor VARCHAR(2) PATH '$[6]')) AS found"""


def _write_answers(db: Cursor, run: int, outcome: Outcome) -> None:
    """What the run was asked for, where lists and queries find it."""
    for lead in outcome.answers.leads[:1]:
        rows = [
            [row.key, row.name, row.role.value, found.value, found.lower, found.upper, found.censor]
            for i, row in enumerate(outcome.answers.rows)
            for found in (lead.value(i),)
        ]
        if rows:
            db.run(_ANSWERS, run, lead.unit, json.dumps(rows, ensure_ascii=False))


def get(db: Cursor, run: int, number: int | None = None) -> Revision | None:
    """A run's revision of that number, by default the current one; None when there is none."""
    row = db.one(
        "SELECT revision.* FROM revision JOIN run ON run.id = revision.run_id"
        " WHERE run.id = %s AND revision.number = COALESCE(%s, run.current)",
        run, number,
    )  # fmt: skip
    if row is None:
        return None
    return Revision(
        layout=unpack(Layout, row["layout"]), method=unpack(Method, row["method"]),
        outcome=unpack(Outcome, row["outcome"]),
        **{key: row[key] for key in (
            "number", "origin", "undo_to", "redo_to", "readings", "author", "words", "created_at",
        )},
    )  # fmt: skip


def state(db: Cursor, run: int, number: int) -> State | None:
    """What a change starts from, without the outcome, which of a large run takes long to read."""
    row = db.one("SELECT origin, readings, layout, method FROM revision WHERE run_id = %s AND number = %s", run, number)
    if row is None:
        return None
    return State(int(row["origin"]), int(row["readings"]), unpack(Layout, row["layout"]), unpack(Method, row["method"]))


def working(db: Cursor, run: int, number: int) -> dict[str, tuple[WorkingLine, ...]] | None:
    """The working of every group in that revision."""
    row = db.one("SELECT working FROM revision WHERE run_id = %s AND number = %s", run, number)
    return unpack(Working, row["working"]).lines if row else None
