"""Understanding a pasted table, before a run is made of it."""

from typing import Annotated

from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import Field

from dosis.intake.listed_wells import read_list
from dosis.intake.sheets import SourceFile
from dosis.intake.understanding import Choices, Understanding
from dosis.run.laying_out import DescribeWells
from dosis.run.record import Record
from dosis.web.access import WORK
from dosis.web.context import Here

router = APIRouter(prefix="/api/intake", tags=["intake"])


class Paste(Record):
    """A pasted table, or files in its place, and the corrections made so far; `first` for so many rows only."""

    text: str = ""
    files: tuple[SourceFile, ...] = ()
    choices: Choices = Choices()
    first: Annotated[int, Field(ge=1)] | None = None


class PastedList(Record):
    """A list of wells, pasted."""

    text: str


@router.post("/wells", dependencies=[WORK])
def understand_list(pasted: PastedList) -> DescribeWells:
    """What a pasted list says of wells, as the change that lays it out. Nothing is stored."""
    return DescribeWells(wells=read_list(pasted.text))


@router.post("", response_model=Understanding, dependencies=[WORK])
def understand_paste(paste: Paste, here: Here) -> Response:
    """What Dosis understood of it. Nothing is stored."""
    found = here.understand(paste.text, paste.choices, paste.files, look_only=True, first=paste.first).understanding
    # Written once: going over a hundred thousand cells a second time is what a person would wait for.
    return Response(found.model_dump_json(), media_type="application/json")
