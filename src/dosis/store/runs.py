"""Runs: made once from readings, and listed as cards."""

import zlib
from dataclasses import replace

from dosis.intake.understanding import Choices
from dosis.run.readings import Readings
from dosis.run.record import Record, Time
from dosis.store import methods, recordings, revisions
from dosis.store.database import Cursor, Row
from dosis.store.listing import tags_of
from dosis.store.packing import pack, unpack
from dosis.store.stages import Stage
from dosis.store.worked import Worked, readings_of


class RunHead(Record):
    """What a run is called and where it belongs; which run it was handed on from, and which were handed on from it.

    stage : between draft and signed; follows : the signed revision that a draft comes after.
    copied_from : the run it is a duplicate of. method : by which it was worked; departs : why it is not as that says.
    """

    id: int
    title: str
    study_id: int
    study_name: str
    source_name: str
    created_at: Time
    description: str = ""
    tags: tuple[str, ...] = ()
    archived: bool = False
    binned: bool = False
    copied_from: "Found | None" = None
    method: methods.MethodUsed | None = None
    departs: str = ""
    stage: Stage = "draft"
    follows: int | None = None
    came_from: "Found | None" = None
    led_to: "tuple[Found, ...]" = ()


class NewRun(Record):
    """All that a run is made from. `key` makes it once, however often it is sent.

    readings, or cells and count : the readings; or packed, and of what there are how many, in words.

    method : id and version of the one it is worked by; noted : what did not fit it, for the Ledger.
    from_run : the run whose answers its readings are. file : the one that came in pieces, where it is made from that.
    """

    study: int
    title: str
    key: str
    source_name: str
    source: bytes
    choices: Choices
    readings: Readings | None = None
    worked: Worked
    cells: bytes = b""
    count: str = ""
    from_run: int | None = None
    file: int | None = None
    method: tuple[int, int] | None = None
    noted: str = ""


def create(db: Cursor, new: NewRun, author: str) -> int:
    """Store a run with its first revision and ledger row; the same key again returns the run already made."""
    made = db.one("SELECT id FROM run WHERE create_key = %s", new.key)
    if made:
        return int(made["id"])
    id = db.run_once(
        "INSERT INTO run (study_id, title, create_key, from_run) VALUES (%s, %s, %s, %s)",
        new.study, new.title, new.key, new.from_run,
    )  # fmt: skip
    if id is None:  # the same was sent at the same time, and has waited for this one to be done or the other way round
        return int((db.one("SELECT id FROM run WHERE create_key = %s", new.key) or {})["id"])
    source, cells = zlib.compress(new.source, 6), new.cells or _packed(new.readings)
    named: Row = db.one("SELECT name FROM file WHERE id = %s", new.file) or {"name": new.source_name}
    db.run(
        "INSERT INTO readings (run_id, source_name, source, choices, cells, file_id, numbers)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s)",
        id, named["name"], source, pack(new.choices), recordings.parted(cells)[0], new.file,
        recordings.name_in(cells),
    )  # fmt: skip
    recordings.write(db, id, 1, cells)
    words = f"Run “{new.title}” opened with {new.count or counted(new.readings)} ({named['name']})"
    if new.method is not None:
        methods.set_used(db, id, *new.method)
    words += f", {new.noted}" if new.noted else ""
    state = revisions.NewRevision(
        number=1, origin=1, undo_to=None, redo_to=None, worked=replace(new.worked, words=words), key=new.key,
        action="open run",
    )  # fmt: skip
    revisions.append(db, id, state, author)
    return id


def in_study(db: Cursor, study: int) -> list[int]:
    """The ids of a study's runs that are neither put away nor thrown away, the oldest first."""
    return [int(row["id"]) for row in db.all(
        "SELECT id FROM run WHERE study_id = %s AND archived_at IS NULL AND binned_at IS NULL AND gone_at IS NULL"
        " ORDER BY id",
        study,
    )]  # fmt: skip


class Found(Record):
    """A run that another names."""

    id: int
    title: str
    study: str


class Now(Record):
    """Where a run stands this moment: its revision, who made it and what it did; its stage, open remarks, and `said`,
    how much was said in its review."""

    revision: int
    author: str
    words: str
    stage: Stage
    remarks: int
    said: int


def now(db: Cursor, id: int) -> Now | None:
    """The same of a run, for a window that looks every second; None for no such run."""
    row = db.one(
        "SELECT run.current AS revision, revision.author, revision.words, run.stage, (SELECT COUNT(*) FROM remark"
        " WHERE remark.run_id = run.id AND remark.closed_at IS NULL) AS remarks, (SELECT COUNT(*) + COUNT(closed_at)"
        " FROM remark WHERE remark.run_id = run.id) + (SELECT COUNT(*) FROM remark_answer JOIN remark"
        " ON remark.id = remark_id WHERE remark.run_id = run.id) AS said FROM run JOIN revision"
        " ON revision.run_id = run.id AND revision.number = run.current WHERE run.id = %s",
        id,
    )
    return Now.model_validate(row) if row else None


def study_of(db: Cursor, id: int) -> int | None:
    """The study a run lies in; None for no such run."""
    row = db.one("SELECT study_id FROM run WHERE id = %s", id)
    return row["study_id"] if row else None


def is_draft(db: Cursor, id: int) -> bool:
    """Whether it is neither handed in nor signed."""
    return db.one("SELECT 1 AS there FROM run WHERE id = %s AND stage = 'draft'", id) is not None


def exists(db: Cursor, id: int) -> bool:
    """Whether there is such a run, without all that its head tells."""
    sql = "SELECT 1 AS there FROM run JOIN readings ON readings.run_id = run.id WHERE run.id = %s LIMIT 1"
    return db.one(sql, id) is not None


