"""Guards at the door: only this site's own pages may write, and no body larger than a table of readings."""

from collections.abc import Sequence

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from dosis.intake.text import MAX_BYTES
from dosis.web.problems import Problem, respond

MAX_BODY = 2 * MAX_BYTES  # JSON writes each tab and line end in two bytes


class Host:
    """Answers to its own names only: a page elsewhere that points a name of its own at this address gets nothing.

    names : host names and addresses without a port; "*" for any, on a server that others reach by names of theirs.
    """

    def __init__(self, app: ASGIApp, names: Sequence[str]) -> None:
        self._app = app
        self._names = frozenset(names)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        named = Headers(scope=scope).get("host", "") if scope["type"] == "http" else ""
        name = named[1:].partition("]")[0] if named.startswith("[") else named.partition(":")[0]
        if scope["type"] != "http" or "*" in self._names or name in self._names:
            await self._app(scope, receive, send)
            return
        await respond(Problem(
            kind="host", status=400, title="Dosis does not answer to this name.",
            detail="Open it at the address it printed when it started. To reach it from other machines, start it with "
            "DOSIS_HOST=0.0.0.0.",
        ))(scope, receive, send)  # fmt: skip


class TooLarge(Exception):
    """A body went over the limit while being read."""


class Guard:
    """Refuses writes from other origins (they would ride on the loopback address) and oversized bodies."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        origin = headers.get("origin")
        if origin and origin.split("://", 1)[-1] != headers.get("host"):
            problem = Problem(
                kind="origin", status=403, title="This request came from another site.",
                detail="Open Dosis at its own address and try again.",
            )  # fmt: skip
            await respond(problem)(scope, receive, send)
            return
        if int(headers.get("content-length") or 0) > MAX_BODY:
            await _too_large()(scope, receive, send)
            return
        read = 0

        async def counted() -> Message:
            nonlocal read
            message = await receive()
            read += len(message.get("body", b""))
            if read > MAX_BODY:
                raise TooLarge
            return message

        try:
            await self._app(scope, counted, send)
        except TooLarge:
            await _too_large()(scope, receive, send)


def _too_large() -> ASGIApp:
    return respond(Problem(
        kind="too_large", status=413, title="This is too large for one run.",
        detail=f"Dosis takes up to {MAX_BYTES / 1e6:.0f} MB of text in one run. Split the table into several runs.",
    ))  # fmt: skip
