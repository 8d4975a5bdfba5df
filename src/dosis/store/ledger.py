"""The ledger: who changed what, when and why. A row is written in the transaction of the change itself."""

from collections.abc import Iterator
from datetime import date
from typing import Annotated

from pydantic import Field

from dosis.run.record import Record, Time
from dosis.store.database import Cursor, Row
from dosis.store.within import First, patterns


class Entry(Record):
    """One row of a run's ledger."""

    at: Time
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


class LedgerRow(Record):
    """One row of the whole ledger. number : in the order in which rows were written."""

    number: int
    at: Time
    author: str
    study: str
    run_id: int | None
    run: str
    revision: int | None
    action: str
    words: str


class LedgerPage(Record):
    """Some of the rows that were asked for, the newest first, and how many there are."""

    total: int
    entries: tuple[LedgerRow, ...]


class Wanted(Record):
    """Which rows: of a person, a run, a kind of action, of days (UTC), with words; and which of these."""

    person: Annotated[str, Field(max_length=200)] = ""
    run: int | None = None
    action: Annotated[str, Field(max_length=40)] = ""
    find: Annotated[str, Field(max_length=200)] = ""
    since: date | None = None
    until: date | None = None
    first: First = 0
    count: Annotated[int, Field(ge=1, le=500)] = 100


class LedgerFacets(Record):
    """Who and what there is in the ledger."""

    people: tuple[str, ...]
    actions: tuple[str, ...]


_FOUND = (
    "SELECT ledger.id AS number, ledger.at, ledger.author, COALESCE(study.name, '') AS study, ledger.run_id,"
    " COALESCE(run.title, '') AS run, ledger.revision, ledger.action, ledger.words FROM ledger"
    " LEFT JOIN study ON study.id = ledger.study_id LEFT JOIN run ON run.id = ledger.run_id"
)
AT_ONCE = 2_000


def page(db: Cursor, wanted: Wanted) -> LedgerPage:
    """The rows that are wanted."""
    where, values = _where(wanted)
    total: Row = db.one(f"SELECT COUNT(*) AS n FROM ledger WHERE {where}", *values) or {"n": 0}
    rows = db.all(
        f"{_FOUND} WHERE {where} ORDER BY ledger.id DESC LIMIT %s OFFSET %s", *values, wanted.count, wanted.first
    )
    return LedgerPage(total=total["n"], entries=tuple(LedgerRow.model_validate(row) for row in rows))


def whole(db: Cursor, wanted: Wanted) -> Iterator[LedgerRow]:
    """All rows that are wanted, the oldest first."""
    where, values = _where(wanted)
    last = 0
    while rows := db.all(
        f"{_FOUND} WHERE {where} AND ledger.id > %s ORDER BY ledger.id LIMIT %s", *values, last, AT_ONCE
    ):
        yield from (LedgerRow.model_validate(row) for row in rows)
        last = rows[-1]["number"]


def facets(db: Cursor) -> LedgerFacets:
    """By whom and what the ledger can be filtered."""
    people, actions = ([row["text"] for row in db.all(f"SELECT DISTINCT {column} AS text FROM ledger ORDER BY text")]
                       for column in ("author", "action"))  # fmt: skip
    return LedgerFacets(people=tuple(people), actions=tuple(actions))


def _where(wanted: Wanted) -> tuple[str, list[object]]:
    parts, values = ["TRUE"], list[object]()
    for part, value in (
        ("ledger.author = %s", wanted.person), ("ledger.run_id = %s", wanted.run),
        ("ledger.action = %s", wanted.action),
        ("ledger.at >= %s", wanted.since), ("ledger.at < %s + INTERVAL 1 DAY", wanted.until),
    ):  # fmt: skip
        if value not in ("", None):
            parts.append(part)
            values.append(value)
    for like in patterns(wanted.find):
        parts.append("ledger.words LIKE %s")
        values.append(like)
    return " AND ".join(parts), values
