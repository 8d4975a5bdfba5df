"""The ledger: who changed what, when and why. A row is written in the transaction of the change itself."""

from datetime import datetime

from dosis.run.record import Record
from dosis.store.database import Cursor


class Entry(Record):
    """One row of a run's ledger."""

    at: datetime
    author: str
    revision: int
    action: str
    words: str


def write(
    db: Cursor,
    author: str,
    action: str,
    words: str,
    *,
    study: int | None = None,
    run: int | None = None,
    revision: int | None = None,
) -> None:
    """Append a row."""
    db.run(
        "INSERT INTO ledger (author, study_id, run_id, revision, action, words) VALUES (%s, %s, %s, %s, %s, %s)",
        author, study, run, revision, action, words,
    )  # fmt: skip


def of_run(db: Cursor, run: int, after: int = 0) -> list[Entry]:
    """A run's rows after that revision, oldest first."""
    rows = db.all(
        "SELECT at, author, revision, action, words FROM ledger WHERE run_id = %s AND revision > %s ORDER BY id",
        run, after,
    )  # fmt: skip
    return [Entry.model_validate(row) for row in rows]
