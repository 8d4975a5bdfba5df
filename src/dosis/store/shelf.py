"""The shelf: layouts, look-up tables, styles of figures and calibrations kept by name, for every study."""

from dataclasses import dataclass
from typing import Generic, TypeVar

from dosis.run.kept_calibration import KeptCalibration
from dosis.run.look import Style
from dosis.run.record import Record, Time
from dosis.run.saved_layout import SavedLayout
from dosis.run.steps.signal import Lookup
from dosis.store import ledger
from dosis.store.database import Cursor
from dosis.store.packing import pack, unpack

Body = TypeVar("Body", SavedLayout, Lookup, Style, KeptCalibration)


class Kept(Record, Generic[Body]):
    """One thing on the shelf."""

    id: int
    author: str
    created_at: Time
    body: Body


@dataclass(frozen=True)
class Shelf(Generic[Body]):
    """Things of one kind; `table` is a name of ours, never a person's."""

    table: str
    kind: type[Body]
    word: str

    def all(self, db: Cursor) -> list[Kept[Body]]:
        """Everything on it, by name."""
        rows = db.all(f"SELECT id, author, created_at, body FROM {self.table} ORDER BY name")
        return [
            Kept[Body](
                id=row["id"], author=row["author"], created_at=row["created_at"], body=unpack(self.kind, row["body"])
            )
            for row in rows
        ]

    def keep(self, db: Cursor, body: Body, author: str) -> None:
        """Put something on it; what had the name before is replaced, and kept, and the ledger says so."""
        self._keep_before(db, "name", body.name, author)
        # In one statement: of two who save a new name at once the later one waits, and replaces it.
        before = db.put(
            f"INSERT INTO {self.table} (name, body, author) VALUES (%s, %s, %s)"
            " ON DUPLICATE KEY UPDATE body = VALUES(body), author = VALUES(author)",
            body.name, pack(body), author,
        )  # fmt: skip
        done = "replaced" if before else "saved"
        ledger.write(db, author, f"save {self.word}", f"{self.word.capitalize()} “{body.name}” {done}")

    def remove(self, db: Cursor, id: int, author: str) -> bool:
        """Take something off it; whether it was there."""
        row = db.one(f"SELECT name FROM {self.table} WHERE id = %s FOR UPDATE", id)
        if row is None:
            return False
        self._keep_before(db, "id", id, author)
        db.run(f"DELETE FROM {self.table} WHERE id = %s", id)
        ledger.write(db, author, f"remove {self.word}", f"{self.word.capitalize()} “{row['name']}” removed")
        return True

    def _keep_before(self, db: Cursor, column: str, value: object, author: str) -> None:
        db.run(
            "INSERT INTO shelf_before (kind, name, body, author, ended_by)"
            f" SELECT %s, name, body, author, %s FROM {self.table} WHERE {column} = %s",
            self.table, author, value,
        )  # fmt: skip


LAYOUTS = Shelf("saved_layout", SavedLayout, "layout")
LOOKUPS = Shelf("lookup_table", Lookup, "look-up table")
CALIBRATIONS = Shelf("kept_calibration", KeptCalibration, "calibration")
STYLES = Shelf("saved_style", Style, "style")
