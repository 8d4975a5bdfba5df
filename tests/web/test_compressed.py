"""What goes over a network is compressed, what stays on the machine is not."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

import httpx
import pytest
from starlette.responses import PlainTextResponse

from dosis.web.compressed import Compressed


@pytest.mark.parametrize(("address", "encoding"), [("127.0.0.1", None), ("::1", None), ("192.0.2.7", "gzip")])
def test_compressed_for_others_alone(address: str, encoding: str | None) -> None:
    text = "phosphate " * 5000

    async def ask() -> httpx.Response:
        app = Compressed(PlainTextResponse(text), minimum_size=20_000)
        transport = httpx.ASGITransport(app=app, client=(address, 50_000))
        async with httpx.AsyncClient(transport=transport, base_url="http://dosis.test") as client:
            return await client.get("/", headers={"accept-encoding": "gzip"})

    # In a thread of its own: that of the tests has the browser's loop already.
    with ThreadPoolExecutor(1) as pool:
        found = pool.submit(lambda: asyncio.run(ask())).result()
    assert found.text == text
    assert found.headers.get("content-encoding") == encoding
