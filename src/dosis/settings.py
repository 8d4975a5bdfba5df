"""All settings in one place, from the environment (DOSIS_…)."""

import getpass
from pathlib import Path

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


def _who() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return "unknown"


class Settings(BaseSettings):
    """home: folder of the private database; database_url: another MariaDB instead; author: who the ledger names;
    compiling: the process that makes the fitting loops, on the first start, which the launcher names;
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
