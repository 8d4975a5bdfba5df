"""The API as the pages use it: every bad request gets a sentence, none a 500."""

import base64
import csv
import io
import zipfile
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import httpx
import pytest
import python_calamine
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import Site
from tests.outcomes import sent
from tests.tables import PHOSPHATE, plate_text


@pytest.fixture
def run(site: Site) -> dict:
    """A run opened from the phosphate table."""
    return open_run(site.client, PHOSPHATE).json()


def open_run(client: httpx.Client, text: str, title: str = "Phosphate", **more: object) -> httpx.Response:
    body = {"study": 1, "title": title, "key": str(uuid4()), "text": text, **more}
    return client.post("/api/runs", json=body)


def change(client: httpx.Client, run: dict, *changes: dict, based_on: int = 1) -> httpx.Response:
    body = {"based_on": based_on, "key": str(uuid4()), "changes": changes}
    return client.post(f"/api/runs/{run['run']['id']}/changes", json=body)


def test_paste_to_answers_in_two_requests(site: Site) -> None:
    understood = site.client.post("/api/intake", json={"text": PHOSPHATE}).json()
    assert understood["ready"]
    assert [a.name for a in sent(open_run(site.client, PHOSPHATE).json())] == ["Pier N", "Marsh 2", "QC low"]


def test_same_key_opens_one_run(site: Site) -> None:
    body = {"study": 1, "title": "Once", "key": str(uuid4()), "text": PHOSPHATE}
    first, second = (site.client.post("/api/runs", json=body).json()["run"]["id"] for _ in range(2))
    assert first == second


def test_stale_save_is_a_409_that_shows_both(site: Site, run: dict) -> None:
    assert change(site.client, run, {"kind": "exclude", "readings": [3], "reason": "bubble"}).status_code == 200
    refused = change(site.client, run, {"kind": "exclude", "readings": [4], "reason": "bubble"})
    assert refused.status_code == 409
    assert refused.headers["content-type"] == "application/problem+json"
    problem = refused.json()
    assert (problem["kind"], problem["current"], len(problem["since"])) == ("stale", 2, 1)


@pytest.mark.parametrize(
    ("sent", "status", "said"),
    [
        ({"kind": "exclude", "readings": [999], "reason": "x"}, 422, "no reading 999"),
        ({"kind": "exclude", "readings": [], "reason": "x"}, 422, "at least 1 item"),
        ({"kind": "exclude", "readings": [3], "reason": ""}, 422, "at least 1 character"),
        ({"kind": "explode"}, 422, "explode"),
        ({"kind": "assign", "groups": ["g2"], "dilution": 0}, 422, "greater than 0"),
        ({"kind": "set_step", "step": {"kind": "curve", "window": {"lower": 5, "upper": 1}}}, 422, "swap them"),
        ({"kind": "include", "readings": [3]}, 422, "already is"),
    ],
)
def test_bad_changes_are_refused_in_words(site: Site, run: dict, sent: dict, status: int, said: str) -> None:
    response = change(site.client, run, sent)
    assert response.status_code == status
    assert said in response.json()["detail"]


@pytest.mark.parametrize(
    ("text", "status", "said"),
    [
        ("", 422, "nothing to read"),
        ("0.1\n0.2", 422, "Only one column"),
        ("a\tb\nc\td", 422, "no numbers"),
        ("1\t2\n" * 60_000, 422, "50,000 rows"),
        ("1000.25\t0.25\n" * 2_600_000, 422, "33.8 MB"),
        ("1\t2\n" * 11_000_000, 413, "32 MB"),
    ],
)
def test_bad_pastes_are_refused_in_words(site: Site, text: str, status: int, said: str) -> None:
    response = open_run(site.client, text)
    assert response.status_code == status
    assert said in response.json()["detail"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("Pier N\t\t0.1\nPier S\t\t0.2\nBlank\t0\t0.01", "There are no standards"),
        ("Std 1\t5\t0.1\nPier\t\t0.2", "Only one concentration (5) is left"),
        ("Std 1\t5\t0.1\nStd 2\t5\t0.2\nPier\t\t0.2", "Only one concentration (5) is left"),
        ("Std 1\t1\t0.2\nStd 2\t5\t0.2\nStd 3\t9\t0.2\nPier\t\t0.2", "does not change with concentration"),
    ],
)
def test_a_run_that_gives_no_curve_opens_and_says_why(site: Site, text: str, said: str) -> None:
    opened = open_run(site.client, text).json()
    outcome = opened["revision"]["outcome"]
    assert said in outcome["curves"][0]["problem"]
    assert outcome["verdict"]["state"] == "fail"
    assert all(a.in_reading.value is None and a.signal is not None for a in sent(opened))


