"""Where Dosis listens and by which names it is called; what it refuses to open without being told so in words."""

import socket
from collections.abc import Sequence
from dataclasses import dataclass

from dosis.settings import Settings
from dosis.store.private_server import ServerError
from dosis.web.app import LOOPBACK


@dataclass(frozen=True)
class Door:
    """An address that is open. scheme : http or https; hosts : names it answers to."""

    address: str
    hosts: Sequence[str]


def door(settings: Settings, *, alone: bool) -> Door:
    """How the settings open it. alone : one person has Dosis to themselves, without a sign-in.

    Raises
    ------
    ServerError : for what would let others in, or be read on its way, without having been asked for.
    """
    if (settings.tls_certificate is None) != (settings.tls_key is None):
        raise ServerError("TLS needs both files: DOSIS_TLS_CERTIFICATE and DOSIS_TLS_KEY.")
    for file in (settings.tls_certificate, settings.tls_key):
        if file is not None and not file.is_file():
            raise ServerError(f"There is no file {file}, which was named for TLS.")
    beyond = settings.host not in LOOPBACK
    if beyond and alone:
        raise ServerError(
            "The demo has no accounts, so it is for this machine only. Leave DOSIS_HOST out, or start ./dosis serve."
        )
    if beyond and settings.tls_certificate is None and settings.without_tls != "accepted":
        raise ServerError(
            f"On {settings.host} passwords and readings would travel unencrypted. Name DOSIS_TLS_CERTIFICATE and "
            "DOSIS_TLS_KEY; or, where something in front of Dosis encrypts, set DOSIS_WITHOUT_TLS=accepted."
        )
    named = tuple(name.strip() for name in settings.hosts.split(",") if name.strip())
    if beyond and not named:
        raise ServerError(
            "Say by which names people reach it, such as DOSIS_HOSTS=dosis.lab.example,10.0.0.5; "
            "DOSIS_HOSTS=* takes any."
        )
    scheme = "https" if settings.tls_certificate else "http"
    host = named[0] if beyond and named[0] != "*" else settings.host
    host = f"[{host}]" if ":" in host else host
    return Door(f"{scheme}://{host}:{settings.port}", (*LOOPBACK, *named))


def listen(host: str, port: int) -> socket.socket:
    """The socket. Raises ServerError where the port is taken."""
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
