"""Errors as documents for people (RFC 9457): what, where and what to do. No stack trace leaves the server."""

from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from dosis.instruments.protocol import InstrumentError
from dosis.intake.text import IntakeError
from dosis.run.changes import ChangeError
from dosis.run.record import Record
from dosis.store.database import Unavailable
from dosis.store.ledger import Entry
from dosis.store.revisions import Stale

log = structlog.get_logger()


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

    @app.exception_handler(IntakeError)
    @app.exception_handler(ChangeError)
    def unusable(_: Request, error: Exception) -> JSONResponse:
        return respond(Problem(kind="unusable", status=422, title="This cannot be used as it is.", detail=str(error)))

    @app.exception_handler(InstrumentError)
    def instrument(_: Request, error: InstrumentError) -> JSONResponse:
        return respond(Problem(kind="instrument", status=409, title="The instrument did not read.", detail=str(error)))

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

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        return respond(Problem(kind="http", status=error.status_code, title=str(error.detail), detail=""))

    @app.exception_handler(Exception)
    def unexpected(request: Request, error: Exception) -> JSONResponse:
        log.error("unexpected error", path=request.url.path, exc_info=error)
        return respond(Problem(
            kind="unexpected", status=500, title="Dosis made a mistake.",
            detail="Nothing was changed. Try again; if it happens again, tell us what you did.",
        ))  # fmt: skip


def _sentences(error: RequestValidationError) -> list[str]:
    def sentence(found: Any) -> str:
        place = ".".join(str(part) for part in found["loc"] if part != "body")
        message = str(found["msg"]).removeprefix("Value error, ")
        return f"{place}: {message}." if place else f"{message}."

    return [sentence(found) for found in error.errors()[:3]]
