"""Methods: kept in versions that are appended, of which one at most is in use; which runs were worked by which."""

from collections.abc import Sequence
from typing import Literal

from dosis.intake.methods.kept import KeptMethod
from dosis.intake.methods.shelf import SHIPPED
from dosis.run.changes import ChangeError
from dosis.run.record import Record, Time
from dosis.store import ledger
from dosis.store.database import Cursor, Row
from dosis.store.packing import pack, unpack

State = Literal["draft", "use", "retired"]
STATES: dict[State, str] = {"draft": "a draft", "use": "in use", "retired": "retired"}
DOSIS = "Dosis"  # who put the shipped ones there


class Version(Record):
    """A version of a method. words : what is new in it."""

    number: int
    state: State
    words: str
    author: str
    created_at: Time


class MethodHead(Record):
    """A method in a list. use : the version in use, None where none is. runs : how many were worked by it."""

    id: int
    name: str
    question: str
    about: str
    shipped: bool
    versions: tuple[Version, ...]
    use: int | None
    runs: int

    @property
    def shown(self) -> int:
        """The version that is meant where none is named: the one in use, or the newest."""
        return self.use or self.versions[-1].number


class MethodUsed(Record):
    """The method of a run. newest : the version in use now, where that is another. sections : of its report."""

    id: int
    name: str
    version: int
    state: State
    newest: int | None = None
    sections: tuple[str, ...] = ()


def listed(db: Cursor, id: int | None = None) -> list[MethodHead]:
    """Every method, by name; or the one of that id."""
    where = "" if id is None else " WHERE method.id = %s"
    rows = db.all(
        "SELECT method.id, method.name, v.number, v.state, v.words, v.author, v.created_at,"
        " (SELECT COUNT(*) FROM run WHERE run.method_id = method.id AND run.binned_at IS NULL AND run.gone_at IS NULL)"
        f" AS runs FROM method JOIN method_version AS v ON v.method_id = method.id{where}"
        " ORDER BY method.name, v.number",
        *(() if id is None else (id,)),
    )
    found: dict[int, list[Row]] = {}
    for row in rows:
        found.setdefault(row["id"], []).append(row)
    return [_head(db, rows) for rows in found.values()]


def head(db: Cursor, id: int) -> MethodHead | None:
    """One method."""
    return next(iter(listed(db, id)), None)


def _head(db: Cursor, rows: Sequence[Row]) -> MethodHead:
    versions = tuple(Version.model_validate({k: row[k] for k in Version.model_fields}) for row in rows)
    use = next((each.number for each in versions if each.state == "use"), None)
    body = version(db, rows[0]["id"], use or versions[-1].number)
    if body is None:
        raise LookupError(f"Method {rows[0]['id']} has no such version.")
    return MethodHead(
        id=rows[0]["id"], name=rows[0]["name"], question=body.question, about=body.about,
        shipped=rows[0]["author"] == DOSIS, versions=versions, use=use, runs=rows[0]["runs"],
    )  # fmt: skip


def version(db: Cursor, id: int, number: int) -> KeptMethod | None:
    """A version as it was kept; None where there is none."""
    row = db.one("SELECT body FROM method_version WHERE method_id = %s AND number = %s", id, number)
    return unpack(KeptMethod, row["body"]) if row else None


def find(db: Cursor, id: int, number: int | None = None) -> tuple[MethodHead, int, KeptMethod] | None:
    """A method in a version, by default the one that is meant; None where there is no such method or version."""
    found = head(db, id)
    if found is None:
        return None
    shown = number or found.shown
    body = version(db, id, shown)
    return None if body is None else (found, shown, body)


def in_use(db: Cursor) -> list[tuple[int, int, KeptMethod]]:
    """Every method that is in use: its id, its version and what it is."""
    rows = db.all("SELECT method_id, number, body FROM method_version WHERE state = 'use' ORDER BY method_id")
    return [(row["method_id"], row["number"], unpack(KeptMethod, row["body"])) for row in rows]


