"""Runs: opening one from a pasted table, changing it, undoing, and what leaves it."""

import io
import re
import zipfile
from typing import Annotated, Literal, TypedDict
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import Field

from dosis.intake.sheets import SourceFile
from dosis.intake.text import IntakeError
from dosis.intake.understanding import Choices, Intake
from dosis.output.exports.export import Subject
from dosis.output.exports.registry import EXPORTS
from dosis.run.carrying_over import anew_words, carried_over
from dosis.run.changes import Change
from dosis.run.evaluate import look_at_curve
from dosis.run.finite import finite
from dosis.run.layout import Layout
from dosis.run.opening import opened
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.store import history, revisions, runs, studies
from dosis.store.database import Cursor
from dosis.store.packing import pack, unpack_text
from dosis.store.recordings import packed
from dosis.store.worked import evaluated, evaluated_whole, handed_on
from dosis.web.context import Context, Here
from dosis.web.problems import NotFound
from dosis.web.routes.studies import Title

router = APIRouter(prefix="/api/runs", tags=["runs"])


class OpenRun(Record):
    """A run to make. The same `key` sent again makes nothing new."""

    study: int
    title: Title
    key: UUID
    text: str = ""
    files: tuple[SourceFile, ...] = ()
    origin: Literal["pasted table", "typed table", "instrument"] = "pasted table"
    choices: Choices = Choices()
    question: QuestionId = "concentration"


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


Origin = Literal["pasted table", "typed table", "instrument"]
ORIGINS: tuple[Origin, ...] = ("pasted table", "typed table", "instrument")


class Brought(TypedDict):
    """What was brought in."""

    text: str
    files: tuple[SourceFile, ...]
    origin: Origin


class BroughtIn(Record):
    """What a run was made from, with the corrections that were made to what was understood."""

    text: str
    files: tuple[SourceFile, ...]
    origin: Origin
    choices: Choices


class Again(Record):
    """Other corrections to what a run was made from."""

    based_on: int
    key: UUID
    choices: Choices


class HandOn(Record):
    """What is handed on to a new run: what was read at a place of the axis, or of what is followed where it is open."""

    key: UUID
    place: float | None = None


@router.post("", status_code=201, response_model=RunView)
def open_run(new: OpenRun, here: Here) -> Response:
    """Understand, evaluate and store a pasted table or files as a run."""
    return _open(new, here)


@router.post("/{id}/handed", status_code=201, response_model=RunView)
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
    here.readiness.wait()
    intake = _for_question(here, new, here.understand(new.text, new.choices, new.files))
    source_name, source = _source(new)
    readings, understood = _ready(intake)
    layout, method = opened(readings, understood, new.question)
    cells = packed(readings)
    made = here.do(evaluated, cells, pack(layout), pack(method))
    with here.database.transaction() as db:
        if studies.get(db, new.study) is None:
            raise NotFound("study")
        id = runs.create(
            db,
            runs.NewRun(
                study=new.study, title=new.title, key=str(new.key), source_name=source_name, source=source,
                choices=new.choices, readings=readings, worked=made, cells=cells, from_run=from_run,
            ),
            here.author,
        )  # fmt: skip
        return _view(db, id, here, status=201)


@router.get("")
def find_runs(here: Here, find: Annotated[str, Query(max_length=200)] = "") -> list[runs.Found]:
    """Runs by words of their title or study."""
    with here.database.transaction() as db:
        return runs.find(db, find)


@router.get("/{id}", response_model=RunView)
def get_run(id: int, here: Here) -> Response:
    """A run in its current revision."""
    with here.database.transaction() as db:
        return _view(db, id, here)


@router.post("/{id}/changes", response_model=revisions.Revision)
def change_run(id: int, save: Save, here: Here) -> Response:
    """Make changes as one new revision; 409 when the run has moved on."""
    here.readiness.wait()
    with here.database.transaction() as db:
        head_of(db, id)
        made = history.change(db, id, save.based_on, str(save.key), save.changes, here.author, here.do)
    return sent(made)


@router.post("/{id}/undo", response_model=revisions.Revision)
def undo(id: int, move: Move, here: Here) -> Response:
    """A new revision equal to the state before the last change."""
    with here.database.transaction() as db:
        head_of(db, id)
        made = history.undo(db, id, move.based_on, str(move.key), here.author, here.do)
    return sent(made)


@router.post("/{id}/redo", response_model=revisions.Revision)
def redo(id: int, move: Move, here: Here) -> Response:
    """A new revision equal to the state that undo left."""
    with here.database.transaction() as db:
        head_of(db, id)
        made = history.redo(db, id, move.based_on, str(move.key), here.author, here.do)
    return sent(made)


@router.get("/{id}/revisions/{number}/working/{group}")
def get_working(id: int, number: int, group: str, here: Here) -> list[WorkingLine]:
    """The full calculation behind one group's numbers, or behind a number of a curve."""
    with here.database.transaction() as db:
        working = revisions.working(db, id, number, group, here.do)
    if working is None:
        raise NotFound("working")
    return list(working)


@router.get("/{id}/revisions/{number}/curve")
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


@router.get("/{id}/answers.{form}", response_class=Response)
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
    return download(body, f"{head.title}.{form}", export.media)


