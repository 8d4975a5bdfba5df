"""Batches: filled with files, begun, watched, stopped, tried again; the answers of all their runs in one table."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import Field

from dosis.intake.sheets import SourceFile
from dosis.output.exports.delimited import written
from dosis.people.rights import Right
from dosis.run.record import Record
from dosis.store import batches, methods, studies
from dosis.store.batches import BatchHead, ItemHead, ItemState
from dosis.store.within import First
from dosis.web.access import READ, READ_BATCH, WORK, WORK_ON_BATCH
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import download
from dosis.web.routes.studies import Title

router = APIRouter(prefix="/api/batches", tags=["batches"])


class NewBatch(Record):
    """A batch to make; the same `key` sent again makes nothing new."""

    name: Title
    study: int
    method: int
    version: int | None = None
    key: UUID


class BatchFiles(Record):
    """Files to add, each of which becomes a run."""

    files: Annotated[tuple[SourceFile, ...], Field(min_length=1, max_length=500)]


class BatchView(Record):
    """A batch with some of its files."""

    head: BatchHead
    items: tuple[ItemHead, ...]


@router.post("", status_code=201, dependencies=[WORK])
def make_batch(new: NewBatch, here: Here) -> BatchHead:
    """Make a batch, which is then filled and begun."""
    here.need(Right.WORK, new.study)
    with here.database.transaction() as db:
        head = methods.head(db, new.method)
        if head is None or studies.get(db, new.study) is None:
            raise NotFound("method or study")
        version = new.version or head.shown
        if version not in [each.number for each in head.versions]:
            raise NotFound("version of this method")
        id = batches.create(db, new.name, new.study, (new.method, version), str(new.key), here.author)
        found = batches.head(db, id)
    if found is None:
        raise NotFound("batch")
    return found


@router.get("", dependencies=[READ])
def list_batches(here: Here, method: int | None = None) -> list[BatchHead]:
    """Batches, the newest first."""
    with here.database.transaction() as db:
        return batches.listed(db, method, here.who.rights.where(Right.READ))


@router.post("/{id}/files", status_code=204, dependencies=[WORK_ON_BATCH])
def add_files(id: int, files: BatchFiles, here: Here) -> None:
    """Add files to a batch that has not begun."""
    _found(id, here)
    with here.database.transaction() as db:
        batches.add(db, id, [(each.name, each.data) for each in files.files])


@router.post("/{id}/start", status_code=204, dependencies=[WORK_ON_BATCH])
def start_batch(id: int, here: Here, again: bool = False) -> None:
    """Begin, or go on; `again` : with those that have failed, too."""
    _found(id, here)
    with here.database.transaction() as db:
        batches.start(db, id, here.author, again=again)
    here.batches.wake()


@router.post("/{id}/stop", status_code=204, dependencies=[WORK_ON_BATCH])
def stop_batch(id: int, here: Here) -> None:
    """Stop after what is being worked; what is done stays, and it can go on later."""
    _found(id, here)
    with here.database.transaction() as db:
        batches.stop(db, id, here.author)


@router.get("/{id}", dependencies=[READ_BATCH])
def get_batch(
    id: int, here: Here, first: First = 0, count: Annotated[int, Query(ge=1, le=1000)] = 200,
    state: ItemState | None = None,
) -> BatchView:  # fmt: skip
    """How far a batch is, and what came of its files."""
    head = _found(id, here)
    with here.database.transaction() as db:
        return BatchView(head=head, items=tuple(batches.items(db, id, first, count, state)))


@router.get("/{id}/answers", dependencies=[READ_BATCH])
def get_batch_answers(id: int, here: Here) -> list[batches.AnswerLine]:
    """The answers of all its runs, as they stand now."""
    _found(id, here)
    with here.database.transaction() as db:
        return batches.answers(db, id)


@router.get("/{id}/answers.csv", response_class=Response, dependencies=[READ_BATCH])
def get_batch_answers_csv(id: int, here: Here) -> Response:
    """The same as a file."""
    head = _found(id, here)
    with here.database.transaction() as db:
        found = batches.answers(db, id)
    headings = ["File", "Run", "Name of the run", "Verdict", "Name", "Role", "Bound", "Value", "Lower", "Upper", "Unit"]
    rows = [
        [each.file, each.run_id, each.run, each.verdict, each.name, each.role, each.censor, each.value, each.lower,
         each.upper, each.unit]
        for each in found
    ]  # fmt: skip
    here.exported(f"answers of batch {id} as CSV")
    return download(written([headings, *rows]), f"{head.name} answers.csv", "text/csv")


def _found(id: int, here: Here) -> BatchHead:
    with here.database.transaction() as db:
        head = batches.head(db, id)
    if head is None:
        raise NotFound("batch")
    return head