def head(db: Cursor, id: int) -> RunHead | None:
    """A run's title and place, or None."""
    row = db.one(
        "SELECT run.id, run.title, run.study_id, study.name AS study_name, run.created_at, readings.source_name,"
        " run.description, run.archived_at IS NOT NULL AS archived, run.binned_at IS NOT NULL AS binned,"
        " run.copied_from, run.departs, run.stage, run.follows FROM run JOIN study ON study.id = run.study_id"
        f" JOIN readings ON readings.run_id = run.id AND readings.number = {_CURRENT} WHERE run.id = %s",
        id,
        id,
    )
    if row is None:
        return None
    others = db.all(
        "SELECT run.id, run.title, study.name AS study, run.from_run = %s AS after FROM run"
        " JOIN study ON study.id = run.study_id"
        " WHERE run.from_run = %s OR run.id = (SELECT from_run FROM run WHERE id = %s) ORDER BY run.id",
        id, id, id,
    )  # fmt: skip
    found = {after: tuple(Found.model_validate({k: each[k] for k in Found.model_fields}) for each in others
                          if bool(each["after"]) is after) for after in (True, False)}  # fmt: skip
    copied = db.one(
        "SELECT run.id, run.title, study.name AS study FROM run JOIN study ON study.id = run.study_id"
        " WHERE run.id = %s",
        row["copied_from"],
    )
    return RunHead.model_validate({
        **row, "tags": tuple(tags_of(db, id)), "came_from": next(iter(found[False]), None), "led_to": found[True],
        "copied_from": copied, "method": methods.used(db, id),
    })  # fmt: skip


def readings(db: Cursor, id: int, revision: int | None = None) -> Readings:
    """The readings of a run's revision, by default the current one."""
    row: Row = db.one(
        "SELECT revision.readings FROM run JOIN revision ON revision.run_id = run.id"
        " AND revision.number = COALESCE(%s, run.current) WHERE run.id = %s",
        revision, id,
    ) or {}  # fmt: skip
    return readings_of(revisions.cells_of(db, id, row["readings"]))


def choices(db: Cursor, id: int) -> Choices | None:
    """How a person corrected what was understood, in the current revision; None for no such run."""
    row = db.one(
        "SELECT readings.choices FROM run JOIN revision ON revision.run_id = run.id AND revision.number = run.current"
        " JOIN readings ON readings.run_id = run.id AND readings.number = revision.readings WHERE run.id = %s",
        id,
    )
    return unpack(Choices, row["choices"]) if row else None


def understood_anew(db: Cursor, id: int, choices: Choices, cells: bytes) -> int:
    """Keep another set of readings of a run, packed, understood from the same source as now; its number."""
    number = _next_set(db, id)
    db.run(
        "INSERT INTO readings (run_id, number, source_of, source_name, source, choices, cells, numbers, file_id)"
        " SELECT now.run_id, %s, now.source_of, now.source_name, '', %s, %s, %s, now.file_id FROM readings AS now"
        f" WHERE now.run_id = %s AND now.number = {_CURRENT}",
        number, pack(choices), recordings.parted(cells)[0], recordings.name_in(cells), id, id,
    )  # fmt: skip
    recordings.write(db, id, number, cells)
    return number


class NewSource(Record):
    """What readings that are put in the place of others were made from, as of `NewRun`."""

    name: str
    source: bytes
    file: int | None


def replaced(db: Cursor, id: int, new: NewSource, choices: Choices, cells: bytes) -> int:
    """Keep other readings of a run, packed, with the source they have of their own; their number."""
    number = _next_set(db, id)
    named: Row = db.one("SELECT name FROM file WHERE id = %s", new.file) or {"name": new.name}
    db.run(
        "INSERT INTO readings (run_id, number, source_of, source_name, source, choices, cells, file_id, numbers)"
        " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s)",
        id, number, number, named["name"], zlib.compress(new.source, 6), pack(choices), recordings.parted(cells)[0],
        new.file, recordings.name_in(cells),
    )  # fmt: skip
    recordings.write(db, id, number, cells)
    return number


def _next_set(db: Cursor, id: int) -> int:
    row: Row = db.one("SELECT MAX(number) + 1 AS number FROM readings WHERE run_id = %s", id) or {}
    return int(row["number"])


# The set of readings of the run's current revision; takes its id.
_CURRENT = (
    "(SELECT revision.readings FROM run JOIN revision ON revision.run_id = run.id AND revision.number = run.current"
    " WHERE run.id = %s)"
)


def source(db: Cursor, id: int, of: int | None = None) -> bytes | None:
    """What a run was made from, as it came; None for no such run. of : the set of readings, by default the current."""
    row = db.one(
        "SELECT first.source FROM readings AS now JOIN readings AS first"
        " ON first.run_id = now.run_id AND first.number = now.source_of"
        f" WHERE now.run_id = %s AND now.number = COALESCE(%s, {_CURRENT})",
        id, of, id,
    )  # fmt: skip
    return zlib.decompress(row["source"]) if row else None


def file_of(db: Cursor, id: int) -> int | None:
    """The file that came in pieces of which a run is made; None where it was made of something else."""
    row = db.one(f"SELECT file_id FROM readings WHERE run_id = %s AND number = {_CURRENT}", id, id)
    return None if row is None or row["file_id"] is None else int(row["file_id"])


def _packed(readings: Readings | None) -> bytes:
    if readings is None:
        raise ValueError("A run needs readings.")
    return recordings.packed(readings)


def counted(readings: Readings | None) -> str:
    """Of what there are how many, in words."""
    if readings is None:
        return "readings"
    count = len(readings.readings)
    if readings.axis is None:
        return f"{count:,} readings"
    return f"{count:,} courses of {readings.axis.count:,} times"
