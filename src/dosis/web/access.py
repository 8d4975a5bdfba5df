"""Who may use a route: every route declares it, and one that does not keeps the application from starting."""

import secrets
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from fastapi import Depends, FastAPI, Request
from fastapi.routing import APIRoute

from dosis.people.rights import Right
from dosis.store import runs, sessions
from dosis.store.database import Cursor
from dosis.store.sessions import Person
from dosis.web.context import Context
from dosis.web.problems import Forbidden, NotFound, NotOfPage, SignedOut

COOKIES = ("__Host-dosis", "dosis")  # with TLS, and without
PAGE_KEY = "x-dosis-page"  # the header that a page of ours sends with each change
SAFE = ("GET", "HEAD", "OPTIONS")

StudyOf = Callable[[Cursor, int], int | None]


class Access:
    """A dependency: finds out who is asking, and lets in who may.

    right : what it takes; None for all who have signed in. of : finds the study of the thing that the path's `id`
    names, and what that is called; without it the right is asked for in some study, or with `lab` in the whole lab.
    What a body names is checked by the route itself (`Here.need`).
    """

    def __init__(
        self, right: Right | None, of: tuple[str, StudyOf] | None = None, *, lab: bool = False, anyone: bool = False
    ) -> None:
        self.right, self.of, self.lab, self.anyone = right, of, lab, anyone

    def __call__(self, request: Request) -> None:
        context: Context = request.app.state.context
        who = request.state.who = identify(request, context)
        if self.anyone:
            return
        if who is None:
            raise SignedOut
        if self.right is None:
            return
        if self.of is None:
            if not (who.rights.may(self.right) if self.lab else who.rights.anywhere(self.right)):
                raise Forbidden(self.right)
            return
        if who.rights.may(self.right):
            return  # in every study; whether the thing is there is for the route to say
        name, study_of = self.of
        with context.database.transaction() as db:
            study = study_of(db, _number(request, name))
        if study is None or not who.rights.may(Right.READ, study):
            raise NotFound(name)  # nobody learns what there is where they may not look
        if not who.rights.may(self.right, study):
            raise Forbidden(self.right)


def identify(request: Request, context: Context) -> Person | None:
    """Who is asking: by a token, by the session of a page, or the one who works alone.

    Raises
    ------
    SignedOut : where a token does not work. NotOfPage : where a change comes without the key of its session's page.
    """
    if context.alone is not None:
        return context.alone
    kind, _, token = request.headers.get("authorization", "").partition(" ")
    if kind.lower() == "bearer":
        with context.database.transaction() as db:
            who = sessions.by_token(db, token.strip())
        if who is None:
            raise SignedOut("This token does not work: it has ended or was revoked.")
        return who
    secret = session_secret(request)
    if not secret:
        return None
    with context.database.transaction() as db:
        who = sessions.by_secret(db, secret)
    if who is None or request.method in SAFE:
        return who
    if not secrets.compare_digest(request.headers.get(PAGE_KEY, "").encode(), who.page_key.encode()):
        raise NotOfPage
    return who


def session_secret(request: Request) -> str:
    """The secret in the cookie; empty without one."""
    return next((request.cookies[name] for name in COOKIES if name in request.cookies), "")


def _number(request: Request, name: str) -> int:
    try:
        return int(request.path_params["id"])
    except ValueError:
        raise NotFound(name) from None


def _study_of_batch(db: Cursor, id: int) -> int | None:
    row = db.one("SELECT study_id FROM batch WHERE id = %s", id)
    return row["study_id"] if row else None


_RUN = ("run", runs.study_of)
_BATCH = ("batch", _study_of_batch)
_STUDY: tuple[str, StudyOf] = ("study", lambda _, id: id)

ANYONE = Depends(Access(None, anyone=True))
SIGNED_IN = Depends(Access(None))
READ = Depends(Access(Right.READ))
WORK = Depends(Access(Right.WORK))
WORK_IN_LAB = Depends(Access(Right.WORK, lab=True))
ADMINISTER = Depends(Access(Right.ADMINISTER, lab=True))
READ_RUN = Depends(Access(Right.READ, _RUN))
WORK_ON_RUN = Depends(Access(Right.WORK, _RUN))
REVIEW_RUN = Depends(Access(Right.REVIEW, _RUN))
READ_STUDY = Depends(Access(Right.READ, _STUDY))
WORK_IN_STUDY = Depends(Access(Right.WORK, _STUDY))
READ_BATCH = Depends(Access(Right.READ, _BATCH))
WORK_ON_BATCH = Depends(Access(Right.WORK, _BATCH))


def declared(route: Any) -> Access | None:
    """What a route declares."""
    found = [each.dependency for each in route.dependencies if isinstance(each.dependency, Access)]
    return found[0] if len(found) == 1 else None


def api_routes(routes: Iterable[Any]) -> Iterator[APIRoute]:
    """Every route of the API, also of routers that were included."""
    for route in routes:
        if isinstance(route, APIRoute):
            if route.path.startswith("/api"):
                yield route
        elif (router := getattr(route, "original_router", None)) is not None:
            yield from api_routes(router.routes)


def all_declared(app: FastAPI) -> None:
    """Raises RuntimeError where a route of the API does not say who may use it."""
    for route in api_routes(app.routes):
        if declared(route) is None:
            raise RuntimeError(f"{route.path} does not declare once who may use it (dosis.web.access).")
