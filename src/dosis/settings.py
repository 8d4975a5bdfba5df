"""All settings in one place, from the environment (DOSIS_…)."""

import getpass
from pathlib import Path
from typing import Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


def _who() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return "unknown"


class Settings(BaseSettings):
    """home: folder of the private database; database_url: another MariaDB instead; migrate_url: the same by an account
    that may change its schema, where that of database_url may not; author: the visitor of the demo;
    hosts: names by which people reach a server beyond this machine, with commas between, or "*" for any;
    tls_certificate, tls_key: files in PEM; without_tls: "accepted" where something in front of it encrypts;
    proxies: addresses whose word is taken for where a request came from; workers: processes that answer;
    oidc_issuer, oidc_client, oidc_secret: an identity provider by which people may sign in;
    compiling: the process that makes the fitting loops, on the first start, which the launcher names;
    backups: how many nightly ones are kept, none with 0;
    cluster: a scheduler of Dask that batches are worked on, such as tcp://10.0.0.5:8786, instead of processes here;
    instruments: addresses of those connected, "host:port" with commas between; "simulated" starts the stand-ins.
    """

    model_config = SettingsConfigDict(env_prefix="DOSIS_")

    home: Path = ROOT / ".dosis"
    database_url: str = ""
    host: str = "127.0.0.1"
    port: int = 8070
    instruments: str = "simulated"
    author: str = Field(default_factory=_who)
    pages: Path = ROOT / "frontend" / "dist"
    compiling: str = ""
    migrate_url: str = ""
    hosts: str = ""
    tls_certificate: Path | None = None
    tls_key: Path | None = None
    without_tls: Literal["", "accepted"] = ""
    proxies: str = ""
    workers: int = Field(default=1, ge=1, le=64)
    oidc_issuer: str = ""
    oidc_client: str = ""
    oidc_secret: str = ""
    cluster: str = ""
    backups: int = 7
