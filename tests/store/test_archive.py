"""A study as one file: read in and written again it is the same to the byte, and what was altered in it is found."""

import io
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

import httpx
import numpy as np
import pytest
from typer.testing import CliRunner

from dosis.cli import app
from dosis.store import archive
from dosis.store.archive import Archive
from dosis.store.verify import verify
from tests.conftest import Site
from tests.tables import PHOSPHATE


def opened(client: httpx.Client, study: int, title: str, **more: object) -> dict:
    body = {"study": study, "title": title, "key": str(uuid4()), "text": PHOSPHATE, **more}
    return dict(client.post("/api/runs", json=body).raise_for_status().json())


@pytest.fixture(scope="module")
def written(site: Site) -> bytes:
    """A study of a run with a history, its duplicate, a course, one put away and one in the bin."""
    client = site.client
    study = client.post("/api/studies", json={"name": f"Spring {uuid4().hex[:6]}"}).json()["id"]
    run = opened(client, study, "Phosphate 🦪")["run"]["id"]
    exclude = {"kind": "exclude", "readings": [1], "reason": "bubble"}
    change = {"based_on": 1, "key": str(uuid4()), "changes": [exclude]}
    client.post(f"/api/runs/{run}/changes", json=change).raise_for_status()
    client.post(f"/api/runs/{run}/undo", json={"based_on": 2, "key": str(uuid4())}).raise_for_status()
    again = {"based_on": 3, "key": str(uuid4()), "choices": {"level_unit": "nM"}}
    client.post(f"/api/runs/{run}/intake", json=again).raise_for_status()
    copy = {"key": str(uuid4()), "title": "Again"}
    again = client.post(f"/api/runs/{run}/duplicate", json=copy).raise_for_status().json()
    other = {"based_on": 1, "key": str(uuid4()), "text": PHOSPHATE.replace("0.391", "0.399")}
    address = f"/api/runs/{again['run']['id']}"
    client.post(f"{address}/readings", json=other).raise_for_status()
    note = {"place": again["revision"]["layout"]["groups"][0]["id"], "text": "filtered on board"}
    client.put(f"{address}/notes", json=note).raise_for_status()
    method = {"run": again["run"]["id"], "name": f"Spring {uuid4().hex[:6]}"}
    client.post("/api/methods", json=method).raise_for_status()
    courses = "Time (s)\tA\tB\n" + "\n".join(f"{t}\t{0.1 + 0.01 * t}\t{0.1 + 0.02 * t}" for t in range(20))
    opened(client, study, "Courses", text=courses, question="rate")
    away, binned = opened(client, study, "Away")["run"]["id"], opened(client, study, "Binned")["run"]["id"]
    for ids, kept in (([away], {"kind": "archive", "archived": True}), ([binned], {"kind": "bin", "binned": True}),
                      ([run], {"kind": "tags", "add": ["low water"]})):  # fmt: skip
        client.post("/api/runs/keep", json={"runs": ids, "change": kept}).raise_for_status()
    return client.get(f"/api/studies/{study}/archive.zip").raise_for_status().content


def sent(client: httpx.Client, data: bytes) -> httpx.Response:
    new = {"key": str(uuid4()), "name": "study.zip", "size": len(data)}
    begun = client.post("/api/files", json=new).raise_for_status().json()
    for number in range(begun["pieces"]):
        piece = data[number * begun["piece"] : (number + 1) * begun["piece"]]
        client.put(f"/api/files/{begun['id']}/pieces/{number}", content=piece).raise_for_status()
    return client.post(f"/api/files/{begun['id']}/study")


