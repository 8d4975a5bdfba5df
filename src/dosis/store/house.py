"""Keeping house among runs and studies: names, descriptions, tags, places; put away, thrown away and brought back.

None of it touches readings or revisions. Each action is one transaction, with a ledger row for every run it is about.
"""

from collections.abc import Callable, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints

from dosis.run.changes import ChangeError
from dosis.run.record import Record
from dosis.store import ledger
from dosis.store.database import Cursor, Row
from dosis.store.listing import tags_of
from dosis.store.stages import WHAT_TO_DO

DAYS = 30  # in the bin, before a run is gone for good

Title = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]
Tag = Annotated[str, StringConstraints(min_length=1, max_length=40, strip_whitespace=True, pattern=r"^[^,\n]+$")]
Description = Annotated[str, StringConstraints(max_length=4_000, strip_whitespace=True)]


class Rename(Record):
    """Call it something else."""

    kind: Literal["rename"] = "rename"
    title: Title


class Describe(Record):
    """Say what it is about; empty for nothing."""

    kind: Literal["describe"] = "describe"
    text: Description


class Move(Record):
    """Put it into another study."""

    kind: Literal["move"] = "move"
    study: int


class SetTags(Record):
    """Words to find it by, put on and taken off."""

    kind: Literal["tags"] = "tags"
    add: Annotated[tuple[Tag, ...], Field(max_length=20)] = ()
    remove: Annotated[tuple[Tag, ...], Field(max_length=20)] = ()


class Archive(Record):
    """Put it away, or bring it back: what is away is not listed, and stays as it is."""

    kind: Literal["archive"] = "archive"
    archived: bool


class Bin(Record):
    """Throw it into the bin, or take it out: it is gone for good after 30 days."""

    kind: Literal["bin"] = "bin"
    binned: bool


class Explain(Record):
    """Say why it is not as its method says; empty takes the reason back."""

    kind: Literal["departs"] = "departs"
    text: Description


RunKept = Annotated[Rename | Describe | Move | SetTags | Archive | Bin | Explain, Field(discriminator="kind")]
StudyKept = Annotated[Rename | Describe | Archive, Field(discriminator="kind")]


def keep_runs(db: Cursor, ids: Sequence[int], change: RunKept, author: str) -> int:
    """Do one thing to runs; how many it altered.

    Raises
    ------
    ChangeError : for a run or a study that is not there; nothing is done then.
    """
    if isinstance(change, Bin):
        purge(db)
    altered = 0
    for id in sorted(set(ids)):
        run = db.one("SELECT * FROM run WHERE id = %s AND gone_at IS NULL FOR UPDATE", id)
        if run is None:
            raise ChangeError("One of these runs is not there any more; look at the list again.")
        if run["stage"] != "draft" and not isinstance(change, SetTags | Archive):
            raise ChangeError(f"“{run['title']}” is {run['stage']}, so nothing was done. {WHAT_TO_DO[run['stage']]}")
        words = _kept(db, run, change)
        if words:
            altered += 1
            ledger.write(db, author, change.kind, words, study=run["study_id"], run=id, revision=run["current"])
    return altered


def keep_study(db: Cursor, id: int, change: StudyKept, author: str) -> bool:
    """Do one thing to a study; whether there is one."""
    study = db.one("SELECT * FROM study WHERE id = %s FOR UPDATE", id)
    if study is None:
        return False
    if isinstance(change, Rename):
        db.run("UPDATE study SET name = %s WHERE id = %s", change.title, id)
        words = f"Study “{study['name']}” renamed to “{change.title}”"
    elif isinstance(change, Describe):
        db.run("UPDATE study SET description = %s WHERE id = %s", change.text, id)
        words = f"Study described: {_shortened(change.text)}"
    else:
        when = "UTC_TIMESTAMP(6)" if change.archived else "NULL"
        db.run(f"UPDATE study SET archived_at = {when} WHERE id = %s", id)
        words = "Study put away" if change.archived else "Study brought back"
    ledger.write(db, author, f"{change.kind} study", words, study=id)
    return True


