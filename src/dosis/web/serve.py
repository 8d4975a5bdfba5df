"""Serving: the private database, the schema and the web server, started in order and stopped cleanly."""

import signal
import socket
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import Thread

import uvicorn

from dosis.instruments.stand_ins import stand_ins
from dosis.settings import Settings
from dosis.store.database import Database
from dosis.store.private_server import PrivateServer, ServerError
from dosis.web.app import LOOPBACK, create_app
from dosis.web.logs import write_logs
from dosis.web.readiness import Readiness
from dosis.web.workers import collect_seldom


@contextmanager
def database(settings: Settings, home: Path) -> Iterator[Database]:
    """The database to work on, migrated: the one the settings name, or a private one under `home`."""
    server = None
    url = settings.database_url
    if not url:
        server = PrivateServer(home)
        server.start()
        url = server.url
    store = Database(url)
    try:
        store.migrate()
        yield store
    finally:
        store.close()
        if server:
            server.stop()


def _ready_to_fit(readiness: Readiness, store: Database, later: Callable[[Database], None] | None) -> None:
    """Have the compiled loops loaded before the first run is evaluated, and do what had to wait for them."""
    from dosis.core.fitting.sigmoids.prepare import prepare

    readiness.wait()
    prepare()
    if later:
        later(store)
        print("  Compiled; the demo study is there.", flush=True)


def serve(settings: Settings, home: Path, before: Callable[[Database], None] | None = None) -> None:
    """Serve until Ctrl-C or SIGTERM.

    Raises
    ------
    ServerError : when the port is taken, the pages are not built, or the database does not start.
    """
    if not (settings.pages / "index.html").exists():
        raise ServerError("The pages are not built. Run ./dosis serve, which builds them.")
    listener = _listen(settings.host, settings.port)
    with listener, _instruments(settings) as instruments, database(settings, home) as store:
        readiness = Readiness(settings.compiling)
        if before and readiness.now:
            before(store)
        # On loopback only its own names; a server others reach is called by whatever name they know it by.
        hosts = LOOPBACK if settings.host in LOOPBACK else ("*",)
        write_logs(home / "logs")
        app = create_app(store, settings.author, settings.pages, hosts, instruments, readiness)
        config = uvicorn.Config(app, log_level="warning", log_config=None, timeout_graceful_shutdown=5)
        named = f"[{settings.host}]" if ":" in settings.host else settings.host
        address = f"http://{named}:{settings.port}"
        print(f"\n  Dosis is ready at  {address}\n  Ctrl-C stops it.\n", flush=True)
        # uvicorn raises the signal that stopped it once more when it is done; the database is still to be stopped.
        signal.signal(signal.SIGTERM, signal.default_int_handler)
        collect_seldom()
        later = before if before and not readiness.now else None
        if not readiness.now:
            print("  The fitting loops are still being compiled; pages open now, runs when that is done.", flush=True)
        Thread(target=_ready_to_fit, args=(readiness, store, later), daemon=True).start()
        with suppress(KeyboardInterrupt):
            uvicorn.Server(config).run(sockets=[listener])
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        print("Stopping …", flush=True)


@contextmanager
def _instruments(settings: Settings) -> Iterator[tuple[str, ...]]:
    if settings.instruments == "simulated":
        with stand_ins() as addresses:
            yield addresses
    else:
        yield tuple(part.strip() for part in settings.instruments.split(",") if part.strip())


def _listen(host: str, port: int) -> socket.socket:
    # Named TCP, asyncio sends small packets at once; else every larger answer waits 40 ms for an acknowledgement.
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError as error:
        listener.close()
        raise ServerError(
            f"Port {port} on {host} is taken ({error.strerror}). Choose another one: DOSIS_PORT=8071 ./dosis …"
        ) from error
    return listener
