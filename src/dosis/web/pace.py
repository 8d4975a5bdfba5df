"""How fast one may ask: a bucket for each session, token and address, so that one cannot keep the others waiting."""

import time
from collections import OrderedDict
from collections.abc import Callable
from hashlib import sha256

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from dosis.web.problems import Problem, respond

PER_SECOND, AT_ONCE = 100.0, 1_000.0  # requests; a page that opens makes some thirty
SHARED = 5.0  # times as many from one address, behind which a lab may sit
MOST = 10_000  # senders that are remembered; the one heard of longest ago is forgotten first


class Pace:
    """Answers 429 with a time to wait where a sender's bucket is empty. Each process has buckets of its own.

    now : the clock, in seconds.
    """

    def __init__(
        self, app: ASGIApp, per_second: float = PER_SECOND, at_once: float = AT_ONCE,
        now: Callable[[], float] = time.monotonic,
    ) -> None:  # fmt: skip
        self._app, self._per_second, self._at_once, self._now = app, per_second, at_once, now
        self._buckets: OrderedDict[bytes, tuple[float, float]] = OrderedDict()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        wait = self._wait(scope) if scope["type"] == "http" and scope["path"].startswith("/api") else 0.0
        if wait == 0.0:
            await self._app(scope, receive, send)
            return
        seconds = max(round(wait), 1)
        answer = respond(Problem(
            kind="pace", status=429, title="Too many requests at once.",
            detail=f"Dosis takes {self._per_second:g} a second from one sender. Wait {seconds} s, then go on.",
        ))  # fmt: skip
        answer.headers["Retry-After"] = str(seconds)
        await answer(scope, receive, send)

    def _wait(self, scope: Scope) -> float:
        """How long, by both buckets: that of the address, which a whole lab may share, and that of the sender."""
        address = scope["client"][0] if scope.get("client") else "?"
        headers = Headers(scope=scope)
        known = headers.get("authorization") or headers.get("cookie") or ""
        wait = self._taken(address.encode(), SHARED)
        return max(wait, self._taken(sha256(f"{address} {known}".encode()).digest(), 1.0)) if known else wait

    def _taken(self, sender: bytes, times: float) -> float:
        """Take one from a bucket, so many times as large as usual; the seconds until there is one, 0 if there was."""
        now, most, rate = self._now(), self._at_once * times, self._per_second * times
        left, at = self._buckets.pop(sender, (most, now))
        left = min(left + (now - at) * rate, most)
        wait = 0.0 if left >= 1 else (1 - left) / rate
        self._buckets[sender] = (left - 1 if wait == 0.0 else left, now)
        if len(self._buckets) > MOST:
            self._buckets.popitem(last=False)
        return wait
