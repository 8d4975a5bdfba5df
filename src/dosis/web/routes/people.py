"""People of the lab, for administrators: who there is, what each may do, and one-time links for them."""

from fastapi import APIRouter
from pydantic import Field

from dosis.people.rights import LabRole
from dosis.run.record import Record
from dosis.store import accounts
from dosis.web.access import ADMINISTER
from dosis.web.context import Here
from dosis.web.problems import NotFound

router = APIRouter(prefix="/api/people", tags=["people"])


class Link(Record):
    """A one-time link: its secret, shown this once, and for how many hours it works."""

    secret: str
    hours: int = accounts.LINK_HOURS


class SetRights(Record):
    """What a person may do from now on."""

    roles: tuple[LabRole, ...] = ()
    studies: accounts.StudyRoles = Field(default={})


class SetClosed(Record):
    """Whether an account is closed."""

    closed: bool


@router.get("", dependencies=[ADMINISTER])
def list_people(here: Here) -> list[accounts.Account]:
    """All accounts, closed ones last."""
    with here.database.transaction() as db:
        return accounts.listed(db)


@router.post("", status_code=201, dependencies=[ADMINISTER])
def invite(wanted: accounts.NewPerson, here: Here) -> Link:
    """Make an account and a one-time link for its person."""
    with here.database.transaction() as db:
        return Link(secret=accounts.invite(db, wanted, here.author))


@router.put("/{id}/rights", status_code=204, dependencies=[ADMINISTER])
def set_rights(id: int, wanted: SetRights, here: Here) -> None:
    """Give a person other roles."""
    with here.database.transaction() as db:
        if not accounts.set_rights(db, id, wanted.roles, wanted.studies, here.author):
            raise NotFound("account")


@router.put("/{id}/closed", status_code=204, dependencies=[ADMINISTER])
def set_closed(id: int, wanted: SetClosed, here: Here) -> None:
    """Close an account, or open it again."""
    with here.database.transaction() as db:
        if not accounts.close(db, id, wanted.closed, here.author):
            raise NotFound("account")


@router.post("/{id}/link", status_code=201, dependencies=[ADMINISTER])
def make_link(id: int, here: Here) -> Link:
    """Another one-time link for a person."""
    with here.database.transaction() as db:
        secret = accounts.link_again(db, id, here.author)
    if secret is None:
        raise NotFound("open account")
    return Link(secret=secret)
