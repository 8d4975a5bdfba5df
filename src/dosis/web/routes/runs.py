"""Runs: opening one from a pasted table, changing it, undoing, and what leaves it."""

from collections.abc import Iterable
from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import Response, StreamingResponse
from pydantic import Field

from dosis.intake.methods.apply import apply
from dosis.intake.text import IntakeError
from dosis.intake.understanding import Choices
from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.people.rights import Right
from dosis.run.carrying_over import anew_words, carried_over
from dosis.run.changes import Change
from dosis.run.evaluate import look_at_curve
from dosis.run.finite import finite
from dosis.run.opening import opened
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.registry import QuestionId
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.store import history, revisions, runs, studies
from dosis.store.database import Cursor
from dosis.store.files import StoredFile
from dosis.store.packing import pack, unpack_text
from dosis.store.recordings import packed
from dosis.store.worked import evaluated, evaluated_whole, handed_on
from dosis.web.access import READ_RUN, WORK, WORK_ON_RUN
from dosis.web.brought import Brought, brought_of, source_of, understood
from dosis.web.by_method import MethodChosen, chosen_method, of_run
from dosis.web.context import Context, Here
from dosis.web.problems import NotFound
from dosis.web.routes.studies import Title

router = APIRouter(prefix="/api/runs", tags=["runs"])


class OpenRun(Brought):
    """A run to make. The same `key` sent again makes nothing new. method : by which it is laid out and worked."""

    study: int
    title: Title
    key: UUID
    choices: Choices = Choices()
    question: QuestionId = "concentration"
    method: MethodChosen | None = None


class RunView(Record):
    """A run as the Work view opens it."""

    run: runs.RunHead
    readings: Readings
    revision: revisions.Revision


class Save(Record):
    """Changes to the revision `based_on`; the same `key` sent again changes nothing more."""

    based_on: int
    key: UUID
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=100)]


class Move(Record):
    """An undo or a redo from the revision `based_on`."""

    based_on: int
    key: UUID


class BroughtIn(Brought):
    """What a run was made from, with the corrections that were made to what was understood."""

    choices: Choices


class Again(Record):
    """Other corrections to what a run was made from."""

    based_on: int
    key: UUID
    choices: Choices


class Instead(Brought):
    """Other readings of the same layout, to be put in the place of a run's."""

    based_on: int
    key: UUID
    choices: Choices = Choices()


class HandOn(Record):
    """What is handed on to a new run: what was read at a place of the axis, or of what is followed where it is open."""

    key: UUID
    place: float | None = None


@router.post("", status_code=201, response_model=RunView, dependencies=[WORK])
def open_run(new: OpenRun, here: Here) -> Response:
    """Understand, evaluate and store a pasted table or files as a run."""
    return _open(new, here)


@router.post("/{id}/handed", status_code=201, response_model=RunView, dependencies=[WORK_ON_RUN])
def hand_on(id: int, asked: HandOn, here: Here) -> Response:
    """A run of what was read in this one, such as a standard curve of scans at one wavelength."""
    here.readiness.wait()
    with here.database.transaction() as db:
        head, state = head_of(db, id), revisions.packed_state(db, id)
    if state is None:
        raise NotFound("run")
    found = here.do(handed_on, *state, asked.place)
    if found is None:
        raise IntakeError("There is nothing to hand on: nothing was read at that place.")
    title = f"{head.title}, {found.title}"[:200]
    new = OpenRun(study=head.study_id, title=title, key=asked.key, text=found.text, question=found.question)
    return _open(new, here, from_run=id)


def _open(new: OpenRun, here: Context, from_run: int | None = None) -> Response:
    here.need(Right.WORK, new.study)
    here.need_file(new.file)
    here.readiness.wait()
    kept = chosen_method(here, new.method)
    choices = kept.body.choices(new.choices) if kept else new.choices
    found = understood(here, new, choices, kept.body.question if kept else new.question)
    source_name, source = source_of(new)
    noted = ""
    if kept:
        applied = apply(kept.body, found.readings, found.layout)
        if applied.stopped:
            raise IntakeError(f"These readings do not fit the method “{kept.body.name}”. {applied.stopped}")
        layout, method, noted = applied.layout, applied.method, kept.words(applied.remarks)
    else:
        layout, method = opened(found.readings, found.layout, new.question)
    made = here.do(evaluated, found.cells, pack(layout), pack(method))
    with here.database.transaction() as db:
        if studies.get(db, new.study) is None:
            raise NotFound("study")
        id = runs.create(
            db,
            runs.NewRun(
                study=new.study, title=new.title, key=str(new.key), source_name=source_name, source=source,
                choices=choices, readings=found.readings, worked=made, cells=found.cells, from_run=from_run,
                file=new.file, method=kept.used if kept else None, noted=noted,
            ),
            here.author,
        )  # fmt: skip
        return view_of(db, id, here, status=201)


