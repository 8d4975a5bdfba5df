"""Studies and the runs in them."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import StringConstraints

from dosis.run.record import Record
from dosis.store import runs, studies
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api/studies", tags=["studies"])

Title = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]


class NewStudy(Record):
    """A study to make."""

    name: Title


class StudyView(Record):
    """A study with its runs."""

    study: studies.Study
    runs: tuple[runs.RunCard, ...]


@router.get("")
def list_studies(here: Here) -> list[studies.Study]:
    """Every study."""
    with here.database.transaction() as db:
        return studies.list_all(db)


@router.post("", status_code=201)
def create_study(new: NewStudy, here: Here) -> StudyView:
    """Make a study."""
    with here.database.transaction() as db:
        id = studies.create(db, new.name, here.author)
    return get_study(id, here)


@router.get("/{id}")
def get_study(id: int, here: Here) -> StudyView:
    """A study and its runs, the one changed last first."""
    with here.database.transaction() as db:
        study = studies.get(db, id)
        if study is None:
            raise NotFound("study")
        return StudyView(study=study, runs=tuple(runs.in_study(db, id)))


class OpenInStyle(Record):
    """The style in which figures open; None for none."""

    style: int | None


@router.put("/{id}/style", status_code=204)
def open_in_style(id: int, wanted: OpenInStyle, here: Here) -> None:
    """Have the study's figures open in a saved style."""
    with here.database.transaction() as db:
        if not studies.open_in_style(db, id, wanted.style, here.author):
            raise NotFound("study or style")
