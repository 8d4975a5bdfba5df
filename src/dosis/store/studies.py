"""Studies: folders of runs."""

from datetime import datetime

from dosis.run.record import Record
from dosis.store import ledger
from dosis.store.database import Cursor


class Study(Record):
    """A study and how many runs it holds."""

    id: int
    name: str
    runs: int
    created_at: datetime


_SELECT = "SELECT id, name, created_at, (SELECT COUNT(*) FROM run WHERE run.study_id = study.id) AS runs FROM study"


def list_all(db: Cursor) -> list[Study]:
    """Every study, oldest first."""
    return [Study.model_validate(row) for row in db.all(f"{_SELECT} ORDER BY id")]


def get(db: Cursor, id: int) -> Study | None:
    """One study, or None."""
    row = db.one(f"{_SELECT} WHERE id = %s", id)
    return Study.model_validate(row) if row else None


def create(db: Cursor, name: str, author: str) -> int:
    """A new study; returns its id."""
    id = db.run("INSERT INTO study (name) VALUES (%s)", name)
    ledger.write(db, author, "create study", f"Study “{name}” created", study=id)
    return id
