"""One of several processes that answer on the same socket. Nothing is kept in one that another would need."""

import json
import os
from collections.abc import Sequence
from pathlib import Path

from fastapi import FastAPI

from dosis.settings import Settings
from dosis.store.database import Database
from dosis.web.app import create_app
from dosis.web.logs import write_logs
from dosis.web.provider import Provider
from dosis.web.readiness import Readiness
from dosis.web.workers import collect_seldom

GIVEN = "DOSIS_PROCESS"  # the variable in which a process is handed what the first one has found out


def hand_on(url: str, home: Path, alone_as: str | None, hosts: tuple[str, ...], instruments: tuple[str, ...]) -> None:
    """Leave it for the processes that are started from here."""
    found = {"url": url, "home": str(home), "alone_as": alone_as, "hosts": hosts, "instruments": instruments}
    os.environ[GIVEN] = json.dumps(found)


def composed(
    settings: Settings, store: Database, home: Path, alone_as: str | None, hosts: Sequence[str],
    instruments: Sequence[str], readiness: Readiness,
) -> FastAPI:  # fmt: skip
    """The application as the settings want it, in whichever process; what it has to tell goes to the logs of `home`."""
    write_logs(home / "logs")
    collect_seldom()
    provider = None
    if settings.oidc_issuer:
        provider = Provider(settings.oidc_issuer, settings.oidc_client, settings.oidc_secret)
    return create_app(store, alone_as, settings.pages, hosts, instruments, readiness, settings.cluster, provider)


def app() -> FastAPI:
    """The application of such a process."""
    given, settings = json.loads(os.environ[GIVEN]), Settings()
    home = Path(given["home"])
    store = Database(given["url"], home / "recordings")
    return composed(
        settings, store, home, given["alone_as"], given["hosts"], given["instruments"], Readiness(settings.compiling)
    )