def files_of(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as found:
        return {name: found.read(name) for name in found.namelist()}


def packed(parts: dict[str, bytes]) -> bytes:
    file = io.BytesIO()
    with zipfile.ZipFile(file, "w") as made:
        for name, data in parts.items():
            made.writestr(name, data)
    return file.getvalue()


def test_a_study_read_in_is_written_again_the_same_to_the_byte(site: Site, written: bytes) -> None:
    made = sent(site.client, written).raise_for_status().json()
    again = site.client.get(f"/api/studies/{made['id']}/archive.zip").content
    assert files_of(again) == files_of(written)
    assert again == written
    listed = site.client.get("/api/runs", params={"study": made["id"], "place": "anywhere", "sort": "title"}).json()
    assert [run["title"] for run in listed["runs"]] == ["Again", "Away", "Courses", "Phosphate 🦪"]
    assert [run["archived"] for run in listed["runs"]] == [False, True, False, False]
    found = site.client.get("/api/runs", params={"study": made["id"], "find": "Pier low"}).json()
    assert [run["title"] for run in found["runs"]] == ["Again", "Phosphate 🦪"] or found["total"] == 1
    run = found["runs"][-1]["id"]
    view = site.client.get(f"/api/runs/{run}").json()
    assert view["revision"]["number"] == 4 and not view["revision"]["differs"]
    undone = site.client.post(f"/api/runs/{run}/undo", json={"based_on": 4, "key": str(uuid4())})
    assert undone.status_code == 200


def test_what_is_in_it_can_be_read_without_dosis(written: bytes) -> None:
    parts = files_of(written)
    again = json.loads(parts["runs/0002/run.json"])
    assert parts["runs/0002/original-2"] == PHOSPHATE.replace("0.391", "0.399").encode()
    assert again["method"]["question"] == "concentration" and list(again["notes"].values()) == ["filtered on board"]
    assert b"<svg" in parts["runs/0002/figure.svg"] and "layout" in json.loads(parts["schema.json"])
    run = json.loads(parts["runs/0001/run.json"])
    assert run["title"] == "Phosphate 🦪" and run["tags"] == ["low water"] and run["current"] == 4
    assert [each["words"] for each in run["ledger"]][1].startswith("Excluded")
    assert parts["runs/0001/original"] == PHOSPHATE.encode()
    assert parts["runs/0001/answers.csv"].decode("utf-8-sig").startswith("Name,Role")
    assert json.loads(parts["runs/0002/run.json"])["copied_from"] == 1
    numbers = np.load(io.BytesIO(parts["runs/0003/readings-1.npy"]))
    np.testing.assert_allclose(numbers[0], np.arange(20))
    assert numbers.shape == (3, 20)
    assert "runs/0005/run.json" not in parts


def _altered(parts: dict[str, bytes]) -> Iterator[tuple[str, dict[str, bytes]]]:
    name = "runs/0001/revision-1/layout.json"
    yield name, {**parts, name: parts[name].replace(b'"name":"Pier N"', b'"name":"Pier X"')}
    yield "runs/0001/original", {key: data for key, data in parts.items() if key != "runs/0001/original"}
    yield "more.txt", {**parts, "more.txt": b"x"}


def test_what_was_altered_is_named_and_not_read_in(site: Site, written: bytes) -> None:
    studies = len(site.client.get("/api/studies").json())
    for name, parts in _altered(files_of(written)):
        answer = sent(site.client, packed(parts))
        assert answer.status_code == 422 and name in answer.json()["detail"], name
    for data, said in ((b"no archive at all", "no archive"), (packed({"manifest.json": b"{}"}), "no archive"),
                       (packed({"manifest.json": b'{"form": 2, "sha256": {}}'}), "form 2"),
                       (written[: len(written) // 2], "damaged")):  # fmt: skip
        answer = sent(site.client, data)
        assert answer.status_code == 422 and said in answer.json()["detail"]
    assert len(site.client.get("/api/studies").json()) == studies


def test_every_answer_is_worked_out_again(written: bytes, tmp_path: Path) -> None:
    found = list(verify(Archive(io.BytesIO(written))))
    assert [(each.run[-1], each.revision) for each in found][:4] == [("1", 1), ("1", 2), ("1", 3), ("1", 4)]
    assert all(each.same for each in found) and len(found) == 8
    (tmp_path / "spring.zip").write_bytes(written)
    said = CliRunner().invoke(app, ["verify", str(tmp_path / "spring.zip")])
    assert said.exit_code == 0 and "8 revisions worked out again; none differ." in said.output


def test_answers_that_differ_are_named(written: bytes, tmp_path: Path) -> None:
    """As another version of the program would come to others: the manifest says that all is as it was written."""
    parts = files_of(written)
    name = "runs/0001/revision-1/layout.json"
    layout = json.loads(parts[name])
    group = next(each for each in layout["groups"] if each["name"] == "Pier N")
    group["dilution"] = 10.0
    parts[name] = json.dumps(layout).encode()
    manifest = json.loads(parts["manifest.json"])
    manifest["sha256"][name] = archive.hashlib.sha256(parts[name]).hexdigest()
    parts["manifest.json"] = json.dumps(manifest).encode()
    (tmp_path / "spring.zip").write_bytes(packed(parts))
    said = CliRunner().invoke(app, ["verify", str(tmp_path / "spring.zip")])
    assert said.exit_code == 1 and "1 differs" in said.output
    assert "revision 1: Pier N" in said.output and "then" in said.output
