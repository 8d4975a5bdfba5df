"""A lab with accounts, for tests: an application of its own over the shared database, and people signed in at it."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from uuid import uuid4

import httpx

from dosis.people.rights import LabRole
from dosis.settings import ROOT
from dosis.store import accounts, sessions
from dosis.store.accounts import NewPerson, StudyRoles
from dosis.store.database import Database
from dosis.web.app import create_app
from dosis.web.routes.sign_in import hashed
from tests.conftest import served
from tests.tables import SMALL

PASSWORD = "twelve mussels in broth"


@dataclass
class Lab:
    """The application, and a client for each who is asked for. kept : the hash of the password that all have."""

    url: str
    database: Database
    kept: str

    def person(self, *roles: LabRole, studies: StudyRoles | None = None, name: str = "") -> httpx.Client:
        """A client in which somebody new with these roles is signed in."""
        name = name or f"Person {uuid4().hex[:8]}"
        email = f"{uuid4().hex[:8]}@lab.example"
        with self.database.transaction() as db:
            link = accounts.invite(db, NewPerson(name=name, email=email, roles=roles, studies=studies or {}), "tester")
            id = accounts.come_in(db, link, self.kept)
            assert id is not None
            secret = sessions.begin(db, id, "127.0.0.1", "tests")
        client = self.nobody()
        client.cookies.set("dosis", secret)
        me = client.get("/api/me").raise_for_status().json()
        client.headers["X-Dosis-Page"] = me["page_key"]
        client.headers["X-Test-Email"], client.headers["X-Test-Account"] = email, str(id)
        return client

    def nobody(self) -> httpx.Client:
        """A client in which nobody is signed in."""
        return httpx.Client(base_url=self.url, timeout=60)


def opened(client: httpx.Client, study: int, title: str = "Of one study", text: str = SMALL) -> httpx.Response:
    """The answer to opening a run."""
    return client.post("/api/runs", json={"study": study, "title": title, "key": str(uuid4()), "text": text})


@contextmanager
def lab_of(database: Database) -> Iterator[Lab]:
    """A lab, as long as it is needed."""
    with served(create_app(database, None, ROOT / "frontend" / "dist")) as site:
        yield Lab(site.url, database, hashed(PASSWORD))
