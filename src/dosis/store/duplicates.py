"""A run made again from another: the same readings, laid out and worked in the same way, with a ledger of its own."""

from dosis.store import ledger, recordings, revisions
from dosis.store.database import Cursor, Row
from dosis.store.revisions import NewRevision
from dosis.store.worked import Do, here


def duplicate(db: Cursor, run: int, key: str, title: str, author: str, do: Do = here) -> int | None:
    """A new run as this one stands, in the same study; the same key makes it once. None where there is no such run.

    The other keeps its history; this one begins with what it has come to.
    """
    if made := db.one("SELECT id FROM run WHERE create_key = %s", key):
        return int(made["id"])
    row = revisions.row_of(db, run)
    columns = "title, study_id, method_id, method_version"
    of: Row = db.one(f"SELECT {columns} FROM run WHERE id = %s AND gone_at IS NULL", run) or {}
    if row is None or not of:
        return None
    worked = revisions.as_stored(db, run, row["number"], do)
    if worked is None:
        return None
    id = db.run_once(
        "INSERT INTO run (study_id, title, create_key, copied_from, method_id, method_version)"
        " VALUES (%s, %s, %s, %s, %s, %s)",
        of["study_id"], title, key, run, of["method_id"], of["method_version"],
    )  # fmt: skip
    if id is None:
        return int((db.one("SELECT id FROM run WHERE create_key = %s", key) or {})["id"])
    # The source stands with the set of readings it came with, which need not be the one that is current.
    db.run(
        "INSERT INTO readings (run_id, number, source_name, source, choices, cells, file_id, numbers)"
        " SELECT %s, 1, now.source_name, first.source, now.choices, now.cells, now.file_id, now.numbers"
        " FROM readings AS now JOIN readings AS first ON first.run_id = now.run_id AND first.number = now.source_of"
        " WHERE now.run_id = %s AND now.number = %s",
        id, run, row["readings"],
    )  # fmt: skip
    recordings.copy(db, (run, row["readings"]), (id, 1))
    db.run("INSERT INTO run_tag (run_id, tag) SELECT %s, tag FROM run_tag WHERE run_id = %s", id, run)
    words = f"Run “{title}” made as “{of['title']}” stands in revision {row['number']}"
    new = NewRevision(
        number=1, origin=1, undo_to=None, redo_to=None, worked=worked.said(words), key=key, action="duplicate run"
    )
    revisions.append(db, id, new, author)
    ledger.write(db, author, "duplicate run", f"Duplicated as “{title}”", run=run, revision=row["number"])
    return id
