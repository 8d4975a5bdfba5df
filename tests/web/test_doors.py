"""What Dosis refuses to open without being told so in words, and how it is with TLS."""

import ipaddress
import os
import ssl
import subprocess
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import httpx
import pytest
import uvicorn
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec

from dosis.people.rights import LabRole
from dosis.settings import ROOT, Settings
from dosis.store import accounts
from dosis.store.database import Database
from dosis.store.private_server import ServerError
from dosis.web.app import create_app
from dosis.web.doors import door
from dosis.web.serve import config_of
from tests.conftest import Site
from tests.web.lab import PASSWORD, hashed


def settings(**given: object) -> Settings:
    return Settings.model_validate({"instruments": "", **given})


@pytest.fixture(scope="module")
def files(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """A certificate for 127.0.0.1 that signs itself, and its key."""
    folder = tmp_path_factory.mktemp("tls")
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "127.0.0.1")])
    made = (
        x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key())
        .serial_number(x509.random_serial_number()).not_valid_before(datetime.now(UTC) - timedelta(days=1))
        .not_valid_after(datetime.now(UTC) + timedelta(days=1))
        .add_extension(x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address("127.0.0.1"))]), critical=False)
        .sign(key, hashes.SHA256())
    )  # fmt: skip
    certificate, secret = folder / "certificate.pem", folder / "key.pem"
    certificate.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    secret.write_bytes(key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    ))  # fmt: skip
    return certificate, secret


def test_on_this_machine_it_opens_as_it_is() -> None:
    found = door(settings(port=8070), alone=True)
    assert found.address == "http://127.0.0.1:8070" and set(found.hosts) == {"127.0.0.1", "localhost", "::1"}


@pytest.mark.parametrize(("given", "alone", "said"), [
    ({"host": "0.0.0.0"}, True, "no accounts"),
    ({"host": "0.0.0.0"}, False, "unencrypted"),
    ({"host": "0.0.0.0", "without_tls": "accepted"}, False, "by which names"),
    ({"tls_certificate": "/nowhere/c.pem"}, False, "needs both files"),
    ({"tls_certificate": "/nowhere/c.pem", "tls_key": "/nowhere/k.pem"}, False, "There is no file /nowhere/c.pem"),
])  # fmt: skip
def test_what_would_let_others_in_is_refused_in_words(given: dict[str, str], alone: bool, said: str) -> None:
    with pytest.raises(ServerError, match=said):
        door(settings(**given), alone=alone)


def test_told_so_it_opens(files: tuple[Path, Path]) -> None:
    plain = door(settings(host="0.0.0.0", without_tls="accepted", hosts="lab.example, 10.0.0.5", port=80), alone=False)
    assert plain.address == "http://lab.example:80" and {"lab.example", "10.0.0.5", "127.0.0.1"} <= set(plain.hosts)
    own = settings(host="0.0.0.0", tls_certificate=files[0], tls_key=files[1], hosts="*", port=443)
    assert door(own, alone=False).address == "https://0.0.0.0:443"


def test_the_demo_refuses_the_network_with_a_sentence(tmp_path: Path) -> None:
    command = ["./dosis", "demo"]
    environment = {**os.environ, "DOSIS_HOST": "0.0.0.0", "DOSIS_HOME": str(tmp_path)}
    done = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False, timeout=300)
    assert done.returncode == 1 and "for this machine only" in done.stderr


def test_with_tls_the_cookie_is_for_tls_alone_and_browsers_are_told_to_stay(
    database: Database, files: tuple[Path, Path]
) -> None:
    own = settings(tls_certificate=files[0], tls_key=files[1])
    web = uvicorn.Server(config_of(own, create_app(database, None), port=0))
    thread = threading.Thread(target=web.run, daemon=True)
    thread.start()
    while not web.started:
        time.sleep(0.01)
    port = web.servers[0].sockets[0].getsockname()[1]
    email = f"{uuid4().hex[:8]}@lab.example"
    with database.transaction() as db:
        link = accounts.invite(db, accounts.NewPerson(name=email, email=email, roles=(LabRole.READER,)), "tester")
        accounts.come_in(db, link, hashed(PASSWORD))
    trusted = ssl.create_default_context(cafile=str(files[0]))
    with httpx.Client(base_url=f"https://127.0.0.1:{port}", verify=trusted) as client:
        answer = client.post("/api/sign-in", json={"email": email, "password": PASSWORD})
        cookie = answer.headers["set-cookie"].lower()
        assert cookie.startswith("__host-dosis=") and "secure" in cookie and "samesite=strict" in cookie
        assert answer.headers["strict-transport-security"].startswith("max-age=")
        assert client.get("/api/me").json()["email"] == email
    web.should_exit = True
    thread.join(timeout=10)


def test_what_the_api_says_is_kept_nowhere_and_the_server_is_not_named(site: Site) -> None:
    answer = site.client.get("/api/studies")
    assert answer.headers["cache-control"] == "no-store" and "strict-transport-security" not in answer.headers
