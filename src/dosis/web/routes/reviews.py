"""Review of a run: handing in and taking back, remarks, reviewing, signing."""

from typing import Annotated, Literal

from fastapi import APIRouter, Request
from pydantic import Field

from dosis.people.rights import Right
from dosis.run.changes import ChangeError
from dosis.run.record import Record
from dosis.store import reviews, sessions
from dosis.web.access import ADMINISTER, READ_RUN, REVIEW_RUN, SIGNED_IN, WORK_ON_RUN
from dosis.web.context import Here
from dosis.web.problems import Forbidden, NotFound
from dosis.web.routes.sign_in import Password, origin_of

router = APIRouter(prefix="/api/runs/{id}/review", tags=["review"])
lab = APIRouter(prefix="/api/lab-settings", tags=["review"])

ALONE_PASSWORD = "demo"
Words = Annotated[str, Field(max_length=1_000)]


class OwnMove(Record):
    """A step that who works on the run takes, from the revision `based_on`."""

    move: Literal["hand in", "take back", "new draft"]
    based_on: int
    words: Words = ""


class ReviewMove(Record):
    """A step that a reviewer takes."""

    move: Literal["review", "send back"]
    based_on: int
    words: Words = ""


class Sign(Record):
    """A signature: what was shown (revision and digest), what it means, and the signer's password."""

    based_on: int
    digest: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
    meaning: reviews.Meaning
    password: Password


class AnswerRemark(Record):
    """An answer to a remark."""

    text: reviews.Text


class LabSettings(Record):
    """What holds for the whole lab. own_review : whether one may review what one has handed in."""

    own_review: bool


@router.get("", dependencies=[READ_RUN])
def get_review(id: int, here: Here) -> reviews.Review:
    """Where the run stands, its remarks and its signatures."""
    with here.database.transaction() as db:
        found = reviews.of_run(db, id)
    if found is None:
        raise NotFound("run")
    return found


@router.post("/own", dependencies=[WORK_ON_RUN])
def move_own(id: int, wanted: OwnMove, here: Here) -> reviews.Review:
    """Hand a run in, take it back, or open a new draft of a signed one."""
    with here.database.transaction() as db:
        reviews.move(db, id, wanted.move, wanted.based_on, wanted.words.strip(), here.who)
    return get_review(id, here)


@router.post("/step", dependencies=[REVIEW_RUN])
def move_review(id: int, wanted: ReviewMove, here: Here) -> reviews.Review:
    """Say that a run was reviewed, or send it back."""
    with here.database.transaction() as db:
        reviews.move(db, id, wanted.move, wanted.based_on, wanted.words.strip(), here.who)
    return get_review(id, here)


@router.post("/signature", dependencies=[REVIEW_RUN])
def sign(id: int, wanted: Sign, request: Request, here: Here) -> reviews.Review:
    """Sign a reviewed run. The password is asked for again (21 CFR 11.200)."""
    if here.alone is not None:
        if wanted.password != ALONE_PASSWORD:
            raise ChangeError(f"In the demo the password is “{ALONE_PASSWORD}”.")
    elif here.who.token is not None:
        raise ChangeError("A script cannot sign; a person has to.")
    else:
        sessions.confirm(here.database, here.who, wanted.password, origin_of(request)[0])
    with here.database.transaction() as db:
        reviews.sign(db, id, wanted.based_on, wanted.digest, wanted.meaning, here.who)
    return get_review(id, here)


@router.post("/remarks", status_code=201, dependencies=[REVIEW_RUN])
def make_remark(id: int, new: reviews.NewRemark, here: Here) -> reviews.Review:
    """Make a remark on the run, a reading, a step or an answer."""
    with here.database.transaction() as db:
        reviews.remark(db, id, new, here.who)
    return get_review(id, here)


@router.post("/remarks/{remark}/answers", status_code=201, dependencies=[READ_RUN])
def answer_remark(id: int, remark: int, given: AnswerRemark, here: Here) -> reviews.Review:
    """Answer a remark: whoever works on the run, or reviews it."""
    try:
        here.need_runs(Right.REVIEW, [id])
    except Forbidden:
        here.need_runs(Right.WORK, [id])
    with here.database.transaction() as db:
        if not reviews.answer(db, id, remark, given.text, here.who):
            raise NotFound("open remark")
    return get_review(id, here)


@router.post("/remarks/{remark}/close", dependencies=[REVIEW_RUN])
def close_remark(id: int, remark: int, here: Here) -> reviews.Review:
    """Close a remark that is settled."""
    with here.database.transaction() as db:
        if not reviews.close(db, id, remark, here.who):
            raise NotFound("open remark")
    return get_review(id, here)


@lab.get("", dependencies=[SIGNED_IN])
def get_lab_settings(here: Here) -> LabSettings:
    """What holds for the whole lab."""
    with here.database.transaction() as db:
        return LabSettings(own_review=reviews.own_review(db))


@lab.put("", status_code=204, dependencies=[ADMINISTER])
def set_lab_settings(wanted: LabSettings, here: Here) -> None:
    """Set it."""
    with here.database.transaction() as db:
        reviews.allow_own_review(db, wanted.own_review, here.author)
