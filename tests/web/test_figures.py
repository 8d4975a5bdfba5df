"""Figures and reports through the API: what is refused is refused with a sentence, and nothing breaks."""

import io
from uuid import uuid4

import pytest
from PIL import Image
from pypdf import PdfReader

from dosis.web.routes import reports
from tests.conftest import Site
from tests.tables import PHOSPHATE


@pytest.fixture
def run(site: Site) -> int:
    """A run opened from the phosphate table."""
    return opened(site, PHOSPHATE)


def opened(site: Site, text: str, study: int = 1) -> int:
    body = {"study": study, "title": "Phosphate: “1/2”", "key": str(uuid4()), "text": text}
    return int(site.client.post("/api/runs", json=body).raise_for_status().json()["run"]["id"])


def test_a_draft_is_drawn_and_nothing_is_kept(site: Site, run: int) -> None:
    drawn = site.client.post(f"/api/runs/{run}/figure", json={"look": {"words": {"title": "Try"}}}).json()
    assert "Try" in drawn["svg"] and drawn["look"]["words"]["title"] == "Try"
    assert (drawn["pixels_across"], drawn["pixels_down"]) == (1004, 756)
    assert drawn["remarks"] == [] and "against" in drawn["alt"]
    view = site.client.get(f"/api/runs/{run}").json()
    assert view["revision"]["number"] == 1 and view["revision"]["method"]["figure"] is None


@pytest.mark.parametrize("look", [
    {"words": {"size": 0}}, {"paper": {"width": 5}}, {"paper": {"dpi": 72}}, {"words": {"title": "x" * 2001}},
    {"axes": {"x": {"low": 2, "high": 1}}}, {"series": {"own": [{"key": "a", "color": "red"}]}}, {"colour": "red"},
    {"axes": {"y": {"every": 0}}}, {"words": {"size": "NaN"}},
])  # fmt: skip
def test_a_look_that_cannot_be_is_refused_in_words(site: Site, run: int, look: dict) -> None:
    refused = site.client.post(f"/api/runs/{run}/figure", json={"look": look})
    assert refused.status_code == 422
    assert len(refused.json()["detail"]) > 10


def test_files_of_the_look_that_is_kept_and_of_one_that_is_tried(site: Site, run: int) -> None:
    figure = {"paper": {"width": 100, "height": 50, "dpi": 150}}
    change = {"based_on": 1, "key": str(uuid4()), "changes": [{"kind": "set_figure", "figure": figure}]}
    assert site.client.post(f"/api/runs/{run}/changes", json=change).status_code == 200
    kept = site.client.get(f"/api/runs/{run}/figure.png")
    assert Image.open(io.BytesIO(kept.content)).size == (591, 295)
    assert "attachment" in kept.headers["content-disposition"]
    tried = site.client.post(f"/api/runs/{run}/figure.tiff", json={"look": {"paper": {"width": 50.8, "height": 25.4}}})
    assert Image.open(io.BytesIO(tried.content)).size == (600, 300)
    assert site.client.get(f"/api/runs/{run}/figure.bmp").status_code == 422
    assert site.client.get("/api/runs/999999/figure.png").status_code == 404


def test_more_dots_than_can_be_made_are_refused(site: Site, run: int) -> None:
    look = {"paper": {"purpose": "poster", "dpi": 1200}}
    refused = site.client.post(f"/api/runs/{run}/figure.png", json={"look": look})
    assert refused.status_code == 422
    assert "fewer dots per inch" in refused.json()["detail"]


def test_a_run_that_is_not_there_is_left_off(site: Site, run: int) -> None:
    look = {"others": [{"run": 999_999, "revision": 1}, {"run": run, "revision": 77}]}
    drawn = site.client.post(f"/api/runs/{run}/figure", json={"look": look})
    assert drawn.status_code == 200
    assert any("no longer there" in remark for remark in drawn.json()["remarks"])


def test_reports_of_a_run_and_of_its_study(site: Site) -> None:
    study = site.client.post("/api/studies", json={"name": f"Reports {uuid4()}"}).json()["id"]
    empty = site.client.get(f"/api/studies/{study}/report.pdf")
    assert (empty.status_code, empty.json()["kind"]) == (404, "not_found")
    run = opened(site, PHOSPHATE, study)
    opened(site, PHOSPHATE, study)
    report = site.client.get(f"/api/runs/{run}/report.pdf", params={"sections": "answers,ledger", "paper": "Letter"})
    page = PdfReader(io.BytesIO(report.content)).pages[0]
    assert float(page.mediabox.height) == pytest.approx(792, abs=1)
    assert "Pier N" in page.extract_text() and "Parameter" not in page.extract_text()
    html = site.client.get(f"/api/runs/{run}/report.html")
    assert html.text.startswith("<!DOCTYPE html>") and 'src="http' not in html.text
    shown = site.client.get(f"/api/runs/{run}/report", params={"working": "all"}).text
    assert "Pier N" in shown and "<html" not in shown and shown.count("<h3>") >= 3
    whole = PdfReader(io.BytesIO(site.client.get(f"/api/studies/{study}/report.pdf").content))
    assert "Contents" in whole.pages[0].extract_text()
    assert site.client.get(f"/api/runs/{run}/report.docx").status_code == 422


def test_a_study_opens_in_no_style_that_is_not_there(site: Site) -> None:
    assert site.client.put("/api/studies/1/style", json={"style": 999_999}).status_code == 404
    assert site.client.delete("/api/styles/999999").status_code == 404
    assert site.client.post("/api/styles", json={"name": "", "look": {}}).status_code == 422


def test_a_study_of_more_runs_than_a_report_holds_is_told_so(site: Site, monkeypatch: pytest.MonkeyPatch) -> None:
    study = site.client.post("/api/studies", json={"name": f"Reported {uuid4().hex[:6]}"}).json()["id"]
    for i in range(2):
        body = {"study": study, "title": f"Run {i}", "key": str(uuid4()), "text": PHOSPHATE}
        site.client.post("/api/runs", json=body).raise_for_status()
    address, asked = f"/api/studies/{study}/report.html", {"sections": "answers"}
    monkeypatch.setitem(reports.MOST_RUNS, "html", 2)
    assert site.client.get(address, params=asked).status_code == 200
    monkeypatch.setitem(reports.MOST_RUNS, "html", 1)
    refused = site.client.get(address, params=asked)
    assert 400 <= refused.status_code < 500
    assert "has 2 runs; one report as HTML holds 1" in refused.json()["detail"]
    assert "the study as a file" in refused.json()["detail"]
