"""Revisions: a run's states, numbered and appended. A save names the revision it started from."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from dosis import __version__
from dosis.run.changes import ChangeError
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.working import WorkingLine
from dosis.run.record import Record, Time
from dosis.store import ledger, measures, recordings, scratch
from dosis.store.database import Cursor, Row
from dosis.store.packing import pack_text, unpack, unpack_text
from dosis.store.stages import must_be_draft
from dosis.store.worked import Do, Worked, evaluated, here, stored_worked, working_looked_at
from dosis.store.working import Working

LARGE = 1_500_000  # bytes of an outcome's JSON from which it is not stored with every revision
EVERY = 25  # of a large run each 25th revision has its outcome whole, the first among them


class Head(Record):
    """Where a revision stands among the others.

    readings : the number of the set of readings it is of. differs : whether its numbers were worked out again and are
        not those that were saved, which another version of Dosis, `program`, computed.
    """

    number: int
    origin: int
    undo_to: int | None
    redo_to: int | None
    readings: int = 1
    author: str
    words: str
    created_at: Time
    program: str | None = None
    differs: bool = False


class Revision(Head):
    """A state of a run, as the screen shows it; the working is asked for one group at a time."""

    layout: Layout
    method: Method
    outcome: Outcome


@dataclass(frozen=True)
class Kept:
    """A revision as JSON, so that it is sent as it is stored; its records are read where they are needed."""

    head: Head
    layout_text: bytes
    method_text: bytes
    outcome_text: bytes

    @property
    def json(self) -> bytes:
        """The JSON of the `Revision`."""
        parts = (self.layout_text, self.method_text, self.outcome_text)
        return b'%s,"layout":%s,"method":%s,"outcome":%s}' % (self.head.model_dump_json().encode()[:-1], *parts)

    @cached_property
    def revision(self) -> Revision:
        """The same as a record."""
        return Revision(
            **dict(self.head), layout=Layout.model_validate_json(self.layout_text),
            method=Method.model_validate_json(self.method_text),
            outcome=Outcome.model_validate_json(self.outcome_text),
        )  # fmt: skip


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
    worked: Worked
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
    it is new and `based_on` is not the run's current revision, Locked where it is no draft, ChangeError in the bin.
    """
    row = db.one("SELECT current, binned_at, stage FROM run WHERE id = %s FOR UPDATE", run)
    made = db.one("SELECT number FROM revision WHERE run_id = %s AND change_key = %s", run, key)
    if made:
        return int(made["number"])
    if row and row["binned_at"] is not None:
        raise ChangeError("This run is in the bin; take it out before you change it.")
    if row:
        must_be_draft(row)
    if row and row["current"] != based_on:
        raise Stale(row["current"], ledger.of_run(db, run, after=based_on))
    return None


def append(db: Cursor, run: int, new: NewRevision, author: str) -> Kept:
    """Write a revision, make it current, replace the run's answers, and write the ledger."""
    worked = new.worked
    whole = len(worked.outcome) < LARGE or new.number % EVERY == 1
    db.run(
        "INSERT INTO revision (run_id, number, origin, undo_to, redo_to, readings, layout, method, outcome, digest,"
        " program, working, card, author, words, change_key)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
        run, new.number, new.origin, new.undo_to, new.redo_to, new.readings, worked.layout, worked.method,
        pack_text(Outcome, worked.outcome) if whole else None, worked.digest, __version__, worked.working, worked.card,
        author, worked.words, new.key,
    )  # fmt: skip
    db.run(
        "UPDATE run SET current = %s, question = %s, state = %s WHERE id = %s",
        new.number, worked.question, worked.state, run,
    )  # fmt: skip
    if worked.answers is not None:
        put_answers(db, run, worked.answers, worked.unit)
    if worked.measures is not None:
        measures.put(db, run, worked.measures)
    ledger.write(db, author, new.action, worked.words, run=run, revision=new.number)
    return _kept(row_of(db, run, new.number) or {}, worked)


def put_answers(db: Cursor, run: int, rows: bytes, unit: str) -> None:
    """Replace the answers of a run, as lists and searches see them."""
    db.run("DELETE FROM answer WHERE run_id = %s", run)
    db.run(_ANSWERS, run, unit, rows.decode())


# All answers as one document: written row by row, thousands take as long as working them out.
_ANSWERS = """INSERT INTO answer (run_id, answer_key, name, role, value, lower, upper, censor, unit)
SELECT %s, k, name, role, value, lower, upper, censor, %s FROM JSON_TABLE(%s, '$[*]' COLUMNS (
    k VARCHAR(300) PATH '$[0]', name VARCHAR(200) PATH '$[1]', role VARCHAR(20) PATH '$[2]', value DOUBLE PATH '$[3]',
    lower DOUBLE PATH '$[4]', upper DOUBLE PATH '$[5]', censor VARCHAR(2) PATH '$[6]')) AS found"""


