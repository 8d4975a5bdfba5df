"""What a person has chosen to hold the numbers of a method against."""

from dosis.run.record import Record
from dosis.run.trends import Base
from dosis.store import ledger
from dosis.store.database import Cursor


class BaseFor(Record):
    """What one number is held against; `base` is None to go back to what Dosis takes by itself."""

    key: str
    base: Base | None = None


def bases_of(db: Cursor, method: int) -> dict[str, Base]:
    """What was chosen for its numbers."""
    rows = db.all("SELECT measure_key, body FROM chart_base WHERE method_id = %s", method)
    return {row["measure_key"]: Base.model_validate_json(row["body"]) for row in rows}


def set_base(db: Cursor, method: int, name: str, wanted: BaseFor, author: str) -> None:
    """Choose what a number is held against from now on."""
    if wanted.base is None:
        db.run("DELETE FROM chart_base WHERE method_id = %s AND measure_key = %s", method, wanted.key)
        said = "as Dosis takes them"
    else:
        db.put(
            "INSERT INTO chart_base (method_id, measure_key, body, author) VALUES (%s, %s, %s, %s)"
            " ON DUPLICATE KEY UPDATE body = VALUES(body), author = VALUES(author), set_at = UTC_TIMESTAMP(6)",
            method, wanted.key, wanted.base.model_dump_json(), author,
        )  # fmt: skip
        base = wanted.base
        said = f"from {len(base.runs)} chosen runs" if base.runs else f"center {base.center:g}, SD {base.sd:g}"
    ledger.write(db, author, "chart limits", f"Limits of “{wanted.key}” of the method “{name}” {said}")
