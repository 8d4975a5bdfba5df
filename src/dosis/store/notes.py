"""Notes on a sample or a reading of a run: what a person wrote beside it, kept through every revision."""

from dosis.run.record import Record, Time
from dosis.store import ledger
from dosis.store.database import Cursor
from dosis.store.stages import must_be_draft


class Note(Record):
    """A note. place : the id of a group, or "reading:" and the id of a reading."""

    place: str
    text: str
    author: str
    written_at: Time


def listed(db: Cursor, run: int) -> list[Note]:
    """The notes of a run."""
    rows = db.all("SELECT place, text, author, written_at FROM run_note WHERE run_id = %s ORDER BY place", run)
    return [Note.model_validate(row) for row in rows]


def of_run(db: Cursor, run: int) -> dict[str, str]:
    """The same by place, for an archive."""
    return {each.place: each.text for each in listed(db, run)}


def put(db: Cursor, run: int, place: str, text: str, author: str) -> None:
    """Write a note in the place of the one that is there."""
    db.put(
        "INSERT INTO run_note (run_id, place, text, author) VALUES (%s, %s, %s, %s)"
        " ON DUPLICATE KEY UPDATE text = VALUES(text), author = VALUES(author), written_at = UTC_TIMESTAMP(6)",
        run, place, text, author,
    )  # fmt: skip


def keep(db: Cursor, run: int, place: str, name: str, text: str, author: str) -> None:
    """The same by a person, with its ledger row; an empty text takes the note away. name : of what it is on."""
    row = db.one("SELECT current, stage FROM run WHERE id = %s FOR UPDATE", run)
    if row is None:
        return
    must_be_draft(row)
    if text:
        put(db, run, place, text, author)
    else:
        db.run("DELETE FROM run_note WHERE run_id = %s AND place = %s", run, place)
    said = f"Note on {name}: “{text[:300]}”" if text else f"Note on {name} taken away"
    ledger.write(db, author, "note", said, run=run, revision=row["current"])
