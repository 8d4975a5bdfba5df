"""Runs in lists: filtered, searched and sorted by the database, so that thousands open as quickly as a dozen."""

from collections.abc import Collection
from datetime import date
from typing import Annotated, Literal

from pydantic import Field

from dosis.run.method import Method
from dosis.run.record import Record, Time
from dosis.store.cards import Card
from dosis.store.database import Cursor
from dosis.store.packing import unpack
from dosis.store.stages import Stage
from dosis.store.within import First, patterns, within


class RunCard(Record):
    """A run in a list. author : who changed it last."""

    id: int
    title: str
    description: str
    study_id: int
    study: str
    question: str
    tags: tuple[str, ...]
    author: str
    revision: int
    created_at: Time
    changed_at: Time
    archived: bool
    binned: bool
    stage: Stage
    card: Card


class Listed(Record):
    """Some of the runs that were asked for, and how many there are."""

    total: int
    runs: tuple[RunCard, ...]


class Wanted(Record):
    """Which runs, in which order, and which of these.

    find : words that all stand in its title, study, description, tags, notes or the names of its answers. person : who
    changed it last. method : by which they were worked. stage : of their review. since, until : days on which it was
    changed last. place : where they lie; "anywhere" but in the bin.
    """

    study: int | None = None
    method: int | None = None
    find: Annotated[str, Field(max_length=200)] = ""
    question: Annotated[str, Field(max_length=20)] = ""
    state: Literal["", "pass", "look", "fail"] = ""
    stage: Literal["", "draft", "handed in", "reviewed", "signed"] = ""
    tag: Annotated[str, Field(max_length=40)] = ""
    person: Annotated[str, Field(max_length=200)] = ""
    since: date | None = None
    until: date | None = None
    place: Literal["current", "archived", "bin", "anywhere"] = "current"
    sort: Literal["changed", "created", "title", "state"] = "changed"
    first: First = 0
    count: Annotated[int, Field(ge=1, le=200)] = 60


class Facet(Record):
    """Something runs can be filtered by, and how many have it."""

    text: str
    count: int


class Facets(Record):
    """What there is to filter by, the most frequent first."""

    questions: tuple[Facet, ...]
    tags: tuple[Facet, ...]
    people: tuple[Facet, ...]
    stages: tuple[Facet, ...]
    archived: int
    binned: int


_FROM = (
    "FROM run JOIN study ON study.id = run.study_id"
    " JOIN revision ON revision.run_id = run.id AND revision.number = run.current"
)
_PLACES = {
    "current": "run.binned_at IS NULL AND run.archived_at IS NULL",
    "archived": "run.binned_at IS NULL AND run.archived_at IS NOT NULL",
    "bin": "run.binned_at IS NOT NULL", "anywhere": "run.binned_at IS NULL",
}  # fmt: skip
_ORDERS = {
    "changed": "revision.created_at DESC, run.id DESC", "created": "run.created_at DESC, run.id DESC",
    "title": "run.title, run.id", "state": "FIELD(run.state, 'fail', 'look', 'pass'), revision.created_at DESC, run.id",
}  # fmt: skip
_WORD = (
    "(CONCAT_WS(' ', run.title, study.name, run.description) LIKE %s"
    " OR EXISTS (SELECT 1 FROM answer WHERE answer.run_id = run.id AND answer.name LIKE %s)"
    " OR EXISTS (SELECT 1 FROM run_note WHERE run_note.run_id = run.id AND run_note.text LIKE %s)"
    " OR EXISTS (SELECT 1 FROM run_tag WHERE run_tag.run_id = run.id AND run_tag.tag LIKE %s))"
)


