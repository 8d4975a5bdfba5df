"""Keeping house: lists of runs, and what is done to runs and studies without touching what is in them."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import Field

from dosis.people.rights import Right
from dosis.run.record import Record
from dosis.store import house, listing
from dosis.store.duplicates import duplicate
from dosis.web.access import READ, WORK, WORK_IN_STUDY, WORK_ON_RUN
from dosis.web.context import Here
from dosis.web.problems import NotFound
from dosis.web.routes.runs import RunView, view_of
from dosis.web.routes.studies import Title

router = APIRouter(prefix="/api", tags=["house"])


class KeepRuns(Record):
    """One thing done to runs."""

    runs: Annotated[tuple[int, ...], Field(min_length=1, max_length=5_000)]
    change: house.RunKept


class Kept(Record):
    """How many it altered."""

    altered: int


class KeepStudy(Record):
    """One thing done to a study."""

    change: house.StudyKept


class Duplicate(Record):
    """A run to be made from another; the same `key` sent again makes nothing new."""

    key: UUID
    title: Title


@router.get("/runs", dependencies=[READ])
def list_runs(wanted: Annotated[listing.Wanted, Query()], here: Here) -> listing.Listed:
    """Runs by what they are, where they lie, and words of their titles, descriptions, tags and answers."""
    with here.database.transaction() as db:
        return listing.listed(db, wanted, here.who.rights.where(Right.READ))


@router.get("/run-facets", dependencies=[READ])
def get_facets(here: Here, study: int | None = None) -> listing.Facets:
    """What the runs of a study, or all, can be filtered by."""
    with here.database.transaction() as db:
        return listing.facets(db, study, here.who.rights.where(Right.READ))


@router.post("/runs/keep", dependencies=[WORK])
def keep_runs(keep: KeepRuns, here: Here) -> Kept:
    """Rename, describe, move, tag, put away, throw away or bring back."""
    here.need_runs(Right.WORK, keep.runs)
    if isinstance(keep.change, house.Move):
        here.need(Right.WORK, keep.change.study)
    with here.database.transaction() as db:
        return Kept(altered=house.keep_runs(db, keep.runs, keep.change, here.author))


@router.post("/studies/{id}/keep", status_code=204, dependencies=[WORK_IN_STUDY])
def keep_study(id: int, keep: KeepStudy, here: Here) -> None:
    """Rename or describe a study, put it away or bring it back."""
    with here.database.transaction() as db:
        if not house.keep_study(db, id, keep.change, here.author):
            raise NotFound("study")


@router.post("/runs/{id}/duplicate", status_code=201, response_model=RunView, dependencies=[WORK_ON_RUN])
def duplicate_run(id: int, asked: Duplicate, here: Here) -> Response:
    """A run of the same readings, as this one stands."""
    here.readiness.wait()
    with here.database.transaction() as db:
        made = duplicate(db, id, str(asked.key), asked.title, here.author, here.do)
        if made is None:
            raise NotFound("run")
        return view_of(db, made, here, status=201)