def test_decimal_commas_give_the_same_answers(site: Site) -> None:
    points, commas = (
        sent(open_run(site.client, text).json()) for text in (PHOSPHATE, PHOSPHATE.replace(".", ",").replace("\t", ";"))
    )
    assert [a.in_sample for a in commas] == [a.in_sample for a in points]


def test_nul_bytes_and_emoji_in_names_survive_the_store(site: Site) -> None:
    opened = open_run(site.client, PHOSPHATE.replace("Pier N", "Pi\x00er 🦪"), title="Café 🦪").json()
    again = site.client.get(f"/api/runs/{opened['run']['id']}").json()
    assert again["run"]["title"] == "Café 🦪"
    assert sent(again)[0].name == "Pier 🦪"


def test_ten_thousand_rows_open(site: Site) -> None:
    rows = "\n".join(f"Sample {i}\t\t{0.1 + i / 20_000:.4f}" for i in range(10_000))
    response = open_run(site.client, f"Name\tConc (µM)\tA\nStd 1\t1\t0.05\nStd 2\t2\t0.9\nStd 3\t3\t1.8\n{rows}")
    outcome = response.json()["revision"]["outcome"]
    assert len(outcome["answers"]["rows"]) == 10_000
    assert outcome["verdict"]["headline"].endswith("of 10,000 samples read.")


def test_missing_things_are_404_in_words(site: Site) -> None:
    for path in ("/api/runs/999999", "/api/studies/999999", "/api/runs/999999/answers.csv", "/api/nothing"):
        response = site.client.get(path)
        assert response.status_code == 404
        assert response.json()["detail"].startswith("There is no")


def test_other_sites_may_not_write(site: Site) -> None:
    response = site.client.post("/api/studies", json={"name": "x"}, headers={"Origin": "https://elsewhere.example"})
    assert (response.status_code, response.json()["kind"]) == (403, "origin")
    assert site.client.get("/api/studies", headers={"Host": "elsewhere.example"}).status_code == 400


def test_csv_has_full_precision_and_no_formula(site: Site) -> None:
    """OWASP, CSV injection: a leading = + - @ must not reach a spreadsheet."""
    text = PHOSPHATE.replace("Pier N", "=HYPERLINK(1)").replace("Marsh 2", '@Marsh, "2"')
    run = open_run(site.client, text).json()
    response = site.client.get(f"/api/runs/{run['run']['id']}/answers.csv")
    rows = list(csv.DictReader(io.StringIO(response.content.decode("utf-8-sig"))))
    assert [row["Name"] for row in rows] == ["'=HYPERLINK(1)", '\'@Marsh, "2"', "QC low"]
    first = sent(run)[0].in_sample
    assert float(rows[0]["In sample (µM)"]) == first.value
    assert rows[0]["In sample, shown"] == first.shown
    tsv = site.client.get(f"/api/runs/{run['run']['id']}/answers.tsv").text
    assert tsv.splitlines()[0].split("\t")[0] == "Name"


def test_source_is_given_back_as_pasted(site: Site) -> None:
    text = PHOSPHATE.replace("Pier N", "Pi\x00er 🦪")
    run = open_run(site.client, text, title='Evil "name"\r\nX: y').json()
    response = site.client.get(f"/api/runs/{run['run']['id']}/source")
    assert response.content.decode() == text
    assert "\r" not in response.headers["content-disposition"]


