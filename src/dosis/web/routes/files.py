"""Files too large to be sent at once: sent in pieces, looked at, and removed where no run is made of them."""

from typing import Annotated

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response
from pydantic import Field

from dosis.intake.understanding import Choices, Understanding
from dosis.run.record import Record
from dosis.store import files
from dosis.store.database import Cursor
from dosis.web.access import WORK
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api/files", tags=["files"])


class Look(Record):
    """The corrections made so far; `first` for so many rows only."""

    choices: Choices = Choices()
    first: Annotated[int, Field(ge=1)] | None = None


@router.post("", status_code=201, dependencies=[WORK])
def begin_file(new: files.NewFile, here: Here) -> files.FileState:
    """Announce a file; its pieces follow."""
    with here.database.transaction() as db:
        return _state(db, files.begin(db, new, here.author))


@router.put(
    "/{id}/pieces/{number}",
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {}}, "required": True}},
    dependencies=[WORK],
)
async def put_piece(id: int, number: int, request: Request, here: Here) -> files.FileState:
    """One of its pieces, from 0; they may come in any order, and again."""
    data = await request.body()

    def keep() -> files.FileState:
        here.need_file(id)
        with here.database.transaction() as db:
            files.put(db, id, number, data)
            return _state(db, id)

    return await run_in_threadpool(keep)


@router.get("/{id}", dependencies=[WORK])
def get_file(id: int, here: Here) -> files.FileState:
    """How far it has come, and how far it is read."""
    here.need_file(id)
    with here.database.transaction() as db:
        return _state(db, id)


@router.post("/{id}/understood", response_model=Understanding, dependencies=[WORK])
def understand_file(id: int, look: Look, here: Here) -> Response:
    """What Dosis understands of it by its first rows. Nothing is stored."""
    here.need_file(id)
    found = here.look_at(id, look.choices, look.first)
    return Response(found, media_type="application/json")


@router.post("/{id}/stop", status_code=204, dependencies=[WORK])
def stop_reading(id: int, here: Here) -> None:
    """End the reading of a file that is on its way; the file stays."""
    here.need_file(id)
    with here.database.transaction() as db:
        files.stop(db, id)


@router.delete("/{id}", status_code=204, dependencies=[WORK])
def remove_file(id: int, here: Here) -> None:
    """Remove a file of which no run was made."""
    here.need_file(id)
    with here.database.transaction() as db:
        files.stop(db, id)
        files.remove(db, id)


def _state(db: Cursor, id: int) -> files.FileState:
    found = files.state(db, id)
    if found is None:
        raise NotFound("file")
    return found
