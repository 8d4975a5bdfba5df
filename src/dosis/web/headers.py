"""Headers that every answer carries: only our own scripts run, and no other page may frame ours."""

from starlette.types import ASGIApp, Message, Receive, Scope, Send

# Scripts are files of ours; styles are also set by them, for the places of tiles and menus.
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
ALWAYS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"x-frame-options", b"DENY"),
    (b"referrer-policy", b"no-referrer"),
)
OF_API = ((b"cache-control", b"no-store"),)  # records do not stay on a disk they were looked at from
BY_TLS = ((b"strict-transport-security", b"max-age=31536000"),)


class Headers:
    """Adds them to every response that does not have them yet."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        wanted: tuple[tuple[bytes, bytes], ...] = ALWAYS
        if scope["type"] == "http":
            wanted += OF_API if scope["path"].startswith("/api") else ()
            wanted += BY_TLS if scope["scheme"] == "https" else ()

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                there = {name.lower() for name, _ in message["headers"]}
                message["headers"] = [*message["headers"], *(pair for pair in wanted if pair[0] not in there)]
            await send(message)

        await self._app(scope, receive, with_headers if scope["type"] == "http" else send)
