"""Signing in by an identity provider: the right answer lets in, every wrong one does not."""

import time
from collections.abc import Iterator
from typing import Any
from urllib.parse import parse_qs, urlsplit

import httpx
import pytest
from joserfc.jwk import RSAKey

from dosis.people.rights import LabRole
from dosis.store.database import Database
from dosis.web.app import create_app
from dosis.web.provider import Provider
from tests.conftest import served
from tests.web.lab import Lab, hashed
from tests.web.stand_in_provider import Saying, stand_in


@pytest.fixture(scope="module")
def saying() -> Saying:
    return Saying()


@pytest.fixture(scope="module")
def lab(database: Database, saying: Saying) -> Iterator[Lab]:
    issuer: list[str] = []
    with served(stand_in(issuer, saying)) as there:
        issuer.append(there.url)
        with served(create_app(database, None, provider=Provider(there.url, "dosis", "secret"))) as here:
            yield Lab(here.url, database, hashed("twelve mussels in broth"))


def gone_through(lab: Lab, client: httpx.Client, state: str = "") -> httpx.Response:
    """To the provider and back, as a browser goes. state : another one than was sent along."""
    begun = client.get("/api/provider/begin")
    assert begun.status_code == 303
    back = client.get(begun.headers["location"]).headers["location"]
    if state:
        back = back.replace(parse_qs(urlsplit(back).query)["state"][0], state)
    return client.get(back)


def test_who_the_provider_knows_is_let_in(lab: Lab, saying: Saying) -> None:
    email = lab.person(LabRole.READER).headers["X-Test-Email"]
    saying.claims, saying.key = {"email": email.upper()}, None
    client = lab.nobody()
    assert client.get("/api/provider").json()["name"] == "127.0.0.1"
    answer = gone_through(lab, client)
    assert (answer.status_code, answer.headers["location"]) == (303, "/")
    assert client.get("/api/me").json()["email"] == email


WRONG: list[tuple[str, dict[str, Any]]] = [
    ("another issuer", {"iss": "http://elsewhere.example"}), ("for another client", {"aud": "other"}),
    ("too late", {"exp": int(time.time()) - 3600}), ("to another question", {"nonce": "other"}),
    ("an address nobody verified", {"email_verified": False}), ("nobody", {"email": None}),
]  # fmt: skip


@pytest.mark.parametrize(("what", "claims"), WRONG, ids=[what for what, _ in WRONG])
def test_a_wrong_answer_lets_nobody_in(lab: Lab, saying: Saying, what: str, claims: dict[str, Any]) -> None:
    saying.claims = {"email": lab.person(LabRole.READER).headers["X-Test-Email"], **claims}
    saying.key = None
    client = lab.nobody()
    assert gone_through(lab, client).status_code == 401
    assert client.get("/api/me").status_code == 401


def test_what_another_key_has_signed_lets_nobody_in(lab: Lab, saying: Saying) -> None:
    saying.claims = {"email": lab.person(LabRole.READER).headers["X-Test-Email"]}
    saying.key = RSAKey.generate_key(2048, parameters={"kid": "own"})
    assert gone_through(lab, lab.nobody()).status_code == 401
    saying.key = None


def test_an_answer_to_another_browser_lets_nobody_in(lab: Lab, saying: Saying) -> None:
    saying.claims = {"email": lab.person(LabRole.READER).headers["X-Test-Email"]}
    assert gone_through(lab, lab.nobody(), state="of-another").status_code == 401
    bare = lab.nobody()
    assert bare.get("/api/provider/back", params={"code": "once", "state": "x"}).status_code == 401


def test_whom_the_lab_does_not_know_is_told_so(lab: Lab, saying: Saying) -> None:
    saying.claims = {"email": "stranger@x.example"}
    answer = gone_through(lab, lab.nobody())
    assert answer.status_code == 401 and "stranger@x.example" in answer.json()["detail"]