@router.get("/{id}", response_model=RunView, dependencies=[READ_RUN])
def get_run(id: int, here: Here) -> Response:
    """A run in its current revision."""
    with here.database.transaction() as db:
        return view_of(db, id, here)


@router.get("/{id}/now", dependencies=[READ_RUN])
def get_now(id: int, here: Here) -> runs.Now:
    """Where a run stands this moment, for windows that are open on it."""
    with here.database.transaction() as db:
        found = runs.now(db, id)
    if found is None:
        raise NotFound("run")
    return found


@router.post("/{id}/changes", response_model=revisions.Revision, dependencies=[WORK_ON_RUN])
def change_run(id: int, save: Save, here: Here) -> Response:
    """Make changes as one new revision; 409 when the run has moved on."""
    here.readiness.wait()
    with here.database.transaction() as db:
        there(db, id)
        made = history.change(db, id, save.based_on, str(save.key), save.changes, here.author, here.do)
    return sent(made)


@router.post("/{id}/undo", response_model=revisions.Revision, dependencies=[WORK_ON_RUN])
def undo(id: int, move: Move, here: Here) -> Response:
    """A new revision equal to the state before the last change."""
    with here.database.transaction() as db:
        there(db, id)
        made = history.undo(db, id, move.based_on, str(move.key), here.author, here.do)
    return sent(made)


@router.post("/{id}/redo", response_model=revisions.Revision, dependencies=[WORK_ON_RUN])
def redo(id: int, move: Move, here: Here) -> Response:
    """A new revision equal to the state that undo left."""
    with here.database.transaction() as db:
        there(db, id)
        made = history.redo(db, id, move.based_on, str(move.key), here.author, here.do)
    return sent(made)


@router.get("/{id}/revisions/{number}/working/{group}", dependencies=[READ_RUN])
def get_working(id: int, number: int, group: str, here: Here) -> list[WorkingLine]:
    """The full calculation behind one group's numbers, or behind a number of a curve."""
    with here.database.transaction() as db:
        working = revisions.working(db, id, number, group, here.do)
    if working is None:
        raise NotFound("working")
    return list(working)


@router.get("/{id}/revisions/{number}/curve", dependencies=[READ_RUN])
def get_curve(id: int, number: int, key: Annotated[str, Query(max_length=200)], here: Here) -> Curve:
    """One curve of a wall with everything that is left out while it is one of many."""
    here.readiness.wait()
    with here.database.transaction() as db:
        state = revisions.state(db, id, number)
        readings = runs.readings(db, id, number) if state else None
    found = look_at_curve(readings, state.layout, state.method, key) if state and readings else None
    if found is None:
        raise NotFound("curve")
    return finite(found[0])


@router.get("/{id}/answers.{form}", response_class=Response, dependencies=[READ_RUN])
def get_answers(id: int, form: str, here: Here) -> Response:
    """The current answers as a file of that form, at full precision."""
    export = EXPORTS.get(form)
    if export is None:
        raise NotFound("kind of file")
    with here.database.transaction() as db:
        head, revision, readings = head_of(db, id), revisions.get(db, id, do=here.do), runs.readings(db, id)
    if revision is None:
        raise NotFound("run")
    outcome = revision.outcome
    if export.whole and any(curve.brief for curve in outcome.curves):
        outcome = here.do(evaluated_whole, packed(readings), pack(revision.layout), pack(revision.method))
    body = export.make(Subject(head.title, readings, revision.layout, outcome))
    here.exported(f"answers as {form.upper()}", run=id)
    return download(body, f"{head.title}.{form}", export.media)


@router.get("/{id}/source", response_class=Response, dependencies=[READ_RUN])
def get_source(id: int, here: Here) -> Response:
    """What the run was made from, as it came: the text, the file, or several files in one archive."""
    with here.database.transaction() as db:
        head, source, file = head_of(db, id), runs.source(db, id), runs.file_of(db, id)
    here.exported("what it was made from", run=id)
    if file is not None:
        return streamed(StoredFile(here.database, file).pieces(), head.source_name, "application/octet-stream")
    if "." in head.source_name:
        return download(source or b"", head.source_name, "application/octet-stream")
    return download(source or b"", f"{head.title}.txt", "text/plain")


@router.get("/{id}/intake", dependencies=[READ_RUN])
def get_intake(id: int, here: Here) -> BroughtIn:
    """What a run was made from and how it was understood, to be corrected."""
    with here.database.transaction() as db:
        head, source, file, choices = head_of(db, id), runs.source(db, id), runs.file_of(db, id), runs.choices(db, id)
        state = revisions.state(db, id)
    if choices is None or state is None:
        raise NotFound("run")
    choices = choices.model_copy(update={"question": state.method.question})
    return BroughtIn(**dict(brought_of(head.source_name, source or b"", file)), choices=choices)


