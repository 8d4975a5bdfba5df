"""Errors as documents for people (RFC 9457): what, where and what to do. No stack trace leaves the server."""

import traceback
from pathlib import Path
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from dosis.instruments.protocol import InstrumentError
from dosis.intake.text import IntakeError
from dosis.output.figures.files import TooLarge
from dosis.people.passwords import Weak
from dosis.people.rights import Right
from dosis.run.changes import ChangeError
from dosis.run.record import Record
from dosis.store.database import DiskFull, Unavailable
from dosis.store.ledger import Entry
from dosis.store.packing import Unreadable
from dosis.store.revisions import Stale
from dosis.store.sessions import Refused
from dosis.store.stages import Locked

log = structlog.get_logger()
FRAMES = 20  # of a traceback, the last ones


class Problem(Record):
    """The document. `kind` is for programs, `title` and `detail` for people; a stale save adds what happened since."""

    kind: str
    title: str
    detail: str
    status: int
    current: int | None = None
    since: tuple[Entry, ...] = ()


class NotFound(Exception):
    """Nothing of that id."""

    def __init__(self, what: str) -> None:
        super().__init__(what)
        self.what = what


class SignedOut(Exception):
    """Nobody is signed in, or not any more."""


class Forbidden(Exception):
    """Signed in, but without this right."""

    def __init__(self, right: Right) -> None:
        super().__init__(right)
        self.right = right


class NotOfPage(Exception):
    """A change that did not come from a page of the session it is made in."""


_TAKES = {
    Right.READ: "For this you need to be a reader of some study.",
    Right.WORK: "Only analysts of this study may do this.",
    Right.REVIEW: "Only reviewers of this study may do this.",
    Right.ADMINISTER: "Only administrators may do this.",
}


def respond(problem: Problem) -> JSONResponse:
    """The document as a response."""
    return JSONResponse(
        problem.model_dump(mode="json"), status_code=problem.status, media_type="application/problem+json"
    )


def install(app: FastAPI) -> None:
    """Give every kind of error its document."""

    @app.exception_handler(Stale)
    def stale(_: Request, error: Stale) -> JSONResponse:
        return respond(Problem(
            kind="stale", status=409, title="This run was changed in another window.",
            detail="Your change was not saved over it. Look at what changed, then choose.",
            current=error.current, since=tuple(error.since),
        ))  # fmt: skip

    @app.exception_handler(NotFound)
    def missing(_: Request, error: NotFound) -> JSONResponse:
        detail = f"There is no {error.what} at this address. Go home and open it from its study."
        return respond(Problem(kind="not_found", status=404, title=f"No such {error.what}.", detail=detail))

    @app.exception_handler(SignedOut)
    def signed_out(_: Request, error: SignedOut) -> JSONResponse:
        detail = str(error) or "Nothing was changed. Sign in, and go on where you were."
        return respond(Problem(kind="signed_out", status=401, title="Nobody is signed in.", detail=detail))

    @app.exception_handler(Locked)
    def locked(_: Request, error: Locked) -> JSONResponse:
        title = f"This run is {error.stage}."
        return respond(Problem(kind="locked", status=409, title=title, detail=str(error)))

    @app.exception_handler(Forbidden)
    def forbidden(_: Request, error: Forbidden) -> JSONResponse:
        detail = f"{_TAKES[error.right]} An administrator can give you that right."
        return respond(Problem(kind="forbidden", status=403, title="You may not do this.", detail=detail))

    @app.exception_handler(NotOfPage)
    def not_of_page(_: Request, __: NotOfPage) -> JSONResponse:
        detail = "This change did not come from the page you are signed in on. Load the page anew, and try again."
        return respond(Problem(kind="page_key", status=403, title="This was not changed.", detail=detail))

    @app.exception_handler(Refused)
    def refused(_: Request, error: Refused) -> JSONResponse:
        kind, status = ("code", 401) if error.code else ("wait", 429) if error.wait else ("refused", 401)
        found = respond(Problem(kind=kind, status=status, title="Not signed in.", detail=str(error)))
        if error.wait:
            found.headers["Retry-After"] = f"{error.wait:.0f}"
        return found

    @app.exception_handler(Weak)
    def weak(_: Request, error: Weak) -> JSONResponse:
        return respond(Problem(kind="weak", status=422, title="Choose another password.", detail=str(error)))

    @app.exception_handler(IntakeError)
    @app.exception_handler(ChangeError)
    @app.exception_handler(TooLarge)
    def unusable(_: Request, error: Exception) -> JSONResponse:
        return respond(Problem(kind="unusable", status=422, title="This cannot be used as it is.", detail=str(error)))

    @app.exception_handler(InstrumentError)
    def instrument(_: Request, error: InstrumentError) -> JSONResponse:
        return respond(Problem(kind="instrument", status=409, title="The instrument did not read.", detail=str(error)))

    @app.exception_handler(Unreadable)
    def unreadable(_: Request, error: Unreadable) -> JSONResponse:
        log.error("stored form unreadable", said=str(error))
        return respond(Problem(kind="unreadable", status=409, title="This cannot be opened here.", detail=str(error)))

    @app.exception_handler(RequestValidationError)
    def invalid(_: Request, error: RequestValidationError) -> JSONResponse:
        return respond(Problem(
            kind="invalid", status=422, title="Something sent is not valid.", detail=" ".join(_sentences(error)),
        ))  # fmt: skip

    @app.exception_handler(Unavailable)
    def unavailable(_: Request, error: Unavailable) -> JSONResponse:
        log.warning("database unavailable", cause=str(error.__cause__))
        return respond(Problem(
            kind="unavailable", status=503, title="The database is not answering.",
            detail="Nothing that was saved is lost. Dosis tries again by itself.",
        ))  # fmt: skip

    @app.exception_handler(DiskFull)
    def full(_: Request, error: DiskFull) -> JSONResponse:
        log.error("disk full", cause=str(error.__cause__))
        return respond(Problem(
            kind="full", status=507, title="The disk is full.",
            detail="Nothing was changed, and what was saved before is safe. Make room on the disk that holds Dosis's "
            "folder, then try again.",
        ))  # fmt: skip

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        return respond(Problem(kind="http", status=error.status_code, title=str(error.detail), detail=""))


def trace(error: BaseException) -> list[str]:
    """Where it happened, frame by frame, and of what kind: no values, which may be a lab's data."""
    frames = traceback.extract_tb(error.__traceback__)[-FRAMES:]
    places = [f"{Path(frame.filename).name}:{frame.lineno} {frame.name}" for frame in frames]
    return [*places, type(error).__name__]


def _sentences(error: RequestValidationError) -> list[str]:
    def sentence(found: Any) -> str:
        place = ".".join(str(part) for part in found["loc"] if part != "body")
        message = str(found["msg"]).removeprefix("Value error, ")
        return f"{place}: {message}." if place else f"{message}."

    return [sentence(found) for found in error.errors()[:3]]
