"""Serving: the private database, the schema and the web server, started in order and stopped cleanly."""

import signal
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from threading import Thread
from typing import Any

import structlog
import uvicorn
from uvicorn.supervisors import Multiprocess

from dosis.instruments.stand_ins import stand_ins
from dosis.settings import Settings
from dosis.store import accounts, grants, house, listing, methods
from dosis.store.backup import BackupError, back_up, keep_nightly
from dosis.store.database import Database, Newer
from dosis.store.private_server import PrivateServer, ServerError
from dosis.web.doors import door, listen
from dosis.web.process import composed, hand_on
from dosis.web.readiness import Readiness

log = structlog.get_logger()
FIRST_BACKUP = 600.0  # seconds after the start: a short look at Dosis needs none


@contextmanager
def database(settings: Settings, home: Path) -> Iterator[Database]:
    """The database to work on, migrated: the one the settings name, or a private one under `home`."""
    server = None
    url, owner_url = settings.database_url, settings.migrate_url or settings.database_url
    if not url:
        server = PrivateServer(home)
        server.start()
        url, owner_url = server.url, server.owner_url
    store = Database(url, home / "recordings")
    try:
        with closing(Database(owner_url)) as owner:
            _bring_up_to_date(owner, store, home)
        with store.transaction() as db:
            listing.complete(db)
            house.purge(db)
            methods.ship(db)
        yield store
    except (Newer, BackupError) as error:
        raise ServerError(str(error)) from error
    finally:
        store.close()
        if server:
            server.stop()


def _bring_up_to_date(owner: Database, store: Database, home: Path) -> None:
    """Migrate as the schema's owner, and give the program's account what it needs and no more."""
    if pending := owner.pending():
        made = home / "backups" / f"before-{pending[0].removesuffix('.sql')}.zip"
        print(f"  A backup is made before the database is brought up to date: {made}", flush=True)
        back_up(owner.url, made, check=False)
    owner.migrate()
    grants.give(owner, store)
    with store.transaction() as db:
        if grants.may_rewrite(db):
            print("  The database account of DOSIS_DATABASE_URL could rewrite the Ledger; docs/security.md says how to "
                  "give it less.", flush=True)  # fmt: skip


def _back_up_nightly(store: Database, folder: Path, keep: int) -> None:
    """Once a day, while Dosis runs; what stands in the way is logged, and tried again an hour later."""
    time.sleep(FIRST_BACKUP)
    while True:
        try:
            keep_nightly(store.url, folder, keep, datetime.now(UTC))
        except BackupError as error:
            log.error("no nightly backup", why=str(error))
        time.sleep(3600)


def _ready_to_fit(readiness: Readiness, store: Database, later: Callable[[Database], None] | None) -> None:
    """Have the compiled loops loaded before the first run is evaluated, and do what had to wait for them."""
    from dosis.core.fitting.sigmoids.prepare import prepare

    readiness.wait()
    prepare()
    if later:
        later(store)
        print("  Compiled; the demo study is there.", flush=True)


def serve(settings: Settings, home: Path, before: Callable[[Database], None] | None = None) -> None:
    """Serve until Ctrl-C or SIGTERM. before : makes the demo, whose visitor needs no account.

    Raises
    ------
    ServerError : when the port is taken, the pages are not built, or the database does not start.
    """
    if not (settings.pages / "index.html").exists():
        raise ServerError("The pages are not built. Run ./dosis serve, which builds them.")
    alone_as = settings.author if before else None
    opened = door(settings, alone=alone_as is not None)
    listener = listen(settings.host, settings.port)
    with listener, _instruments(settings) as instruments, database(settings, home) as store:
        readiness = Readiness(settings.compiling)
        # Asked once: it can become so between two looks, and what has to be done before would be forgotten.
        compiled = readiness.now
        if before and compiled:
            before(store)
        print(f"\n  Dosis is ready at  {opened.address}\n  Ctrl-C stops it.\n", flush=True)
        _say_who_comes_in(store, alone_as, opened.address)
        # uvicorn raises the signal that stopped it once more when it is done; the database is still to be stopped.
        signal.signal(signal.SIGTERM, signal.default_int_handler)
        later = before if before and not compiled else None
        if not compiled:
            print("  The fitting loops are still being compiled; pages open now, runs when that is done.", flush=True)
        nightly = (store, home / "backups", settings.backups)
        Thread(target=_back_up_nightly, args=nightly, daemon=True).start()
        Thread(target=_ready_to_fit, args=(readiness, store, later), daemon=True).start()
        with suppress(KeyboardInterrupt):
            if settings.workers == 1:
                app = composed(settings, store, home, alone_as, opened.hosts, instruments, readiness)
                uvicorn.Server(config_of(settings, app)).run(sockets=[listener])
            else:
                hand_on(store.url, home, alone_as, tuple(opened.hosts), instruments)
                config = config_of(settings, "dosis.web.process:app", factory=True, workers=settings.workers)
                Multiprocess(config, sockets=[listener]).run()
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        print("Stopping …", flush=True)


KEPT_OPEN = 75
"""Seconds a silent connection stays open: longer than people pause between two actions."""


def config_of(settings: Settings, app: Any, **more: Any) -> uvicorn.Config:
    """How uvicorn serves it."""
    return uvicorn.Config(
        app, log_level="warning", log_config=None, timeout_graceful_shutdown=5, timeout_keep_alive=KEPT_OPEN,
        timeout_worker_healthcheck=60, server_header=False,
        ssl_certfile=settings.tls_certificate, ssl_keyfile=settings.tls_key,
        proxy_headers=bool(settings.proxies), forwarded_allow_ips=settings.proxies or None, **more,
    )  # fmt: skip


def _say_who_comes_in(store: Database, alone_as: str | None, address: str) -> None:
    """The one-time link of the first administrator, as long as there is none."""
    if alone_as is not None:
        print(f"  The demo signs its visitor in by itself, as {alone_as}, who may do everything.\n", flush=True)
        return
    with store.transaction() as db:
        secret = "" if accounts.has_administrator(db) else accounts.link(db, None)
    if secret:
        print(
            "  Nobody can sign in yet. The first administrator comes in by this link, which works once and for "
            f"{accounts.LINK_HOURS} hours:\n\n  {address}/welcome#{secret}\n",
            flush=True,
        )


@contextmanager
def _instruments(settings: Settings) -> Iterator[tuple[str, ...]]:
    if settings.instruments == "simulated":
        with stand_ins() as addresses:
            yield addresses
    else:
        yield tuple(part.strip() for part in settings.instruments.split(",") if part.strip())