def purge(db: Cursor) -> None:
    """Delete what has been in the bin for long enough; that it was there stays in the ledger."""
    for run in db.all(
        "SELECT id, title, study_id FROM run WHERE gone_at IS NULL"
        " AND binned_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY FOR UPDATE",
        DAYS,
    ):
        for table in ("answer", "measure", "run_note", "run_tag", "revision", "recording_block", "readings"):
            db.run(f"DELETE FROM {table} WHERE run_id = %s", run["id"])
        db.run("UPDATE run SET gone_at = UTC_TIMESTAMP(6) WHERE id = %s", run["id"])
        words = f"Run “{run['title']}” deleted after {DAYS} days in the bin"
        ledger.write(db, "Dosis", "delete run", words, study=run["study_id"], run=run["id"])


def _kept(db: Cursor, run: Row, change: RunKept) -> str:
    """Do it to a run that is held; what was done in words, empty where it was so already."""
    return _DONE_BY[type(change)](db, run, change)


def _rename(db: Cursor, run: Row, change: Rename) -> str:
    if run["title"] == change.title:
        return ""
    db.run("UPDATE run SET title = %s WHERE id = %s", change.title, run["id"])
    return f"Renamed from “{run['title']}” to “{change.title}”"


def _describe(db: Cursor, run: Row, change: Describe) -> str:
    if run["description"] == change.text:
        return ""
    db.run("UPDATE run SET description = %s WHERE id = %s", change.text, run["id"])
    return f"Described: {_shortened(change.text)}"


def _move(db: Cursor, run: Row, change: Move) -> str:
    study = db.one("SELECT name FROM study WHERE id = %s FOR UPDATE", change.study)
    if study is None:
        raise ChangeError("That study is not there any more; choose another.")
    if run["study_id"] == change.study:
        return ""
    before: Row = db.one("SELECT name FROM study WHERE id = %s", run["study_id"]) or {}
    db.run("UPDATE run SET study_id = %s WHERE id = %s", change.study, run["id"])
    return f"Moved from “{before['name']}” to “{study['name']}”"


def _tag(db: Cursor, run: Row, change: SetTags) -> str:
    before = tags_of(db, run["id"])
    for tag in change.remove:
        db.run("DELETE FROM run_tag WHERE run_id = %s AND tag = %s", run["id"], tag)
    for tag in change.add:
        db.run("INSERT IGNORE INTO run_tag (run_id, tag) VALUES (%s, %s)", run["id"], tag)
    after = tags_of(db, run["id"])
    if len(after) > 20:
        raise ChangeError("A run has at most 20 tags; take some off first.")
    said = [f"tagged {', '.join(t for t in after if t not in before)}"] if set(after) - set(before) else []
    said += [f"tag taken off: {', '.join(t for t in before if t not in after)}"] if set(before) - set(after) else []
    return "; ".join(said).capitalize()


def _archive(db: Cursor, run: Row, change: Archive) -> str:
    if (run["archived_at"] is not None) == change.archived:
        return ""
    when = "UTC_TIMESTAMP(6)" if change.archived else "NULL"
    db.run(f"UPDATE run SET archived_at = {when} WHERE id = %s", run["id"])
    return "Put away" if change.archived else "Brought back"


def _bin(db: Cursor, run: Row, change: Bin) -> str:
    if (run["binned_at"] is not None) == change.binned:
        return ""
    when = "UTC_TIMESTAMP(6)" if change.binned else "NULL"
    db.run(f"UPDATE run SET binned_at = {when} WHERE id = %s", run["id"])
    return f"Thrown into the bin; gone for good after {DAYS} days" if change.binned else "Taken out of the bin"


def _explain(db: Cursor, run: Row, change: Explain) -> str:
    if run["departs"] == change.text:
        return ""
    db.run("UPDATE run SET departs = %s WHERE id = %s", change.text, run["id"])
    return f"Departs from its method because: {_shortened(change.text)}"


def _shortened(text: str) -> str:
    first = " ".join(text.split())
    return "nothing" if not first else f"“{first if len(first) <= 200 else first[:199] + '…'}”"


_DONE_BY: dict[type, Callable[[Cursor, Row, Any], str]] = {
    Rename: _rename, Describe: _describe, Move: _move, SetTags: _tag, Archive: _archive, Bin: _bin, Explain: _explain,
}  # fmt: skip