@router.get("/{id}/source", response_class=Response)
def get_source(id: int, here: Here) -> Response:
    """What the run was made from, as it came: the text, the file, or several files in one archive."""
    with here.database.transaction() as db:
        head, source = head_of(db, id), runs.source(db, id)
    if "." in head.source_name:
        return download(source or b"", head.source_name, "application/octet-stream")
    return download(source or b"", f"{head.title}.txt", "text/plain")


@router.get("/{id}/intake")
def get_intake(id: int, here: Here) -> BroughtIn:
    """What a run was made from and how it was understood, to be corrected."""
    with here.database.transaction() as db:
        head, source, choices = head_of(db, id), runs.source(db, id) or b"", runs.choices(db, id)
        state = revisions.state(db, id)
    if choices is None or state is None:
        raise NotFound("run")
    choices = choices.model_copy(update={"question": state.method.question})
    return BroughtIn(**_brought(head.source_name, source), choices=choices)


@router.post("/{id}/intake", response_model=RunView)
def understand_anew(id: int, again: Again, here: Here) -> Response:
    """Understand what a run was made from with other choices, as a new revision; exclusions that still fit stay."""
    here.readiness.wait()
    with here.database.transaction() as db:
        head, source, before = head_of(db, id), runs.source(db, id) or b"", runs.readings(db, id)
        current = revisions.state(db, id)
    if current is None:
        raise NotFound("run")
    brought = _brought(head.source_name, source)
    intake = here.understand(brought["text"], again.choices, brought["files"])
    readings, understood = _ready(intake)
    question = intake.understanding.question
    layout, method = opened(readings, understood, question)
    kept = carried_over(before, current.layout, readings, layout)
    if question == current.method.question:
        method = current.method
    words = anew_words(current.layout, kept, question != current.method.question)
    cells = packed(readings)
    made = here.do(evaluated, cells, pack(kept), pack(method), words)
    found = history.Anew(choices=again.choices, cells=cells, worked=made)
    with here.database.transaction() as db:
        history.understand_anew(db, id, again.based_on, str(again.key), found, here.author, here.do)
        return _view(db, id, here)


def _ready(intake: Intake) -> tuple[Readings, Layout]:
    """What was understood, where a run can be made of it.

    Raises
    ------
    IntakeError : what stands in the way, as the page says it.
    """
    if intake.readings is None or intake.layout is None:
        stop = next(s.text for s in intake.understanding.statements if s.state == "stop")
        raise IntakeError(stop.replace("**", ""))
    return intake.readings, intake.layout


def _for_question(here: Context, new: OpenRun, intake: Intake) -> Intake:
    """The same table again, where the question wants curves and single numbers were understood, or the other way."""
    if intake.readings is None or question_of(new.question).of_curves == (intake.readings.axis is not None):
        return intake
    return here.understand(new.text, new.choices.model_copy(update={"question": new.question}), new.files)


def _brought(name: str, source: bytes) -> Brought:
    """The text or the files that a run was made from."""
    if "." not in name:
        origin = name if name in ORIGINS else ORIGINS[0]
        return {"text": source.decode("utf-8"), "files": (), "origin": origin}
    if not name.endswith(" files.zip"):
        return {"text": "", "files": (SourceFile.model_construct(name=name, data=source),), "origin": ORIGINS[0]}
    with zipfile.ZipFile(io.BytesIO(source)) as packed:
        files = tuple(SourceFile.model_construct(name=each, data=packed.read(each)) for each in packed.namelist())
    return {"text": "", "files": files, "origin": ORIGINS[0]}


def _source(new: OpenRun) -> tuple[str, bytes]:
    if not new.files:
        return new.origin, new.text.encode("utf-8", errors="replace")
    if len(new.files) == 1:
        return new.files[0].name, new.files[0].data
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for i, file in enumerate(new.files, start=1):
            name = _inside(file.name)
            same = sum(_inside(other.name) == name for other in new.files) > 1
            archive.writestr(f"{i}-{name}" if same else name, file.data)
    return f"{len(new.files)} files.zip", packed.getvalue()


def _inside(name: str) -> str:
    """A name that stays inside the archive: no folders, no way up, no drive."""
    last = re.split(r"[/\\\\:]", name)[-1].strip(". ")
    return last or "file"


def download(body: bytes, name: str, kind: str) -> Response:
    """A file to be saved under that name."""
    plain = "".join(c if c.isascii() and (c.isalnum() or c in " .-_") else "_" for c in name)
    headers = {
        "Content-Disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}",
        "X-Content-Type-Options": "nosniff",
    }
    return Response(body, media_type=f"{kind}; charset=utf-8" if kind.startswith("text/") else kind, headers=headers)


def head_of(db: Cursor, id: int) -> runs.RunHead:
    """A run's head; what is not there is answered as such."""
    head = runs.head(db, id)
    if head is None:
        raise NotFound("run")
    return head


def sent(made: revisions.Kept) -> Response:
    """A revision as it is stored: reading the outcome of a large run only to write it again takes seconds."""
    return Response(made.json, media_type="application/json")


def _view(db: Cursor, id: int, here: Context, *, status: int = 200) -> Response:
    head, kept = head_of(db, id), revisions.kept(db, id, do=here.do)
    if kept is None:
        raise NotFound("run")
    readings = unpack_text(Readings, revisions.head_of(db, id, kept.head.readings))
    body = b'{"run":%s,"readings":%s,"revision":%s}' % (head.model_dump_json().encode(), readings, kept.json)
    return Response(body, status_code=status, media_type="application/json")