def row_of(db: Cursor, run: int, number: int | None = None, *, also: Sequence[str] = ()) -> Row | None:
    """A revision as it is stored, by default the current one.

    also : what is wanted of "outcome", "working" and "card", which of a large run take long to read.
    """
    return db.one(
        "SELECT number, origin, undo_to, redo_to, readings, author, words, revision.created_at, layout, method, digest,"
        f" {', '.join(['program', *also])} FROM revision JOIN run ON run.id = revision.run_id"
        " WHERE run.id = %s AND revision.number = COALESCE(%s, run.current)",
        run, number,
    )  # fmt: skip


def cells_of(db: Cursor, run: int, readings: int) -> bytes:
    """The packed readings of that number, with the numbers of those that are curves, or where these lie."""
    row: Row = db.one(
        "SELECT cells, numbers FROM readings WHERE run_id = %s AND number = %s", run, readings
    ) or {}  # fmt: skip
    if row["numbers"] is None:
        return recordings.joined(bytes(row["cells"]), recordings.read(db, run, readings))
    path = db.scratch / f"{row['numbers']}.npy"
    if not scratch.used(path):
        recordings.lay_out(db, run, readings, path)
    return recordings.laid_out(bytes(row["cells"]), path)


def head_of(db: Cursor, run: int, readings: int) -> bytes:
    """The same without the numbers of curves: what the page is sent."""
    row: Row = db.one("SELECT cells FROM readings WHERE run_id = %s AND number = %s", run, readings) or {}
    return bytes(row["cells"])


def again(db: Cursor, run: int, row: Row, do: Do = here) -> Worked:
    """A stored revision worked out again, by the program of today."""
    found: Worked = do(evaluated, cells_of(db, run, row["readings"]), row["layout"], row["method"])
    return found


def as_stored(db: Cursor, run: int, number: int | None = None, do: Do = here) -> Worked | None:
    """A revision with what came of it, by default the current one: as it was stored, or worked out again where it was
    not stored whole. None for no such revision."""
    row = row_of(db, run, number, also=["outcome", "working"])
    if row is None:
        return None
    if row["outcome"] is None:
        return again(db, run, row, do)
    found: Worked = do(stored_worked, row["layout"], row["method"], row["outcome"], row["working"])
    return found


def kept(db: Cursor, run: int, number: int | None = None, do: Do = here) -> Kept | None:
    """A run's revision of that number, by default the current one; None when there is none.

    do : works out an outcome that is not stored whole.
    """
    row = row_of(db, run, number, also=["outcome"])
    if row is None:
        return None
    if row["outcome"] is None:
        return _kept(row, again(db, run, row, do))
    return Kept(
        _head(row), unpack_text(Layout, row["layout"]), unpack_text(Method, row["method"]),
        unpack_text(Outcome, row["outcome"]),
    )  # fmt: skip


def get(db: Cursor, run: int, number: int | None = None, do: Do = here) -> Revision | None:
    """The same as a record."""
    found = kept(db, run, number, do)
    return None if found is None else found.revision


def state(db: Cursor, run: int, number: int | None = None) -> State | None:
    """What a change starts from, without the outcome, which of a large run takes long to read."""
    row = row_of(db, run, number)
    return None if row is None else state_in(row)


def state_in(row: Row) -> State:
    """The same of a row that is read already."""
    return State(int(row["origin"]), int(row["readings"]), unpack(Layout, row["layout"]), unpack(Method, row["method"]))


def packed_state(db: Cursor, run: int, number: int | None = None) -> tuple[bytes, bytes, bytes] | None:
    """Readings, layout and method of a revision, by default the current one, as they are handed to who works on them.

    None for no such revision.
    """
    row = row_of(db, run, number)
    return None if row is None else (cells_of(db, run, row["readings"]), row["layout"], row["method"])


def working(db: Cursor, run: int, number: int, id: str, do: Do = here) -> tuple[WorkingLine, ...] | None:
    """The working behind one group or number in that revision; None where there is none.

    do : works it out where it was not written down.
    """
    row = row_of(db, run, number, also=["working"])
    if row is None:
        return None
    lines = unpack(Working, row["working"]).lines.get(id)
    if lines is None:
        lines = do(working_looked_at, cells_of(db, run, row["readings"]), row["layout"], row["method"], id)
    return lines


def _kept(row: Row, worked: Worked) -> Kept:
    differs = row["digest"] is not None and row["digest"] != worked.digest
    texts = unpack_text(Layout, row["layout"]), unpack_text(Method, row["method"]), worked.outcome
    return Kept(_head(row).model_copy(update={"differs": differs}), *texts)


def _head(row: Row) -> Head:
    return Head(**{key: row[key] for key in Head.model_fields if key in row})