def test_working_of_a_group(site: Site, run: dict) -> None:
    path = f"/api/runs/{run['run']['id']}/revisions/1/working"
    lines = site.client.get(f"{path}/{sent(run)[0].group}").json()
    assert [line["label"] for line in lines][:3] == ["Raw", "− blank 0.0200", "Mean"]
    assert site.client.get(f"{path}/nowhere").status_code == 404


@given(st.text(max_size=200), st.booleans())
@settings(max_examples=60)
def test_no_paste_is_answered_with_a_500(site: Site, text: str, header: bool) -> None:
    body = {"text": text.encode("utf-8", "replace").decode(), "choices": {"header": header}}
    response = site.client.post("/api/intake", json=body)
    assert response.status_code in (200, 422)


def test_a_concentration_is_worked_out_and_bad_recipes_are_explained(site: Site) -> None:
    recipe = {"kind": "stock", "stock": "1 g/L", "volume": "0.5 mL", "final_volume": "50 mL"}
    worked = site.client.post("/api/concentration", json={"recipe": recipe, "unit": "mg/L"}).json()
    assert (worked["value"], worked["working"]) == (10.0, "1 g/L × 0.5 mL ÷ 50 mL = 10 mg/L")
    recipe["volume"] = "99 mL"
    refused = site.client.post("/api/concentration", json={"recipe": recipe})
    assert refused.status_code == 422 and "cannot be made up" in refused.json()["detail"]


def test_a_preview_stores_nothing_and_refuses_as_the_change_would(site: Site) -> None:
    run = open_run(site.client, plate_text(8, 12)).json()
    address = f"/api/runs/{run['run']['id']}"
    fill = {"kind": "fill_series", "readings": [1, 2, 13, 14], "top": "20 µg/L", "factor": 2, "replicates": 2}
    tried = site.client.post(f"{address}/preview", json={"changes": [fill]}).json()
    assert [group["level"] for group in tried["layout"]["groups"]] == [20.0, 10.0]
    assert site.client.get(address).json()["revision"]["layout"]["groups"] == []
    for bad in ({**fill, "top": "x"}, {**fill, "readings": [9999]}):
        refused = site.client.post(f"{address}/preview", json={"changes": [bad]})
        assert refused.status_code == 422 and refused.json()["detail"]
        assert change(site.client, run, bad).json()["detail"] == refused.json()["detail"]


def test_layouts_and_tables_are_kept_replaced_and_removed(site: Site) -> None:
    run = open_run(site.client, plate_text(4, 6)).json()["run"]["id"]
    assert site.client.post(f"/api/runs/{run}/layouts", json={"name": "Bare"}).status_code == 422
    blank = {"kind": "assign_wells", "readings": [1, 2], "role": "blank"}
    change(site.client, {"run": {"id": run}}, blank)
    for _ in range(2):
        assert site.client.post(f"/api/runs/{run}/layouts", json={"name": "Corner blanks"}).status_code == 201
    kept = [one for one in site.client.get("/api/layouts").json() if one["body"]["name"] == "Corner blanks"]
    assert [well["well"] for well in kept[0]["body"]["wells"]] == ["A1", "A2"] and len(kept) == 1
    assert site.client.delete(f"/api/layouts/{kept[0]['id']}").status_code == 204
    assert site.client.delete(f"/api/layouts/{kept[0]['id']}").status_code == 404
    assert site.client.post("/api/lookups", json={"name": "t", "text": "1\t2\n2\t3"}).status_code == 201
    refused = site.client.post("/api/lookups", json={"name": "t", "text": "1\t2\nx\ty"})
    assert refused.status_code == 422 and "Row 2" in refused.json()["detail"]
    table = next(one for one in site.client.get("/api/lookups").json() if one["body"]["name"] == "t")
    assert site.client.delete(f"/api/lookups/{table['id']}").status_code == 204


