"""Answers compressed on their way over a network; to a page on the same machine that would only take time."""

from starlette.middleware.gzip import GZipMiddleware
from starlette.types import Receive, Scope, Send

LOOPBACK = ("127.0.0.1", "::1")


class Compressed(GZipMiddleware):
    """By gzip, but not for a client on this machine."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        client = scope.get("client")
        if client and client[0] in LOOPBACK:
            await self.app(scope, receive, send)
        else:
            await super().__call__(scope, receive, send)