def keep(db: Cursor, kept: KeptMethod, words: str, author: str, *, use: bool) -> tuple[int, int]:
    """Keep a method; one that has the name gets a new version. Returns its id and the version.

    use : whether it is in use from now on, by which the version that was is retired; else it is a draft.

    Raises
    ------
    ChangeError : where the newest version says the same already.
    """
    id = db.run_once("INSERT INTO method (name) VALUES (%s)", kept.name)
    if id is None:
        id = int((db.one("SELECT id FROM method WHERE name = %s FOR UPDATE", kept.name) or {})["id"])
    last = db.one("SELECT number FROM method_version WHERE method_id = %s ORDER BY number DESC LIMIT 1 FOR UPDATE", id)
    if last is not None and version(db, id, last["number"]) == kept:
        raise ChangeError(f"Version {last['number']} of “{kept.name}” says the same already; nothing was kept.")
    number = 1 if last is None else last["number"] + 1
    db.run(
        "INSERT INTO method_version (method_id, number, state, body, words, author)"
        " VALUES (%s, %s, 'draft', %s, %s, %s)",
        id, number, pack(kept), words, author,
    )  # fmt: skip
    told = f"Method “{kept.name}”, version {number} kept{f': {words}' if words else ''}"
    ledger.write(db, author, "keep method", told)
    if use:
        set_state(db, id, number, "use", author)
    return id, number


def same(db: Cursor, kept: KeptMethod) -> tuple[int, int] | None:
    """The id and version that says the same under the same name; None where there is none."""
    rows = db.all(
        "SELECT v.method_id, v.number, v.body FROM method JOIN method_version AS v ON v.method_id = method.id"
        " WHERE method.name = %s ORDER BY v.number DESC",
        kept.name,
    )
    return next(((row["method_id"], row["number"]) for row in rows if unpack(KeptMethod, row["body"]) == kept), None)


def set_state(db: Cursor, id: int, number: int, state: State, author: str) -> bool:
    """Take a version in use or retire it; whether there is such a version. The one that was in use is retired."""
    row = db.one("SELECT state FROM method_version WHERE method_id = %s AND number = %s FOR UPDATE", id, number)
    name = (db.one("SELECT name FROM method WHERE id = %s", id) or {"name": ""})["name"]
    if row is None:
        return False
    if row["state"] == state:
        return True
    if state == "draft":
        raise ChangeError("A version that has been in use or retired is not a draft any more; keep a new version.")
    if state == "use":
        db.run("UPDATE method_version SET state = 'retired' WHERE method_id = %s AND state = 'use'", id)
    db.run("UPDATE method_version SET state = %s WHERE method_id = %s AND number = %s", state, id, number)
    ledger.write(db, author, "method state", f"Method “{name}”, version {number} is {STATES[state]}")
    return True


def used(db: Cursor, run: int) -> MethodUsed | None:
    """The method a run was worked by."""
    row = db.one(
        "SELECT run.method_id AS id, method.name, run.method_version AS version, v.state, v.body,"
        " (SELECT number FROM method_version WHERE method_id = run.method_id AND state = 'use') AS newest"
        " FROM run JOIN method ON method.id = run.method_id"
        " JOIN method_version AS v ON v.method_id = run.method_id AND v.number = run.method_version WHERE run.id = %s",
        run,
    )
    if row is None:
        return None
    newest = None if row["newest"] == row["version"] else row["newest"]
    sections = unpack(KeptMethod, row.pop("body")).sections
    return MethodUsed.model_validate({**row, "newest": newest, "sections": sections})


def set_used(db: Cursor, run: int, id: int, number: int) -> None:
    """Note by which version a run was worked."""
    db.run("UPDATE run SET method_id = %s, method_version = %s WHERE id = %s", id, number, run)


def ship(db: Cursor) -> None:
    """Put the methods that ship with Dosis there, and new versions of those that have changed since.

    One that a person has given the name of is left alone.
    """
    for kept in SHIPPED:
        row = db.one(
            "SELECT method.id, v.number, v.body, v.author FROM method"
            " JOIN method_version AS v ON v.method_id = method.id WHERE method.name = %s"
            " ORDER BY v.number DESC LIMIT 1",
            kept.name,
        )
        if row is None or (row["author"] == DOSIS and unpack(KeptMethod, row["body"]) != kept):
            keep(db, kept, "as it ships with Dosis", DOSIS, use=True)