def listed(db: Cursor, wanted: Wanted, studies: Collection[int] | None = None) -> Listed:
    """The runs that are wanted, in these studies where not in all."""
    where, values = _where(wanted, studies)
    total = (db.one(f"SELECT COUNT(*) AS n {_FROM} WHERE {where}", *values) or {"n": 0})["n"]
    # Sorted without their cards, which are large.
    ids = [row["id"] for row in db.all(
        f"SELECT run.id {_FROM} WHERE {where} ORDER BY {_ORDERS[wanted.sort]} LIMIT %s OFFSET %s",
        *values, wanted.count, wanted.first,
    )]  # fmt: skip
    if not ids:
        return Listed(total=total, runs=())
    marks = ", ".join(["%s"] * len(ids))
    rows = db.all(
        "SELECT run.id, run.title, run.description, run.study_id, study.name AS study, run.question,"
        " run.created_at, run.archived_at IS NOT NULL AS archived, run.binned_at IS NOT NULL AS binned, run.stage,"
        " revision.number AS revision, revision.created_at AS changed_at, revision.author, revision.card,"
        " (SELECT GROUP_CONCAT(tag ORDER BY tag SEPARATOR '\n') FROM run_tag WHERE run_id = run.id) AS tags"
        f" {_FROM} WHERE run.id IN ({marks}) ORDER BY FIELD(run.id, {marks})",
        *ids, *ids,
    )  # fmt: skip
    return Listed(total=total, runs=tuple(
        RunCard.model_validate({**row, "card": unpack(Card, row["card"]), "tags": _lines(row["tags"])})
        for row in rows
    ))  # fmt: skip


def _lines(text: str | None) -> tuple[str, ...]:
    return tuple(text.split("\n")) if text else ()


def facets(db: Cursor, study: int | None, studies: Collection[int] | None = None) -> Facets:
    """What the runs of a study, or all, can be filtered by."""
    where, values = _where(Wanted(study=study), studies)

    def of(what: str, also: str = "") -> tuple[Facet, ...]:
        rows = db.all(
            f"SELECT {what} AS text, COUNT(*) AS count {_FROM}{also} WHERE {where} GROUP BY text"
            " ORDER BY count DESC, text LIMIT 100",
            *values,
        )
        return tuple(Facet.model_validate(row) for row in rows if row["text"])

    archived, binned = (Wanted(study=study, place="archived", count=1), Wanted(study=study, place="bin", count=1))
    return Facets(
        questions=of("run.question"), tags=of("run_tag.tag", " JOIN run_tag ON run_tag.run_id = run.id"),
        people=of("revision.author"), stages=of("run.stage"), archived=listed(db, archived, studies).total,
        binned=listed(db, binned, studies).total,
    )  # fmt: skip


def tags_of(db: Cursor, run: int) -> list[str]:
    """The tags of a run."""
    return [row["tag"] for row in db.all("SELECT tag FROM run_tag WHERE run_id = %s ORDER BY tag", run)]


def complete(db: Cursor) -> None:
    """Note the question and the state of runs that were stored before lists could ask for them."""
    for row in db.all(f"SELECT run.id, revision.method, revision.card {_FROM} WHERE run.question = ''"):
        question, state = unpack(Method, row["method"]).question, unpack(Card, row["card"]).state
        db.run("UPDATE run SET question = %s, state = %s WHERE id = %s", question, state, row["id"])


def _where(wanted: Wanted, studies: Collection[int] | None) -> tuple[str, list[object]]:
    allowed, values = within("run.study_id", studies)
    parts = ["run.gone_at IS NULL", _PLACES[wanted.place], allowed]

    def need(part: str, *given: object) -> None:
        parts.append(part)
        values.extend(given)

    if wanted.study is not None:
        need("run.study_id = %s", wanted.study)
    if wanted.method is not None:
        need("run.method_id = %s", wanted.method)
    for column, value in (("run.question", wanted.question), ("run.state", wanted.state), ("run.stage", wanted.stage),
                          ("revision.author", wanted.person)):  # fmt: skip
        if value:
            need(f"{column} = %s", value)
    if wanted.tag:
        need("EXISTS (SELECT 1 FROM run_tag WHERE run_tag.run_id = run.id AND run_tag.tag = %s)", wanted.tag)
    if wanted.since is not None:
        need("revision.created_at >= %s", wanted.since)
    if wanted.until is not None:
        need("revision.created_at < %s + INTERVAL 1 DAY", wanted.until)
    for like in patterns(wanted.find):
        need(_WORD, like, like, like, like)
    return " AND ".join(parts), values
