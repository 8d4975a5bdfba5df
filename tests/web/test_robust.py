"""What used to be answered with 500, each with the answer it should have: a document in plain words, or a page."""

import base64
import http.client
import io
import json
import logging
import re
import time
import zipfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from operator import truediv
from pathlib import Path
from urllib.parse import urlsplit
from uuid import uuid4

import httpx
import pytest
import structlog
from structlog.testing import capture_logs

from dosis.intake.text import IntakeError
from dosis.store.database import Database, DiskFull
from dosis.web.app import create_app
from dosis.web.logs import write_logs
from dosis.web.workers import Workers
from tests.conftest import Site, served
from tests.outcomes import sent
from tests.tables import PHOSPHATE
from tests.web.test_api import change, open_run

COUNTS = "Treatment\tDose (mg/L)\tExposed\tDead\n" + "\n".join(
    f"A\t{x}\t20\t{r}" for x, r in ((0, 1), (1, 3), (2, 9), (4, 17))
)


def said(answer: httpx.Response, status: int) -> str:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"].startswith("application/problem+json")
    return answer.json()["title"] + " " + answer.json()["detail"]


def test_one_key_sent_twelve_times_at_once_opens_one_run(site: Site) -> None:
    body = {"study": 1, "title": "Once", "key": str(uuid4()), "text": PHOSPHATE}
    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(lambda _: httpx.post(f"{site.url}/api/runs", json=body, timeout=60), range(12)))
    assert {answer.status_code for answer in answers} == {201}
    assert len({answer.json()["run"]["id"] for answer in answers}) == 1


def test_one_name_kept_by_twelve_at_once_is_kept_once(site: Site) -> None:
    name = f"Salinity {uuid4().hex}"
    body, address = {"name": name, "text": "mS/cm\tPSU\n1\t2\n2\t4.1\n3\t6.3"}, "/api/lookups"
    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(lambda _: httpx.post(f"{site.url}{address}", json=body, timeout=60), range(12)))
    assert {answer.status_code for answer in answers} <= {200, 201, 503}
    kept = [each for each in site.client.get(address).json() if each["body"]["name"] == name]
    assert len(kept) == 1


def test_changes_that_do_not_fit_are_refused_in_words(site: Site) -> None:
    run = open_run(site.client, PHOSPHATE).json()
    unknown = {"kind": "assign", "groups": ["g99"], "role": "qc"}
    assert "not in this run's layout" in said(change(site.client, run, unknown), 422)
    limits = {"kind": "set_step", "step": {"kind": "limits"}}
    for question in ("mortality", "dose"):
        other = open_run(site.client, COUNTS, question=question).json()
        assert "no step “limits”" in said(change(site.client, other, limits), 422)


@pytest.mark.parametrize("path", ["/%00", "/a%00b", "/" + "x" * 300, "/" + "y/" * 200, "/..%2f..%2fetc%2fpasswd"])
def test_any_address_is_a_page(site: Site, path: str) -> None:
    answer = site.client.get(path)
    assert answer.status_code == 200 and '<div id="root">' in answer.text


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("Sample\tA\nS\t" + "9" * 140_000, "more than 2,000 characters"),
        ('Sample\tA\nS\t"' + "9" * 140_000, "more than 2,000 characters"),
        ("x" * 200_000, "more than 2,000 characters|only column|no numbers"),
    ],
    ids=["long", "quoted", "bare"],
)  # fmt: skip
def test_a_line_without_end_is_refused_in_words(site: Site, text: str, why: str) -> None:
    answer = site.client.post("/api/intake", json={"text": text})
    assert answer.status_code in (200, 422)
    assert re.search(why, answer.text, re.IGNORECASE)


def test_half_a_character_is_left_out_and_said(site: Site) -> None:
    text = PHOSPHATE.replace("Pier N", "Pier \ud83d N")
    kind = {"content-type": "application/json"}
    answer = site.client.post("/api/intake", content=json.dumps({"text": text}), headers=kind)
    assert answer.status_code == 200 and "invisible character" in answer.text
    body = json.dumps({"study": 1, "title": "Half", "key": str(uuid4()), "text": text})
    assert site.client.post("/api/runs", content=body, headers=kind).status_code == 201