@router.post("/{id}/intake", response_model=RunView, dependencies=[WORK_ON_RUN])
def understand_anew(id: int, again: Again, here: Here) -> Response:
    """Understand what a run was made from with other choices, as a new revision; exclusions that still fit stay."""
    here.readiness.wait()
    with here.database.transaction() as db:
        head, source, before = head_of(db, id), runs.source(db, id), runs.readings(db, id)
        file, current = runs.file_of(db, id), revisions.state(db, id)
    if current is None:
        raise NotFound("run")
    found = understood(here, brought_of(head.source_name, source or b"", file), again.choices)
    readings, question = found.readings, found.question
    layout, method = opened(readings, found.layout, question)
    kept = carried_over(before, current.layout, readings, layout)
    if question == current.method.question:
        method = current.method
    words = anew_words(current.layout, kept, question != current.method.question)
    made = here.do(evaluated, found.cells, pack(kept), pack(method), words)
    anew = history.Anew(choices=again.choices, cells=found.cells, worked=made)
    with here.database.transaction() as db:
        history.understand_anew(db, id, again.based_on, str(again.key), anew, here.author, here.do)
        return view_of(db, id, here)


@router.post("/{id}/readings", response_model=RunView, dependencies=[WORK_ON_RUN])
def replace_readings(id: int, new: Instead, here: Here) -> Response:
    """Other readings in the place of a run's, laid out and worked as it is; the old ones stay with their revisions."""
    here.need_file(new.file)
    here.readiness.wait()
    with here.database.transaction() as db:
        there(db, id)
        kept, before = of_run(db, id, samples=True), revisions.state(db, id)
    choices = kept.choices(new.choices)
    found = understood(here, new, choices, kept.question)
    applied = apply(kept, found.readings, found.layout)
    if applied.stopped:
        raise IntakeError(f"These readings cannot take the place of the run's. {applied.stopped}")
    name, source = source_of(new)
    words = "; ".join([f"Readings replaced ({name})", *(each.text for each in applied.remarks)])
    lost = len(before.layout.exclusions) if before else 0
    words += f"; {lost} exclusions were of the old readings" if lost else ""
    made = here.do(evaluated, found.cells, pack(applied.layout), pack(applied.method), words)
    given = runs.NewSource(name=name, source=source, file=new.file)
    anew = history.Anew(choices=choices, cells=found.cells, worked=made, source=given)
    with here.database.transaction() as db:
        history.understand_anew(db, id, new.based_on, str(new.key), anew, here.author, here.do)
        return view_of(db, id, here)


def download(body: bytes, name: str, kind: str) -> Response:
    """A file to be saved under that name."""
    return Response(body, media_type=_media(kind), headers=_saved_as(name))


def streamed(parts: Iterable[bytes], name: str, kind: str) -> Response:
    """The same of one that is made or read while it is sent."""
    return StreamingResponse(parts, media_type=_media(kind), headers=_saved_as(name))


def _media(kind: str) -> str:
    return f"{kind}; charset=utf-8" if kind.startswith("text/") else kind


def _saved_as(name: str) -> dict[str, str]:
    plain = "".join(c if c.isascii() and (c.isalnum() or c in " .-_") else "_" for c in name)
    return {
        "Content-Disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}",
        "X-Content-Type-Options": "nosniff",
    }


def there(db: Cursor, id: int) -> None:
    """Answer as such what is not there; an edit needs no more of its run's head than that."""
    if not runs.exists(db, id):
        raise NotFound("run")


def head_of(db: Cursor, id: int) -> runs.RunHead:
    """A run's head; what is not there is answered as such."""
    head = runs.head(db, id)
    if head is None:
        raise NotFound("run")
    return head


def _as_seen(db: Cursor, head: runs.RunHead, here: Context) -> runs.RunHead:
    """A run's head without the runs it names that stand in studies which who asks may not read."""
    if here.who.rights.may(Right.READ):
        return head

    def seen(found: runs.Found | None) -> bool:
        return found is not None and here.who.rights.may(Right.READ, runs.study_of(db, found.id))

    return head.model_copy(update={
        "came_from": head.came_from if seen(head.came_from) else None,
        "copied_from": head.copied_from if seen(head.copied_from) else None,
        "led_to": tuple(filter(seen, head.led_to)),
    })  # fmt: skip


def sent(made: revisions.Kept) -> Response:
    """A revision as it is stored: reading the outcome of a large run only to write it again takes seconds."""
    return Response(made.json, media_type="application/json")


def view_of(db: Cursor, id: int, here: Context, *, status: int = 200) -> Response:
    """A run as the Work view opens it."""
    head, kept = _as_seen(db, head_of(db, id), here), revisions.kept(db, id, do=here.do)
    if kept is None:
        raise NotFound("run")
    readings = unpack_text(Readings, revisions.head_of(db, id, kept.head.readings))
    body = b'{"run":%s,"readings":%s,"revision":%s}' % (head.model_dump_json().encode(), readings, kept.json)
    return Response(body, status_code=status, media_type="application/json")
