"""Notes on the samples and readings of a run."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field, StringConstraints

from dosis.run.changes import ChangeError
from dosis.run.record import Record
from dosis.store import notes, revisions
from dosis.store.notes import Note
from dosis.web.access import READ_RUN, WORK_ON_RUN
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api/runs/{id}/notes", tags=["notes"])

READING = "reading:"


class KeepNote(Record):
    """What is written beside a group of the layout, or a reading; empty takes it away."""

    place: Annotated[str, Field(min_length=1, max_length=60)]
    text: Annotated[str, StringConstraints(max_length=4_000, strip_whitespace=True)]


@router.get("", dependencies=[READ_RUN])
def list_notes(id: int, here: Here) -> list[Note]:
    """The notes of a run."""
    with here.database.transaction() as db:
        return notes.listed(db, id)


@router.put("", status_code=204, dependencies=[WORK_ON_RUN])
def keep_note(id: int, note: KeepNote, here: Here) -> None:
    """Write a note, or take it away."""
    with here.database.transaction() as db:
        state = revisions.state(db, id)
        if state is None:
            raise NotFound("run")
        names = {group.id: group.name for group in state.layout.groups}
        if note.place.startswith(READING):
            number = note.place.removeprefix(READING)
            if not number.isdigit() or int(number) not in state.layout.members:
                raise ChangeError("This run has no such reading to write a note on.")
            name = f"reading {number}"
        elif note.place in names:
            name = names[note.place]
        else:
            raise ChangeError("This run has no such sample to write a note on.")
        notes.keep(db, id, note.place, name, note.text, here.author)