def archive(version: int) -> str:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as made:
        made.writestr("xl/workbook.xml", "<a/>")
    data = bytearray(buffer.getvalue())
    at = data.rindex(b"PK\x01\x02")
    data[at + 6] = version
    return base64.b64encode(bytes(data)).decode()


def test_an_archive_of_an_unknown_version_is_damaged(site: Site) -> None:
    body = {"files": [{"name": "plate.xlsx", "data": archive(200)}]}
    assert "spreadsheet" in said(site.client.post("/api/intake", json=body), 422)


def test_a_heading_longer_than_a_name_may_be_opens_a_run(site: Site) -> None:
    text = PHOSPHATE.replace("A880 rep 1", "Absorbance " * 30 + "rep 1").replace(
        "A880 rep 2", "Absorbance " * 30 + "rep 2"
    )
    assert site.client.post("/api/intake", json={"text": text}).json()["ready"]
    opened = open_run(site.client, text)
    assert opened.status_code == 201 and len(opened.json()["revision"]["layout"]["signal"]["name"]) <= 200


def test_json_is_measured_before_a_table_is_made_of_it(site: Site) -> None:
    rows = [{"name": f"S{i}", "readings": {f"Channel {i}": 0.1}} for i in range(6_000)]
    answer = site.client.post("/api/intake", json={"text": json.dumps({"rows": rows})})
    assert "6,001 different columns" in said(answer, 422)


def test_names_stay_inside_the_archive(site: Site) -> None:
    table = base64.b64encode(PHOSPHATE.encode()).decode()
    files = [{"name": name, "data": table} for name in ("../../etc/a.csv", "..\\b.csv", "c.csv", "x/c.csv")]
    opened = open_run(site.client, "", files=files)
    assert opened.status_code == 201, opened.text
    data = site.client.get(f"/api/runs/{opened.json()['run']['id']}/source").content
    names = zipfile.ZipFile(io.BytesIO(data)).namelist()
    assert names == ["a.csv", "b.csv", "3-c.csv", "4-c.csv"]


def test_every_answer_carries_the_headers(site: Site) -> None:
    for path in ("/", "/api/health", "/assets/none.js", "/api/runs/1/answers.csv"):
        headers = site.client.get(path).headers
        policy = headers["content-security-policy"]
        assert "frame-ancestors 'none'" in policy and "script-src 'self'" in policy and "unsafe-eval" not in policy
        assert headers["x-content-type-options"] == "nosniff" and headers["referrer-policy"] == "no-referrer"
        assert headers["x-frame-options"] == "DENY"


@pytest.mark.parametrize(
    ("host", "status"), [("localhost", 200), ("[::1]:8070", 200), ("127.0.0.1:1", 200), ("evil.example", 400)]
)
def test_it_answers_to_its_own_names_only(site: Site, host: str, status: int) -> None:
    connection = http.client.HTTPConnection(urlsplit(site.url).netloc)
    connection.request("GET", "/api/health", headers={"Host": host})
    assert connection.getresponse().status == status
    connection.close()


@pytest.fixture
def broken(database: Database) -> Iterator[httpx.Client]:
    """The application with two addresses more, at which it makes a mistake and finds the disk full."""
    app = create_app(database, "tester")

    @app.get("/api/boom")
    def boom(secret: str = "42.0815") -> None:
        readings = [secret]  # a lab's data, in a local variable
        raise RuntimeError(f"unforeseen {readings}")

    @app.get("/api/full")
    def full() -> None:
        raise DiskFull

    with served(app) as site:
        site.client.get("/api/health")  # the first request of all makes the chain of what stands before the routes
        yield site.client


def test_a_mistake_is_logged_once_without_data_and_quickly(broken: httpx.Client) -> None:
    with capture_logs() as logs:
        answer = broken.get("/api/boom")
    assert said(answer, 500).startswith("Dosis made a mistake.")
    logs = [each for each in logs if "path" in each]  # other threads may have something to say, too
    assert len(logs) == 1 and logs[0]["path"] == "/api/boom" and "boom" in logs[0]["trace"][-2]
    assert "42.0815" not in json.dumps(logs) and len(json.dumps(logs)) < 4_000
    assert answer.elapsed.total_seconds() < 0.5


