"""Studies: folders of runs."""

from collections.abc import Collection

from dosis.run.look import FigureLook, Style, styled
from dosis.run.record import Record, Time
from dosis.store import ledger
from dosis.store.database import Cursor
from dosis.store.packing import unpack
from dosis.store.within import within


class Study(Record):
    """A study and how many runs it holds. style_id : of the style in which its figures open."""

    id: int
    name: str
    runs: int
    created_at: Time
    style_id: int | None = None
    description: str = ""
    archived: bool = False


_SELECT = (
    "SELECT id, name, created_at, style_id, description, archived_at IS NOT NULL AS archived, (SELECT COUNT(*) FROM run"
    " WHERE run.study_id = study.id AND run.archived_at IS NULL AND run.binned_at IS NULL AND run.gone_at IS NULL)"
    " AS runs FROM study"
)


def list_all(db: Cursor, studies: Collection[int] | None = None) -> list[Study]:
    """Every study, or these, oldest first."""
    where, values = within("id", studies)
    return [Study.model_validate(row) for row in db.all(f"{_SELECT} WHERE {where} ORDER BY id", *values)]


def get(db: Cursor, id: int) -> Study | None:
    """One study, or None."""
    row = db.one(f"{_SELECT} WHERE id = %s", id)
    return Study.model_validate(row) if row else None


def create(db: Cursor, name: str, author: str) -> int:
    """A new study; returns its id."""
    id = db.run("INSERT INTO study (name) VALUES (%s)", name)
    ledger.write(db, author, "create study", f"Study “{name}” created", study=id)
    return id


def open_in_style(db: Cursor, id: int, style: int | None, author: str) -> bool:
    """Have a study's figures open in a saved style, or in none; whether there are such a study and style."""
    name = "none"
    if style is not None:
        row = db.one("SELECT name FROM saved_style WHERE id = %s FOR UPDATE", style)
        if row is None:
            return False
        name = f"“{row['name']}”"
    if db.one("SELECT id FROM study WHERE id = %s FOR UPDATE", id) is None:
        return False
    db.run("UPDATE study SET style_id = %s WHERE id = %s", style, id)
    ledger.write(db, author, "style of study", f"Figures of the study open in style {name}", study=id)
    return True


def opening_look(db: Cursor, run: int) -> FigureLook:
    """The look with which a run's figure opens: in the style of its study, where it has one."""
    row = db.one(
        "SELECT saved_style.body FROM run JOIN study ON study.id = run.study_id"
        " JOIN saved_style ON saved_style.id = study.style_id WHERE run.id = %s",
        run,
    )
    return styled(FigureLook(), unpack(Style, row["body"])) if row else FigureLook()
