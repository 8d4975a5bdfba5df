"""What tests share: published data, a private MariaDB, and the application served over HTTP."""

import json
import os
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx
import pytest
import uvicorn
from fastapi import FastAPI
from hypothesis import HealthCheck, settings

from dosis.demo.load import load
from dosis.instruments.stand_ins import stand_ins
from dosis.settings import ROOT
from dosis.store import grants, methods
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer
from dosis.web.app import create_app

HERE = Path(__file__).parent
# No clock, for machines differ. Examples are new in every run: one that fails is printed with the seed that brings it
# back (--hypothesis-seed); the tests themselves come in random order (-p "randomly" prints its seed, too).
settings.register_profile(
    "dosis", deadline=None, database=None, print_blob=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("dosis")


def reference(name: str) -> dict[str, Any]:
    """A file of tests/reference."""
    return json.loads((HERE / "reference" / f"{name}.json").read_text("utf-8"))


@pytest.fixture(scope="session")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[PrivateServer]:
    """A real MariaDB of its own, stopped at the end. It is not restarted by itself: tests do that."""
    os.umask(0o022)
    private = PrivateServer(tmp_path_factory.mktemp("mariadb"), supervise=False)
    private.start()
    with closing(private._as_root()) as root, root.cursor() as cursor:
        # What outlasts a kill is tried on servers of their own; here nothing waits for the disk.
        cursor.execute("SET GLOBAL innodb_flush_log_at_trx_commit = 2")
    yield private
    private.stop()


def migrated(server: PrivateServer, scratch: Path) -> Database:
    """The schema as the program finds it when it starts: made by who owns it, with the methods that ship."""
    store = Database(server.url, scratch)
    with closing(Database(server.owner_url)) as owner:
        owner.migrate()
        grants.give(owner, store)
    with store.transaction() as db:
        methods.ship(db)
    return store


@pytest.fixture(scope="session")
def database(server: PrivateServer, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Database]:
    """The migrated schema with the demo study."""
    store = migrated(server, tmp_path_factory.mktemp("scratch"))
    load(store)
    yield store
    store.close()


@pytest.fixture(scope="session")
def owner(server: PrivateServer, database: Database) -> Iterator[Database]:
    """The same schema by who owns it, for tests that tamper with what the program cannot."""
    assert database.url != server.owner_url
    store = Database(server.owner_url)
    yield store
    store.close()


@dataclass
class Site:
    """The application as served."""

    url: str
    client: httpx.Client


@pytest.fixture(scope="session")
def instruments() -> Iterator[tuple[str, ...]]:
    """Addresses of the simulated instruments, in a process of their own."""
    with stand_ins() as addresses:
        yield addresses


@pytest.fixture(scope="session")
def site(database: Database, instruments: tuple[str, ...]) -> Iterator[Site]:
    """The real application with the built pages, on a free loopback port."""
    with served(create_app(database, "tester", ROOT / "frontend" / "dist", instruments=instruments)) as found:
        yield found


@contextmanager
def served(app: FastAPI) -> Iterator[Site]:
    """An application over HTTP on a free loopback port."""
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    web = uvicorn.Server(uvicorn.Config(app, log_config=None, log_level="error"))
    thread = threading.Thread(target=web.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    url = f"http://127.0.0.1:{listener.getsockname()[1]}"
    while not web.started:
        time.sleep(0.01)
    with httpx.Client(base_url=url, timeout=60) as client:
        yield Site(url, client)
    web.should_exit = True
    thread.join(timeout=10)
    listener.close()