def test_logs_are_begun_anew_before_they_grow_large(tmp_path: Path) -> None:
    before, handlers = structlog.get_config(), logging.getLogger().handlers[:]
    try:
        write_logs(tmp_path)
        for i in range(9_000):
            structlog.get_logger("t").info("line", number=i, text="x" * 200)
        sizes = [file.stat().st_size for file in tmp_path.iterdir()]
        assert 1 < len(sizes) <= 6 and max(sizes) <= 1_000_000
    finally:
        for handler in set(logging.getLogger().handlers) - set(handlers):
            handler.close()
        logging.getLogger().handlers = handlers
        structlog.configure(**before)


def test_a_full_disk_is_named(broken: httpx.Client) -> None:
    assert "disk is full" in said(broken.get("/api/full"), 507)


def test_a_worker_gives_results_and_errors_and_is_replaced_when_it_runs_away() -> None:
    workers = Workers(1, seconds=1.5, memory=600_000_000)
    try:
        assert workers.run(truediv, 6, 3) == 2
        with pytest.raises(ZeroDivisionError):
            workers.run(truediv, 1, 0)
        with pytest.raises(IntakeError, match="too long"):
            workers.run(time.sleep, 60)
        with pytest.raises(IntakeError, match="more memory"):
            workers.run(bytearray, 8_000_000_000)
        assert workers.run(truediv, 9, 3) == 3
    finally:
        workers.close()


def test_a_large_table_goes_through_a_worker_and_comes_out_the_same(site: Site) -> None:
    """Over 150 kB of text and 10,000 readings: understood and evaluated elsewhere, to the last digit as here."""
    standards = [f"Std {i}\t{x}\t{0.1 * x}" for i, x in enumerate((1, 2, 4, 8))]
    samples = [
        f"Sample from the northern mussel line number {i:05d}\t\t{0.1 + (i % 700) / 1000}" for i in range(10_500)
    ]
    text = "\n".join(["Sample\tConc (µM)\tA880", *standards, *samples])
    assert len(text) > 150_000
    large = sent(open_run(site.client, text).json())
    small = sent(open_run(site.client, "\n".join(text.splitlines()[:105])).json())
    assert len(large) == 10_500 and [a.in_sample for a in large[:100]] == [a.in_sample for a in small[:100]]


def test_a_number_can_be_worked_out(site: Site) -> None:
    assert site.client.get("/api/number", params={"text": "10^0.5"}).json()["value"] == pytest.approx(10**0.5)
    assert "not a number" in said(site.client.get("/api/number", params={"text": "ten"}), 422)


def test_a_hopeless_fit_is_ended_and_said_so(site: Site, monkeypatch: pytest.MonkeyPatch) -> None:
    """An equation that a person has typed is fitted elsewhere, for so long and no longer; the run goes on."""
    text = "x\ty\n" + "\n".join(f"{x}\t{2 * x + 1 + (x % 3) / 9}" for x in range(60))
    body = {"study": 1, "title": "Hopeless", "key": str(uuid4()), "text": text, "question": "relation"}
    run = site.client.post("/api/runs", json=body).raise_for_status().json()
    step = next(each for each in run["revision"]["method"]["steps"] if each["kind"] == "relation_curve")
    own = {"kind": "set_step", "step": {**step, "model": "custom", "equation": "a + b*x + c*sin(d*x + f)*exp(-g*x)"}}
    saved = {"based_on": 1, "key": str(uuid4()), "changes": [own]}
    at = f"/api/runs/{run['run']['id']}/changes"
    monkeypatch.setattr("dosis.web.context.HOPELESS", 0.001)
    assert "The fit of this equation was ended" in said(site.client.post(at, json=saved), 422)
    monkeypatch.undo()
    assert site.client.post(at, json=saved).status_code == 200


@pytest.mark.parametrize("path", ["runs", "ledger", "batches/{batch}"])
def test_a_list_from_beyond_what_the_database_counts_is_refused(site: Site, path: str) -> None:
    new = {"name": "Passed over", "study": 1, "method": 1, "key": str(uuid4())}
    batch = site.client.post("/api/batches", json=new).raise_for_status().json()["id"]
    at = f"/api/{path.format(batch=batch)}"
    assert site.client.get(at, params={"first": 10**9}).status_code == 200
    assert "first" in said(site.client.get(at, params={"first": 10**30}), 422)
