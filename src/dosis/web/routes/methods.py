"""Methods: kept from runs, looked at, taken in use and retired; which of them fit new readings; where runs depart."""

import re
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import Field, ValidationError

from dosis.intake.methods.apply import apply
from dosis.intake.methods.departures import departures
from dosis.intake.methods.kept import KeptMethod, MethodName, StepKind
from dosis.intake.text import IntakeError
from dosis.intake.understanding import Choices
from dosis.output.reports.subject import Section
from dosis.people.rights import Right
from dosis.run.outcome.value import Remark, State
from dosis.run.questions.registry import QuestionId
from dosis.run.record import Record
from dosis.run.steps.step import Changed, Step
from dosis.store import ledger, measures, methods, revisions, runs
from dosis.store.methods import MethodHead
from dosis.web.access import READ, READ_RUN, WORK
from dosis.web.brought import Brought, Understood, understood
from dosis.web.by_method import MethodChosen, chosen_method, of_run
from dosis.web.context import Context, Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api", tags=["methods"])

MUCH = 1_000_000  # bytes from which readings are not held against every method before one is chosen

About = Annotated[str, Field(max_length=4_000)]
Source = Annotated[str, Field(max_length=1_000)]
News = Annotated[str, Field(max_length=1_000)]


class KeepMethod(Record):
    """The working of a run to keep as a method; one that has the name gets a new version.

    free : kinds of steps that may be set otherwise. sections : of the reports of its runs, all where none is named.
    words : what is new in it. use : whether it is in use at once.
    """

    run: int
    name: MethodName
    about: About = ""
    source: Source = ""
    free: tuple[StepKind, ...] = ()
    sections: tuple[Section, ...] = ()
    words: News = ""
    use: bool = True


class EditMethod(Record):
    """Other words, other free steps or other counts expected, as the next version after `based_on`."""

    based_on: int
    about: About
    source: Source
    free: tuple[StepKind, ...]
    levels: Annotated[int, Field(ge=0, le=100_000)]
    blanks: Annotated[int, Field(ge=0, le=100_000)]
    qcs: Annotated[int, Field(ge=0, le=100_000)]
    words: News = ""
    use: bool = True


class SetState(Record):
    """What a version is from now on."""

    state: methods.State


class StepTold(Record):
    """A step of a method: its title, whether it is free, its settings that are not as by default, and the others."""

    kind: str
    title: str
    free: bool
    settings: tuple[Changed, ...]
    usual: tuple[Changed, ...]


class MethodView(Record):
    """A version of a method with all that there is of it."""

    head: MethodHead
    number: int
    body: KeptMethod
    steps: tuple[StepTold, ...]


class KeptAs(Record):
    """Where a method was kept."""

    id: int
    version: int


class FitsWanted(Brought):
    """Readings for which a method is looked for; or the one method that was chosen is held against them.

    question : what they are most likely asked; methods of other questions are looked at only where they are of plates.
    """

    choices: Choices = Choices()
    question: QuestionId | None = None
    method: MethodChosen | None = None


class Fit(Record):
    """How a method fits readings. stopped : why it cannot be applied; remarks : what is to be looked at.

    specific : whether it names wells, rows or columns of its own; matched : how many of them are there. tried : whether
    the readings were held against it; what is general is only once it is chosen, and nothing is where there is much.
    """

    id: int | None
    version: int | None
    name: str
    question: QuestionId
    stopped: str
    remarks: tuple[Remark, ...]
    specific: bool
    matched: int = 0
    tried: bool = True
    proposed: bool = False


@router.get("/methods", dependencies=[READ])
def list_methods(here: Here) -> list[MethodHead]:
    """Every method, by name."""
    with here.database.transaction() as db:
        return methods.listed(db)


@router.post("/methods", status_code=201, dependencies=[WORK])
def keep_method(new: KeepMethod, here: Here) -> KeptAs:
    """Keep the working of a run as a method; the run is one by that method from now on, unless it is handed in."""
    here.need_runs(Right.WORK, [new.run])
    with here.database.transaction() as db:
        given = {"about": new.about.strip(), "source": new.source.strip(), "free": new.free, "sections": new.sections}
        kept = of_run(db, new.run, new.name.strip()).model_copy(update=given)
        id, number = methods.keep(db, kept, new.words.strip(), here.author, use=new.use)
        if runs.is_draft(db, new.run):
            methods.set_used(db, new.run, id, number)
        row = revisions.row_of(db, new.run)
        if row is not None:
            # A run that was stored before its numbers were watched has none of them yet.
            measures.put(db, new.run, revisions.again(db, new.run, row, here.do).measures or b"[]")
            told = f"Kept as the method “{kept.name}”, version {number}"
            ledger.write(db, here.author, "keep method", told, run=new.run, revision=row["number"])
    return KeptAs(id=id, version=number)


@router.post("/methods/file", status_code=201, dependencies=[WORK])
def read_method_in(body: KeptMethod, here: Here) -> KeptAs:
    """Keep a method that was written out as a file, as a draft."""
    with here.database.transaction() as db:
        id, number = methods.keep(db, body, "read in from a file", here.author, use=False)
    return KeptAs(id=id, version=number)


@router.get("/methods/{id}", dependencies=[READ])
def get_method(id: int, here: Here, version: int | None = None) -> MethodView:
    """A method in one of its versions; by default the one in use, or the newest."""
    with here.database.transaction() as db:
        found = methods.find(db, id, version)
    if found is None:
        raise NotFound("method or version of it")
    head, number, body = found
    return MethodView(head=head, number=number, body=body, steps=tuple(_told(step, body) for step in body.steps))


