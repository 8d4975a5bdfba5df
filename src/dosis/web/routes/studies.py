"""Studies, the folders that runs lie in."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import StringConstraints

from dosis.people.rights import Right
from dosis.run.record import Record
from dosis.store import studies
from dosis.web.access import READ_STUDY, SIGNED_IN, WORK_IN_LAB, WORK_IN_STUDY
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api/studies", tags=["studies"])

Title = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]


class NewStudy(Record):
    """A study to make."""

    name: Title


@router.get("", dependencies=[SIGNED_IN])
def list_studies(here: Here) -> list[studies.Study]:
    """Every study that one may look into."""
    with here.database.transaction() as db:
        return studies.list_all(db, here.who.rights.where(Right.READ))


@router.post("", status_code=201, dependencies=[WORK_IN_LAB])
def create_study(new: NewStudy, here: Here) -> studies.Study:
    """Make a study."""
    with here.database.transaction() as db:
        id = studies.create(db, new.name, here.author)
    return get_study(id, here)


@router.get("/{id}", dependencies=[READ_STUDY])
def get_study(id: int, here: Here) -> studies.Study:
    """A study."""
    with here.database.transaction() as db:
        study = studies.get(db, id)
        if study is None:
            raise NotFound("study")
        return study


class OpenInStyle(Record):
    """The style in which figures open; None for none."""

    style: int | None


@router.put("/{id}/style", status_code=204, dependencies=[WORK_IN_STUDY])
def open_in_style(id: int, wanted: OpenInStyle, here: Here) -> None:
    """Have the study's figures open in a saved style."""
    with here.database.transaction() as db:
        if not studies.open_in_style(db, id, wanted.style, here.author):
            raise NotFound("study or style")
