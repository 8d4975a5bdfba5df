"""Runs: made once from readings, and listed as cards."""

import zlib
from dataclasses import replace
from datetime import datetime

from dosis.intake.understanding import Choices
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.store import recordings, revisions
from dosis.store.cards import Card
from dosis.store.database import Cursor, Row
from dosis.store.packing import pack, unpack
from dosis.store.worked import Worked, readings_of


class RunCard(Record):
    """A run in a list."""

    id: int
    title: str
    revision: int
    created_at: datetime
    changed_at: datetime
    card: Card


class RunHead(Record):
    """What a run is called and where it belongs; which run it was handed on from, and which were handed on from it."""

    id: int
    title: str
    study_id: int
    study_name: str
    source_name: str
    created_at: datetime
    came_from: "Found | None" = None
    led_to: "tuple[Found, ...]" = ()


class NewRun(Record):
    """All that a run is made from. `key` makes it once, however often it is sent; `cells` : the readings, if packed.

    from_run : the run whose answers its readings are.
    """

    study: int
    title: str
    key: str
    source_name: str
    source: bytes
    choices: Choices
    readings: Readings
    worked: Worked
    cells: bytes = b""
    from_run: int | None = None


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
    source, cells = zlib.compress(new.source, 6), new.cells or recordings.packed(new.readings)
    db.run(
        "INSERT INTO readings (run_id, source_name, source, choices, cells) VALUES (%s, %s, %s, %s, %s)",
        id, new.source_name, source, pack(new.choices), recordings.parted(cells)[0],
    )  # fmt: skip
    recordings.write(db, id, 1, cells)
    words = f"Run “{new.title}” opened with {_counted(new.readings)} ({new.source_name})"
    state = revisions.NewRevision(
        number=1, origin=1, undo_to=None, redo_to=None, worked=replace(new.worked, words=words), key=new.key,
        action="open run",
    )  # fmt: skip
    revisions.append(db, id, state, author)
    return id


def in_study(db: Cursor, study: int) -> list[RunCard]:
    """A study's runs, the one changed last first."""
    rows = db.all(
        "SELECT run.id, run.title, run.created_at, revision.number AS revision, revision.created_at AS changed_at,"
        " revision.card FROM run JOIN revision ON revision.run_id = run.id AND revision.number = run.current"
        " WHERE run.study_id = %s ORDER BY revision.created_at DESC, run.id DESC",
        study,
    )
    return [RunCard.model_validate({**row, "card": unpack(Card, row["card"])}) for row in rows]


class Found(Record):
    """A run that was looked for."""

    id: int
    title: str
    study: str


def find(db: Cursor, text: str, most: int = 12) -> list[Found]:
    """Runs whose title or study holds every word of the text, the newest first."""
    words = text.split()[:8]
    like = " AND ".join(["CONCAT(run.title, ' ', study.name) LIKE %s"] * len(words)) or "1 = 1"
    patterns = ["%" + word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%" for word in words]
    rows = db.all(
        "SELECT run.id, run.title, study.name AS study FROM run JOIN study ON study.id = run.study_id"
        f" WHERE {like} ORDER BY run.id DESC LIMIT %s",
        *patterns, most,
    )  # fmt: skip
    return [Found.model_validate(row) for row in rows]


def head(db: Cursor, id: int) -> RunHead | None:
    """A run's title and place, or None."""
    row = db.one(
        "SELECT run.id, run.title, run.study_id, study.name AS study_name, run.created_at, readings.source_name"
        " FROM run JOIN study ON study.id = run.study_id"
        " JOIN readings ON readings.run_id = run.id AND readings.number = 1 WHERE run.id = %s",
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
    return RunHead.model_validate({**row, "came_from": next(iter(found[False]), None), "led_to": found[True]})


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
    """Keep another set of readings of a run, packed, understood from the same source; its number."""
    row: Row = db.one("SELECT MAX(number) + 1 AS number FROM readings WHERE run_id = %s", id) or {}
    number = int(row["number"])
    db.run(
        "INSERT INTO readings (run_id, number, source_name, source, choices, cells)"
        " SELECT run_id, %s, source_name, '', %s, %s FROM readings WHERE run_id = %s AND number = 1",
        number, pack(choices), recordings.parted(cells)[0], id,
    )  # fmt: skip
    recordings.write(db, id, number, cells)
    return number


def source(db: Cursor, id: int) -> bytes | None:
    """What a run was made from, as it came; None for no such run."""
    row = db.one("SELECT source FROM readings WHERE run_id = %s AND number = 1", id)
    return zlib.decompress(row["source"]) if row else None


def _counted(readings: Readings) -> str:
    count = len(readings.readings)
    if readings.axis is None:
        return f"{count:,} readings"
    return f"{count:,} courses of {readings.axis.count:,} times"
