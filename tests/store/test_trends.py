"""Trends over the demo's season of plates, through the API: what drifts is said, limits are chosen, files come out."""

import csv
import io
from uuid import uuid4

import httpx
import pypdf
import pytest

from dosis.demo.load import METHOD
from tests.conftest import Site


@pytest.fixture(scope="module")
def season(site: Site) -> str:
    """The address of the trends of the demo's method."""
    found = next(each for each in site.client.get("/api/methods").json() if each["name"] == METHOD)
    return f"/api/methods/{found['id']}/trends"


def one(client: httpx.Client, address: str, title: str, **more: object) -> dict:
    found = client.get(address, params=more).json()
    return next(each for each in found["watched"] if each["title"] == title)


def season_runs(client: httpx.Client, address: str) -> list[int]:
    """The twelve of the demo; other tests may have added runs by the method."""
    return [run["id"] for run in client.get(address).json()["runs"] if run["title"].startswith("Season plate")]


def test_a_drifting_qc_is_told_and_the_curve_is_steady(site: Site, season: str) -> None:
    found = site.client.get(season).json()
    low = next(each for each in found["watched"] if each["title"] == "QC low")
    assert low["state"] == "look" and "drifts upward" in low["said"] and low["said"] in found["said"]
    broken = [point["title"] for point in low["points"] if point["broken"]]
    assert {"Season plate 10", "Season plate 12"} <= set(broken) and "Season plate 4" not in broken
    assert next(each for each in found["watched"] if each["title"] == "Slope")["state"] == "pass"
    assert low["nominal"] == 20 and all(len(point["each"]) == 3 for point in low["points"])
    assert low["held"]["basis"] == "7 chosen runs"


def test_precision_is_of_single_readings_within_and_between_runs(site: Site, season: str) -> None:
    runs = season_runs(site.client, season)
    spread = one(site.client, season, "QC low", of_runs=runs)["spread"]
    assert (spread["runs"], spread["n"]) == (12, 36) and spread["state"] == "pass"
    assert spread["total"] ** 2 == pytest.approx(spread["within"] ** 2 + spread["between"] ** 2)
    # Of the plates before the drift alone the mean is nearer to what it should be.
    before = one(site.client, season, "QC low", of_runs=runs[:7])["spread"]
    assert before["runs"] == 7 and abs(before["recovery"] - 1) < abs(spread["recovery"] - 1)


def test_limits_are_typed_chosen_and_given_back(site: Site, season: str) -> None:
    set_ = lambda base: site.client.put(f"{season}/base", json={"key": "parameter::slope", "base": base})  # noqa: E731
    assert set_({"center": -1.2, "sd": 0.05}).status_code == 204
    held = one(site.client, season, "Slope")["held"]
    assert (held["center"], held["sd"], held["basis"], held["chosen"]) == (-1.2, 0.05, "typed center and SD", True)
    runs = season_runs(site.client, season)
    assert set_({"runs": runs[:3]}).status_code == 204
    assert one(site.client, season, "Slope")["held"]["basis"] == "3 chosen runs"
    for bad in ({"runs": runs[:1]}, {"center": 1.0}, {"sd": 1.0}, {}):
        assert set_(bad).status_code == 422
    assert set_({"center": 1.0, "sd": -1.0}).status_code == 422
    assert set_(None).status_code == 204
    assert not one(site.client, season, "Slope")["held"]["chosen"]
    assert site.client.get("/api/methods/999999/trends").status_code == 404


def test_the_same_numbers_come_out_as_csv_and_report(site: Site, season: str) -> None:
    text = site.client.get(f"{season}.csv", params={"key": "answer:QC low"}).text.removeprefix("\ufeff")
    rows = list(csv.DictReader(io.StringIO(text)))
    low = one(site.client, season, "QC low")
    assert [float(row["Value"]) for row in rows] == [point["value"] for point in low["points"]]
    assert float(rows[0]["Center"]) == low["held"]["center"]
    assert any("beyond" in row["Rules broken"] for row in rows)
    pdf = site.client.get(f"{season}/report.pdf").content
    said = " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(pdf)).pages)
    assert (
        "Summary for validation" in said and "Precision: QC low" in said and "drifts upward" in " ".join(said.split())
    )
    assert "<svg" in site.client.get(f"{season}/report.html").text


def test_a_run_that_is_thrown_away_is_not_counted_and_comes_back(site: Site, season: str) -> None:
    runs = season_runs(site.client, season)
    keep = lambda binned: site.client.post(  # noqa: E731
        "/api/runs/keep", json={"runs": [runs[3]], "change": {"kind": "bin", "binned": binned}}
    )
    assert keep(True).status_code == 200
    assert runs[3] not in season_runs(site.client, season)
    assert keep(False).status_code == 200
    assert season_runs(site.client, season) == runs


