"""What was brought in is understood anew as a revision; undo brings the readings of before back."""

from uuid import uuid4

import pytest

from dosis.intake.understand import understand
from dosis.intake.understanding import CellEdit, Choices, ColumnChoice, ColumnKind
from tests.conftest import Site

TABLE = (
    "Sample\tConc (µM)\tA880\tA660\nBlank\t\t0.02\t0.01\nStd 1\t1\t0.12\t0.10\nStd 2\t2\t0.22\t0.20\n"
    "Std 3\t4\t0.42\t0.40\nPier\t\t0.3O\t0.30\n"
)


def opened(site: Site, text: str = TABLE) -> dict:  # type: ignore[type-arg]
    body = {"study": 1, "title": "Reopened", "key": str(uuid4()), "text": text}
    return dict(site.client.post("/api/runs", json=body).raise_for_status().json())


def anew(site: Site, view: dict, choices: Choices, **more: object) -> dict:  # type: ignore[type-arg]
    body = {
        "based_on": view["revision"]["number"], "key": str(uuid4()), "choices": choices.model_dump(mode="json"), **more,
    }  # fmt: skip
    return dict(site.client.post(f"/api/runs/{view['run']['id']}/intake", json=body).raise_for_status().json())


def answers(view: dict) -> dict[str, float | None]:  # type: ignore[type-arg]
    table = view["revision"]["outcome"]["answers"]
    column = next(each for each in table["columns"] if each["id"] == "in_reading")
    return dict(zip([row["name"] for row in table["rows"]], column["values"], strict=True))


def test_a_cell_set_right_later_is_a_revision_that_can_be_undone(site: Site) -> None:
    view = opened(site)
    assert answers(view)["Pier"] is None  # "0.3O" is no number
    run = view["run"]["id"]
    brought = site.client.get(f"/api/runs/{run}/intake").raise_for_status().json()
    assert brought["text"] == TABLE and brought["origin"] == "pasted table"
    edited = Choices(edits=(CellEdit(row=6, column=2, text="0.30"),), question="concentration")
    right = anew(site, view, edited)
    assert right["revision"]["number"] == 2 and right["revision"]["readings"] == 2
    assert answers(right)["Pier"] == pytest.approx(2.8, rel=1e-3)
    assert "Understood anew" in right["revision"]["words"]
    move = {"based_on": 2, "key": str(uuid4())}
    back = site.client.post(f"/api/runs/{run}/undo", json=move).raise_for_status().json()
    assert back["readings"] == 1
    whole = site.client.get(f"/api/runs/{run}").raise_for_status().json()
    assert answers(whole)["Pier"] is None and whole["readings"] == view["readings"]
    move = {"based_on": 3, "key": str(uuid4())}
    assert site.client.post(f"/api/runs/{run}/redo", json=move).raise_for_status().json()["readings"] == 2
    again = site.client.get(f"/api/runs/{run}/intake").json()
    assert again["choices"]["edits"] == [{"row": 6, "column": 2, "text": "0.30"}]
    assert site.client.get(f"/api/runs/{run}/source").content.decode() == TABLE


def test_exclusions_stay_where_their_readings_do_and_the_working_of_the_same_question(site: Site) -> None:
    view = opened(site)
    run = view["run"]["id"]
    gone = view["revision"]["layout"]["groups"][1]["readings"][0]
    steps = [
        {"kind": "exclude", "readings": [gone], "reason": "spilled"},
        {"kind": "set_step", "step": {"kind": "curve", "model": "quadratic"}},
    ]
    save = {"based_on": 1, "key": str(uuid4()), "changes": steps}
    site.client.post(f"/api/runs/{run}/changes", json=save).raise_for_status()
    now = site.client.get(f"/api/runs/{run}").json()
    choices = Choices(columns=(ColumnChoice(column=3, kind=ColumnKind.IGNORE),), question="concentration")
    after = anew(site, now, choices)
    assert [each["reason"] for each in after["revision"]["layout"]["exclusions"]] == ["spilled"]
    curve = next(step for step in after["revision"]["method"]["steps"] if step["kind"] == "curve")
    assert curve["model"] == "quadratic"
    other = anew(site, after, Choices(question="relation"))
    assert other["revision"]["method"]["question"] == "relation"
    assert "the working begins anew" in other["revision"]["words"]


def test_what_is_stale_or_no_table_is_refused(site: Site) -> None:
    view = opened(site)
    run = view["run"]["id"]
    body = {"based_on": 7, "key": str(uuid4()), "choices": {}}
    assert site.client.post(f"/api/runs/{run}/intake", json=body).status_code == 409
    body = {"based_on": 1, "key": str(uuid4()), "choices": {"columns": [
        {"column": i, "kind": "note"} for i in range(4)
    ]}}  # fmt: skip
    refused = site.client.post(f"/api/runs/{run}/intake", json=body)
    assert refused.status_code == 422 and "No column is taken for readings" in refused.text
    assert site.client.get("/api/runs/999999/intake").status_code == 404