def test_what_was_brought_is_kept_as_it_came(site: Site) -> None:
    data = "Sample;Conc (µM);A880\nStd 1;1;0,05\nStd 2;2;0,1\nPond;;0,07\n".encode("cp1252")
    files = [{"name": "Tümpel.csv", "data": base64.b64encode(data).decode()}]
    run = open_run(site.client, "", files=files).json()
    kept = site.client.get(f"/api/runs/{run['run']['id']}/source")
    assert kept.content == data and run["run"]["source_name"] == "Tümpel.csv"
    two = open_run(site.client, "", files=files * 2).json()
    packed = zipfile.ZipFile(io.BytesIO(site.client.get(f"/api/runs/{two['run']['id']}/source").content))
    assert [packed.read(name) for name in packed.namelist()] == [data, data]
    bad = site.client.post("/api/intake", json={"files": [{"name": "x.csv", "data": "abc"}]})
    assert bad.status_code == 422


def test_an_instrument_out_of_the_list_is_not_spoken_to(site: Site) -> None:
    assert len(site.client.get("/api/instruments").json()) == 3
    assert site.client.get("/api/instruments/3/status").status_code == 404
    assert site.client.get("/api/instruments/-1/status").status_code == 404
    refused = site.client.post("/api/instruments/2/start", json={"settings": [{"id": "CONF:RATE", "value": "1e9"}]})
    assert refused.status_code == 409 and "outside" in refused.json()["detail"]


def test_a_run_as_a_spreadsheet_holds_everything_at_full_precision(site: Site, run: dict) -> None:
    body = site.client.get(f"/api/runs/{run['run']['id']}/answers.xlsx").content
    book = python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(body))
    assert book.sheet_names == ["Answers", "Parameters", "Checks", "Layout", "Readings", "Bring in again"]
    rows = book.get_sheet_by_name("Answers").to_python()
    answer = sent(run)[0]
    assert rows[1][0] == answer.name and rows[1][7] == answer.in_reading.value
    parameters = book.get_sheet_by_name("Parameters").to_python()
    assert parameters[1][2] == run["revision"]["outcome"]["curves"][0]["parameters"][0]["estimate"]
    assert len(book.get_sheet_by_name("Readings").to_python()) == 1 + len(run["readings"]["readings"])


def test_the_ledger_leads_back_to_any_revision(site: Site, run: dict) -> None:
    address = f"/api/runs/{run['run']['id']}"
    change(site.client, run, {"kind": "exclude", "readings": [3], "reason": "bubble"})
    change(site.client, run, {"kind": "set_step", "step": {"kind": "curve", "model": "quadratic"}}, based_on=2)
    entries = site.client.get(f"{address}/ledger").json()
    assert [entry["revision"] for entry in entries] == [1, 2, 3] and "bubble" in entries[1]["words"]
    found = site.client.get(f"{address}/revisions/1/difference/3").json()
    assert found["settings"][0]["after"] == "Quadratic" and found["exclusions"][0]["after"] == "excluded: bubble"
    back = {"based_on": 3, "key": str(uuid4())}
    made = site.client.post(f"{address}/revisions/1/restore", json=back).json()
    assert made["number"] == 4 and made["outcome"] == run["revision"]["outcome"]
    assert site.client.post(f"{address}/revisions/1/restore", json=back).json()["number"] == 4  # sent twice, made once
    undone = site.client.post(f"{address}/undo", json={"based_on": 4, "key": str(uuid4())}).json()
    assert undone["method"]["steps"][3]["model"] == "quadratic"
    stale = site.client.post(f"{address}/revisions/2/restore", json={"based_on": 1, "key": str(uuid4())})
    assert stale.status_code == 409
    assert site.client.get(f"{address}/revisions/1/difference/99").status_code == 404


@pytest.mark.parametrize("text", ["alder brook", "BROOK", "100%", "_", "\\", "'; DROP TABLE run; --"])
def test_runs_are_found_by_words(site: Site, text: str) -> None:
    # A run of its own: who changed a run of the demo last depends on the tests that came before.
    open_run(site.client, PHOSPHATE, title="Alder brook, spring")
    found = site.client.get("/api/runs", params={"find": text})
    assert found.status_code == 200
    titles = [each["title"] for each in found.json()["runs"]]
    assert ("Alder brook, spring" in titles) == ("brook" in text.lower())