def test_plates_of_the_season_side_by_side(site: Site, season: str) -> None:
    first, *_, last = season_runs(site.client, season)
    found = site.client.get("/api/compare", params={"runs": [first, last]}).json()
    assert found["titles"] == ["Season plate 1", "Season plate 12"] and found["settings"] == []
    rows = {row["name"]: row for row in found["parameters"]}
    assert set(rows) == {"lower", "upper", "midpoint", "slope"} and all(0 <= row["p"] <= 1 for row in rows.values())
    assert {each["name"] for each in found["answers"]} == {"QC low", "QC high"}  # samples have names of their own
    same = site.client.get("/api/compare", params={"runs": [first, first]})
    assert same.status_code == 422 and "two different runs" in same.json()["detail"]
    assert site.client.get("/api/compare", params={"runs": [first, 10**9]}).status_code == 404


def test_readings_are_replaced_as_a_revision_and_the_old_ones_stay(site: Site) -> None:
    from dosis.demo.season import plate

    found = site.client.get("/api/runs", params={"find": "season plate 6", "study": 2}).json()["runs"]
    run = next(each["id"] for each in found if each["title"] == "Season plate 6")
    made = site.client.post(f"/api/runs/{run}/duplicate", json={"key": str(uuid4()), "title": "Replaced"}).json()
    address, before = f"/api/runs/{made['run']['id']}", made["revision"]
    answers = lambda made: next(c for c in made["outcome"]["answers"]["columns"] if c["id"] == "in_sample")  # noqa: E731
    body = {"based_on": 1, "key": str(uuid4()), "text": plate(7)}
    now = site.client.post(f"{address}/readings", json=body)
    assert now.status_code == 200, now.text
    after = now.json()["revision"]
    assert after["number"] == 2 and answers(after)["values"] != answers(before)["values"]
    names = lambda revision: [group["name"] for group in revision["layout"]["groups"]]  # noqa: E731
    assert sorted(names(after)) == sorted(names(before))  # the samples are the same
    assert site.client.get(f"{address}/source").text == plate(7)
    # Sent twice it is done once; back by undo, also what it was made from.
    assert site.client.post(f"{address}/readings", json=body).json()["revision"]["number"] == 2
    back = site.client.post(f"{address}/undo", json={"based_on": 2, "key": str(uuid4())}).json()
    assert answers(back)["values"] == answers(before)["values"]
    assert site.client.get(f"{address}/source").text == plate(6)
    words = [entry["words"] for entry in site.client.get(f"{address}/ledger").json()]
    assert any("Readings replaced" in each for each in words)
    unfit = {"based_on": 3, "key": str(uuid4()), "text": "Sample\tConc\tA\nStd 1\t1\t0.1\nStd 2\t2\t0.2\n"}
    refused = site.client.post(f"{address}/readings", json=unfit)
    assert refused.status_code == 422 and "plates of" in refused.json()["detail"]
    assert site.client.post(f"{address}/readings", json={**body, "key": str(uuid4())}).status_code == 409


def test_notes_are_kept_found_and_taken_away(site: Site) -> None:
    found = site.client.get("/api/runs", params={"find": "season plate 2", "study": 2}).json()["runs"]
    run = next(each["id"] for each in found if each["title"] == "Season plate 2")
    group = site.client.get(f"/api/runs/{run}").json()["revision"]["layout"]["groups"][9]
    address, word = f"/api/runs/{run}/notes", f"thawed-{uuid4().hex[:8]}"
    for place in (group["id"], f"reading:{group['readings'][0]}"):
        assert site.client.put(address, json={"place": place, "text": f"{word} twice"}).status_code == 204
    assert [each["place"] for each in site.client.get(address).json()] == sorted(
        [group["id"], f"reading:{group['readings'][0]}"]
    )
    assert [each["id"] for each in site.client.get("/api/runs", params={"find": word}).json()["runs"]] == [run]
    for place in ("g999", "reading:99999", "reading:x"):
        assert site.client.put(address, json={"place": place, "text": "x"}).status_code == 422
    for place in (group["id"], f"reading:{group['readings'][0]}"):
        site.client.put(address, json={"place": place, "text": ""})
    assert site.client.get(address).json() == []
    assert any(f"Note on {group['name']}" in e["words"] for e in site.client.get(f"/api/runs/{run}/ledger").json())
