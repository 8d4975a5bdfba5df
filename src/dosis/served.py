"""What the server that is running here says, for commands that need one of its runs or methods."""

import os
import urllib.error
import urllib.request

from dosis.settings import Settings

SECONDS = 120


def served(path: str) -> bytes:
    """The answer of an address of its API, by the token of DOSIS_TOKEN where people have accounts.

    Raises
    ------
    urllib.error.HTTPError : where the server has no such thing. OSError : where none is running.
    """
    token = os.environ.get("DOSIS_TOKEN", "")
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    asked = urllib.request.Request(f"{address()}/api/{path}", headers=headers)
    with urllib.request.urlopen(asked, timeout=SECONDS) as answer:
        found: bytes = answer.read()
    return found


def address() -> str:
    """Where the settings say it is."""
    settings = Settings()
    scheme = "https" if settings.tls_certificate else "http"
    return f"{scheme}://{settings.host}:{settings.port}"