def test_a_list_of_wells_is_laid_out_on_an_open_plate(site: Site) -> None:
    plate = "\n".join("\t".join(f"{0.1 + 0.01 * (r * 12 + c):.3f}" for c in range(12)) for r in range(8))
    view = opened(site, plate)
    run = view["run"]["id"]
    text = "Well\tName\tDose (µM)\nA1\tBlank\t\nB1\tStd\t5\nB2\tStd\t10\nC1\tPier\t\n"
    change = site.client.post("/api/intake/wells", json={"text": text}).raise_for_status().json()
    save = {"based_on": 1, "key": str(uuid4()), "changes": [change]}
    revision = site.client.post(f"/api/runs/{run}/changes", json=save).raise_for_status().json()
    found = {(g["name"], g["role"], g["level"]) for g in revision["layout"]["groups"]}
    assert (
        ("Blank", "blank", None) in found and ("Std", "standard", 10.0) in found and ("Pier", "sample", None) in found
    )
    assert revision["layout"]["level"]["unit"] == "µM"
    lost = site.client.post("/api/intake/wells", json={"text": "Well\tName\nZ99\tPier\nA1\tMole\n"})
    assert lost.status_code == 422 and "names no well" in lost.text
    none = site.client.post("/api/intake/wells", json={"text": "a\tb\n1\t2\n"})
    assert none.status_code == 422 and "no heading row" in none.text
    elsewhere = {"kind": "describe_wells", "wells": [{"plate": "Plate 9", "well": "A1", "role": "sample", "name": "x"}]}
    save = {"based_on": 2, "key": str(uuid4()), "changes": [elsewhere]}
    said = site.client.post(f"/api/runs/{run}/changes", json=save)
    assert said.status_code == 422 and "no plate “Plate 9”" in said.text


def test_a_list_of_names_is_laid_over_the_selection(site: Site) -> None:
    plate = "\n".join("\t".join(f"{0.1 + 0.01 * (r * 12 + c):.3f}" for c in range(12)) for r in range(8))
    view = opened(site, plate)
    assert understand(plate).readings is not None
    wells = [r["id"] for r in view["readings"]["readings"] if r["row"] == 0 and r["column"] < 6]
    names = {"kind": "number_samples", "readings": wells, "names": ["T-204", "T-207"], "replicates": 2,
             "direction": "across", "beside": False}  # fmt: skip
    save = {"based_on": 1, "key": str(uuid4()), "changes": [names]}
    revision = site.client.post(f"/api/runs/{view['run']['id']}/changes", json=save).raise_for_status().json()
    assert {g["name"]: len(g["readings"]) for g in revision["layout"]["groups"]} == {"T-204": 2, "T-207": 2}
    many = {**names, "names": ["a", "b", "c", "d"]}
    save = {"based_on": 2, "key": str(uuid4()), "changes": [many]}
    said = site.client.post(f"/api/runs/{view['run']['id']}/changes", json=save)
    assert said.status_code == 422 and "4 names for 3 places" in said.text


def test_names_are_pasted_over_a_column_of_the_list(site: Site) -> None:
    view = opened(site)
    groups = view["revision"]["layout"]["groups"]
    ids = [group["id"] for group in groups[1:4]]
    change = {"kind": "rename", "groups": ids, "names": ["Cal 1", "Cal 2", "Cal 3"]}
    save = {"based_on": 1, "key": str(uuid4()), "changes": [change]}
    run = view["run"]["id"]
    revision = site.client.post(f"/api/runs/{run}/changes", json=save).raise_for_status().json()
    assert [g["name"] for g in revision["layout"]["groups"]] == ["Blank", "Cal 1", "Cal 2", "Cal 3", "Pier"]
    save = {"based_on": 2, "key": str(uuid4()), "changes": [{**change, "names": ["a"]}]}
    said = site.client.post(f"/api/runs/{run}/changes", json=save)
    assert said.status_code == 422 and "1 names for 3 rows" in said.text


def test_an_equation_is_looked_at_through_the_api(site: Site) -> None:
    text = "T\ty\n" + "".join(f"{x}\t{2 * 0.5**x + 1}\n" for x in range(8))
    view = opened(site, text)
    run = view["run"]["id"]
    change = {"kind": "set_question", "question": "relation"}
    save = {"based_on": 1, "key": str(uuid4()), "changes": [change]}
    site.client.post(f"/api/runs/{run}/changes", json=save)
    found = site.client.post(f"/api/runs/{run}/equation", json={"equation": "a*exp(-k*x) + c"}).json()
    assert {each["name"]: round(each["value"], 6) for each in found["parameters"]} == {"a": 2, "c": 1, "k": 0.693147}
    bad = site.client.post(f"/api/runs/{run}/equation", json={"equation": "a*exp(-k*x"}).json()
    assert bad["problem"] and bad["position"] == 5
