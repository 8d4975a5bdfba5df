"""How fast one may ask: on both sides of the limit, for one sender and for an address that many share."""

from contextlib import suppress
from typing import Any

from dosis.web.pace import Pace


class Clock:
    def __init__(self) -> None:
        self.at = 0.0

    def __call__(self) -> float:
        return self.at


async def app(_: Any, __: Any, send: Any) -> None:
    await send({"type": "http.response.start", "status": 200, "headers": []})


def asked(pace: Pace, times: int, *, cookie: str = "", path: str = "/api/me", address: str = "10.0.0.9") -> list[int]:
    """The answers to so many requests."""
    found = list[int]()

    async def send(message: Any) -> None:
        if message["type"] == "http.response.start":
            found.append(message["status"])

    async def receive() -> Any:
        return {"type": "http.request", "body": b""}

    headers = [(b"cookie", cookie.encode())] if cookie else []
    scope = {"type": "http", "method": "GET", "path": path, "client": (address, 1), "headers": headers}
    for _ in range(times):
        with suppress(StopIteration):
            pace(scope, receive, send).send(None)  # nothing in it waits, so one step is all of it
    return found


def test_one_sender_is_held_at_its_rate_and_others_are_not() -> None:
    clock = Clock()
    pace = Pace(app, per_second=10, at_once=20, now=clock)
    assert asked(pace, 21, cookie="one") == [200] * 20 + [429]
    assert asked(pace, 1, cookie="two") == [200]
    clock.at = 0.05
    assert asked(pace, 1, cookie="one") == [429]  # half of one has come in
    clock.at = 1.0
    assert asked(pace, 11, cookie="one") == [200] * 10 + [429]


def test_made_up_cookies_share_the_bucket_of_their_address() -> None:
    pace = Pace(app, per_second=10, at_once=20, now=Clock())
    answers = [asked(pace, 1, cookie=f"made up {i}")[0] for i in range(101)]
    assert answers == [200] * 100 + [429]
    assert asked(pace, 1, cookie="made up", address="10.0.0.10") == [200]


def test_pages_and_their_files_are_not_counted() -> None:
    pace = Pace(app, per_second=1, at_once=1, now=Clock())
    assert asked(pace, 5, path="/assets/index.js") == [200] * 5