def _told(step: Step, body: KeptMethod) -> StepTold:
    own = tuple(step.changes(type(step)()))  # type: ignore[call-arg]
    told = {each.what for each in own}
    usual = tuple(
        each for each in step.changes(None)
        if each.what not in told and each.what != "on" and each.after not in ("none", "open", "")
    )  # fmt: skip
    return StepTold(kind=step.kind, title=step.title, free=step.kind in body.free, settings=own, usual=usual)


@router.get("/methods/{id}/versions/{number}/file", response_class=Response, dependencies=[READ])
def get_method_file(id: int, number: int, here: Here) -> Response:
    """A version as a file, for another Dosis or the command line."""
    body = get_method(id, here, number).body
    name = re.sub(r"[^\w .,-]", "_", body.name)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(f'{name}, version {number}.json')}"}
    return Response(body.model_dump_json(indent=1) + "\n", media_type="application/json", headers=headers)


@router.post("/methods/{id}/versions", status_code=201, dependencies=[WORK])
def edit_method(id: int, edit: EditMethod, here: Here) -> KeptAs:
    """Keep the next version of a method, with other words, free steps or counts."""
    with here.database.transaction() as db:
        body = methods.version(db, id, edit.based_on)
        if body is None:
            raise NotFound("version of this method")
        counts = {"levels": edit.levels, "blanks": edit.blanks, "qcs": edit.qcs}
        changed = body.model_copy(update={
            "about": edit.about.strip(), "source": edit.source.strip(), "free": edit.free,
            "expected": body.expected.model_copy(update=counts),
        })  # fmt: skip
        id, number = methods.keep(db, changed, edit.words.strip(), here.author, use=edit.use)
    return KeptAs(id=id, version=number)


@router.post("/methods/{id}/versions/{number}/state", status_code=204, dependencies=[WORK])
def set_method_state(id: int, number: int, wanted: SetState, here: Here) -> None:
    """Take a version in use, or retire it."""
    with here.database.transaction() as db:
        if not methods.set_state(db, id, number, wanted.state, here.author):
            raise NotFound("version of this method")


@router.post("/methods/fits", dependencies=[WORK])
def find_methods(wanted: FitsWanted, here: Here) -> list[Fit]:
    """Which methods in use fit readings, the most likely first; the first is proposed where enough speaks for it."""
    here.need_file(wanted.file)
    if wanted.method is not None:
        chosen = chosen_method(here, wanted.method)
        if chosen is None:
            return []
        id, version = chosen.used or (None, None)
        return [_fit(here, wanted, (id, version), chosen.body, {})]
    with here.database.transaction() as db:
        known = methods.in_use(db)
    understood_as: dict[str, Understood | str] = {}
    little = len(wanted.text) + sum(len(file.data) for file in wanted.files) < MUCH
    found = []
    for id, number, body in known:
        of_this = wanted.question in (None, body.question)
        specific = body.layout is not None or bool(body.names)
        if little and specific and (of_this or body.layout is not None):
            found.append(_fit(here, wanted, (id, number), body, understood_as))
        elif of_this:
            found.append(Fit(id=id, version=number, name=body.name, question=body.question, stopped="", remarks=(),
                             specific=specific, tried=False))  # fmt: skip
    found.sort(key=lambda fit: (fit.stopped != "", not fit.specific, len(fit.remarks), -fit.matched, fit.name))
    first = next(iter(found), None)
    # Of a table that asks something else by itself a method fits only where nothing speaks against it.
    if first and first.remarks and wanted.question not in (None, first.question):
        return found
    if first and not first.stopped and first.specific and first.matched > 1:
        found[0] = first.model_copy(update={"proposed": True})
    return found


def _fit(
    here: Context, wanted: FitsWanted, used: tuple[int | None, int | None], body: KeptMethod,
    understood_as: dict[str, Understood | str],
) -> Fit:  # fmt: skip
    """How one method fits; what was understood in the same way before is not read again."""
    id, version = used
    choices = body.choices(wanted.choices)
    key = choices.model_dump_json()
    if key not in understood_as:
        try:
            understood_as[key] = understood(here, wanted, choices, body.question)
        except (IntakeError, ValidationError) as error:
            understood_as[key] = str(error) if isinstance(error, IntakeError) else "It is not understood this way."
    found = understood_as[key]
    specific = body.layout is not None or bool(body.names)
    if isinstance(found, str):
        return Fit(id=id, version=version, name=body.name, question=body.question, stopped=found, remarks=(),
                   specific=specific, matched=0)  # fmt: skip
    applied = apply(body, found.readings, found.layout)
    return Fit(
        id=id, version=version, name=body.name, question=body.question, stopped=applied.stopped, specific=specific,
        remarks=tuple(each for each in applied.remarks if each.state is not State.FAIL), matched=applied.matched,
    )  # fmt: skip


@router.get("/runs/{id}/departures", dependencies=[READ_RUN])
def get_departures(id: int, here: Here) -> list[Changed]:
    """Where a run, as it stands, is not as its method says; nothing where it has none."""
    with here.database.transaction() as db:
        used, state = methods.used(db, id), revisions.state(db, id)
        body = methods.version(db, used.id, used.version) if used else None
        if body is None or state is None:
            return []
        readings = runs.readings(db, id)
    return list(departures(body, readings, state.layout, state.method))
