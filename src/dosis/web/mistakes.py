"""The last net: what nobody has foreseen becomes one document for the person and one line in the log."""

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from dosis.web.problems import Problem, respond, trace

log = structlog.get_logger()


class Mistakes:
    """Answers an unexpected error with 500. Logged once, as places in the code: no values, which may be lab data."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        begun = False

        async def noting(message: Message) -> None:
            nonlocal begun
            begun = begun or message["type"] == "http.response.start"
            await send(message)

        try:
            await self._app(scope, receive, noting)
        except Exception as error:
            log.error("unexpected error", method=scope["method"], path=scope["path"][:200], trace=trace(error))
            if begun:  # too late for a document; the connection is closed
                raise ConnectionError("The answer was cut short by an error that is in the log.") from None
            await respond(Problem(
                kind="unexpected", status=500, title="Dosis made a mistake.",
                detail="Nothing was changed. Try again; if it happens again, tell us what you did.",
            ))(scope, receive, send)  # fmt: skip