def test_a_curve_of_a_wall_comes_whole_with_its_working(site: Site) -> None:
    doses = [0.1, 0.3, 1, 3, 10, 30]
    rows = [f"Dose\t{d}\t{90 / (1 + (d / (1 + i / 9)) ** 1.3) + (i * k) % 3:.4f}\tC/{i}"
            for i in range(26) for k, d in enumerate(doses)]  # fmt: skip
    text = "\n".join(["Name\tDose (mg/L)\tResponse\tSeries", *rows])
    run = open_run(site.client, text, question="dose").json()
    curves = run["revision"]["outcome"]["curves"]
    assert all(curve["brief"] and curve["parameters"] == [] for curve in curves)
    address = f"/api/runs/{run['run']['id']}"
    whole = site.client.get(f"{address}/revisions/1/curve", params={"key": "C/7"}).json()
    assert [row["name"] for row in whole["parameters"]] == ["lower", "upper", "midpoint", "slope"]
    working = site.client.get(f"{address}/revisions/1/working/{whole['tag']}parameter.slope").json()
    assert working[0]["label"] == "What it is"
    dose = site.client.get(f"{address}/revisions/1/working/{whole['tag']}effect.50").json()
    assert dose[0]["label"] == "IC50 relative"
    missing = site.client.get(f"{address}/revisions/1/curve", params={"key": "C/99"})
    assert (missing.status_code, missing.json()["kind"]) == (404, "not_found")
    assert site.client.get(f"{address}/revisions/1/working/99.parameter.slope").status_code == 404
    book = python_calamine.CalamineWorkbook.from_filelike(
        io.BytesIO(site.client.get(f"{address}/answers.xlsx").content)
    )
    names = [row[0] for row in book.get_sheet_by_name("Parameters").to_python()]
    assert names.count("midpoint") == 26


def test_times_say_that_they_are_utc(site: Site) -> None:
    """A page takes a time without a zone for one of its own place: in Tokyo every entry would be nine hours early."""
    before = datetime.now(UTC) - timedelta(seconds=1)
    made = open_run(site.client, PHOSPHATE).json()
    entries = site.client.get(f"/api/runs/{made['run']['id']}/ledger").json()
    for told in (made["run"]["created_at"], made["revision"]["created_at"], entries[0]["at"]):
        assert told.endswith("Z") and before < datetime.fromisoformat(told) < datetime.now(UTC) + timedelta(seconds=1)


def test_what_decides_an_answer_and_what_next_are_looked_at_and_refused_in_words(site: Site) -> None:
    body = {"study": 1, "title": "Decided", "key": str(uuid4()), "text": PHOSPHATE}
    view = site.client.post("/api/runs", json=body).raise_for_status().json()
    address = f"/api/runs/{view['run']['id']}/revisions/1"
    rows = view["revision"]["outcome"]["answers"]["rows"]
    sample = next(row["key"] for row in rows if row["role"] == "sample")
    found = site.client.get(f"{address}/influence", params={"answer": sample}).raise_for_status().json()
    assert found["tried"] > 5 and len(found["moves"]) <= 5
    planned = site.client.get(f"{address}/plan", params={"answer": sample, "width": 0.5}).raise_for_status().json()
    assert planned["designs"][0]["name"] == "as now" and planned["width"] == 0.5
    assert site.client.get(f"{address}/influence", params={"answer": "nobody"}).status_code == 404
    refused = site.client.get(f"{address}/plan", params={"answer": "nobody"})
    assert 400 <= refused.status_code < 500 and "Nothing can be planned" in refused.json()["detail"]
    assert site.client.get(f"{address}/plan", params={"answer": sample, "width": 0}).status_code == 422
    missing = f"/api/runs/{view['run']['id']}/revisions/99"
    assert site.client.get(f"{missing}/influence", params={"answer": sample}).status_code == 404
