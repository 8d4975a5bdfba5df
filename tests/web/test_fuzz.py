"""Every route of the OpenAPI document with whatever fits its schema, signed in and not: no 500, no reply over 10 s.

A few examples of each here; DOSIS_FUZZ=20000 sends as many requests.
"""

import os
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any
from uuid import uuid4

import httpx
import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.core import NotSet

from dosis.people.rights import LabRole
from dosis.store import accounts
from dosis.store.private_server import PrivateServer
from dosis.web.app import create_app
from tests.conftest import migrated, served
from tests.web.lab import Lab, hashed, opened

REQUESTS = int(os.environ.get("DOSIS_FUZZ", "1500"))
SLOWEST = 10.0
OF_MANY_PAGES = 60.0  # a PDF takes a second a page, and the study it is of grows with what is sent
# What ends the session that the others are sent in.
LEFT_OUT = {("post", "/api/sign-out"), ("delete", "/api/me/sessions"), ("delete", "/api/me/sessions/{id}")}


@pytest.fixture(scope="module")
def lab(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Lab]:
    """A lab on a database of its own, for what is sent deletes and renames what it meets."""
    server = PrivateServer(tmp_path_factory.mktemp("fuzz") / "db", supervise=False)
    server.start()
    store = migrated(server, tmp_path_factory.mktemp("fuzz-scratch"))
    with served(create_app(store, None)) as site:
        yield Lab(site.url, store, hashed("twelve mussels in broth"))
    store.close()
    server.stop()


@pytest.fixture(scope="module")
def person(lab: Lab) -> httpx.Client:
    """Somebody who may do everything, with a study, a run, a batch, a file and a remark numbered 1."""
    client = lab.person(*LabRole)
    client.post("/api/studies", json={"name": "Fuzzed"}).raise_for_status()
    opened(client, 1, "Fuzzed").raise_for_status()
    batch = {"name": "Fuzzed", "study": 1, "method": 1, "key": str(uuid4())}
    client.post("/api/batches", json=batch).raise_for_status()
    client.post("/api/files", json={"key": str(uuid4()), "name": "a.csv", "size": 9}).raise_for_status()
    remark = {"place": "run", "named": "the run", "text": "Look."}
    client.post("/api/runs/1/review/remarks", json=remark).raise_for_status()
    client.get("/api/runs/1/report.pdf").raise_for_status()  # the first starts what sets pages
    return client


def kept_able(lab: Lab) -> None:
    """What a request may have taken away: the rights of who sends them, and the run from being a draft."""
    with lab.database.transaction() as db:
        accounts.set_rights(db, 1, tuple(LabRole), {}, "tester")
        db.run("UPDATE run SET stage = 'draft', binned_at = NULL WHERE id = 1")
        db.run("UPDATE account SET closed_at = NULL")
        db.run("DELETE FROM refused_sign_in")


def try_out(operation: Any, times: int, senders: Sequence[Callable[[Any, str, str], None]]) -> None:
    """Send what fits the schema of a route so many times by each."""

    @given(case=operation.as_strategy())
    @settings(
        max_examples=times, deadline=None, database=None, phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )  # fmt: skip
    def tried(case: Any) -> None:
        for send in senders:
            send(case, operation.method, operation.path)

    tried()


@pytest.mark.slow
def test_no_request_is_answered_by_a_mistake_or_late(lab: Lab, person: httpx.Client) -> None:
    schema = schemathesis.openapi.from_dict(person.get("/api/openapi.json").json())
    operations = [each.ok() for each in schema.get_all_operations()]
    operations = [each for each in operations if (each.method.lower(), each.path) not in LEFT_OUT]
    assert len(operations) > 120
    each_time = max(REQUESTS // (2 * len(operations)), 2)
    wrong, answers = list[str](), Counter[int]()

    def sent(client: httpx.Client, case: Any, method: str, path: str) -> None:
        parts = {name: str(value) for name, value in (case.path_parameters or {}).items()}
        if "id" in parts and sum(answers.values()) % 4:
            parts["id"] = "1"  # mostly of something that is there
        for name, value in parts.items():
            path = path.replace("{" + name + "}", httpx.URL(path="/" + value).raw_path.decode()[1:])
        body = {} if isinstance(case.body, NotSet) else {"json": case.body}
        begun = time.monotonic()
        try:
            answer = client.request(method, path, params=dict(case.query or {}), timeout=60, **body)
        except (httpx.InvalidURL, UnicodeError, ValueError):
            return  # nothing that can be sent
        except httpx.TimeoutException:
            wrong.append(f"{method} {path} {case.query} {str(case.body)[:300]}: no answer in 60 s")
            return
        took = time.monotonic() - begun
        answers[answer.status_code] += 1
        most = OF_MANY_PAGES if path.endswith("/report.pdf") else SLOWEST
        if answer.status_code >= 500 or took > most:
            wrong.append(f"{method} {path} {case.query} {str(case.body)[:300]}: {answer.status_code}, {took:.1f} s")

    nobody = lab.nobody()
    for operation in operations:
        kept_able(lab)
        try_out(operation, each_time, [partial(sent, client) for client in (person, nobody)])
    nobody.close()
    print(dict(answers))
    assert wrong == []
    assert answers[200] > 100 and answers[401] > 100  # it did get in, and was kept out
