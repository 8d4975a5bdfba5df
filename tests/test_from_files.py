"""Evaluating files from the command line: every form that the page takes, a question, a model, a method."""

import json
from pathlib import Path

import pytest

from dosis.from_files import ANSWERED, FAILED, NONE, Refused, evaluate_files, outcome_schema
from dosis.intake.text import IntakeError
from dosis.run.outcome.outcome import Outcome

LINE = "T\ty\n1\t2.1\n2\t3.9\n3\t6.2\n4\t7.8\n5\t10.1\n6\t12.0\n"
CURVE = "Sample\tConc (µM)\tA880\nBlank\t\t0.02\nStd 1\t1\t0.12\nStd 2\t2\t0.22\nStd 3\t4\t0.42\nPier\t\t0.30\n"
EXPORTS = Path("tests/intake/exports")


def written(tmp_path: Path, text: str, name: str = "table.tsv") -> Path:
    path = tmp_path / name
    path.write_text(text, "utf-8")
    return path


def test_the_table_proposes_what_is_asked_and_a_question_overrules_it(tmp_path: Path) -> None:
    code, said, warned = evaluate_files([written(tmp_path, LINE)])
    assert code == ANSWERED and "slope" in said and warned == []
    code, said, _ = evaluate_files([written(tmp_path, CURVE)], question="concentration")
    assert code == ANSWERED and "Pier" in said and "2.8" in said


def test_spreadsheets_and_json_are_read_and_several_files_are_one_run() -> None:
    for name in ("38_table.xlsx", "39_table.ods", "35_own_form.json"):
        code, said, _ = evaluate_files([EXPORTS / name])
        assert code in (ANSWERED, FAILED) and "Verdict" in said, name
    code, said, _ = evaluate_files([EXPORTS / "24_stacked.csv", EXPORTS / "24_stacked.csv"])
    assert "Verdict" in said


def test_a_model_and_a_method_are_used(tmp_path: Path) -> None:
    out = tmp_path / "out.json"
    evaluate_files([written(tmp_path, LINE)], model="quadratic", json_out=out)
    assert json.loads(out.read_text("utf-8"))["curves"][0]["model"] == "quadratic"
    steps = {"steps": [{"kind": "predict", "at_x": [2.5]}]}
    method = written(tmp_path, json.dumps(steps), "method.json")
    code, said, _ = evaluate_files([written(tmp_path, LINE)], method=method)
    assert code == ANSWERED and "at x = 2.5" in said


@pytest.mark.parametrize(
    ("more", "why"),
    [
        ({"question": "magic"}, "is not a question"),
        ({"model": "wiggle"}, "no curve model"),
        ({"method": "missing.json"}, "is not a method"),
    ],
)
def test_what_there_is_not_is_refused_in_words(tmp_path: Path, more: dict[str, str], why: str) -> None:
    given = {**more, **({"method": tmp_path / more["method"]} if "method" in more else {})}
    with pytest.raises(Refused, match=why):
        evaluate_files([written(tmp_path, LINE)], **given)  # type: ignore[arg-type]
    with pytest.raises(Refused, match="nowhere"):
        evaluate_files([tmp_path / "nowhere.csv"])
    assert issubclass(IntakeError, ValueError)


def test_the_code_says_whether_there_are_answers_and_whether_checks_failed(tmp_path: Path) -> None:
    assert evaluate_files([written(tmp_path, "Conc\tA\n1\t\n")])[0] == NONE
    # A quality control that is read back at twice its value fails its check; the answers are there all the same.
    bad = CURVE + "QC 1\t2\t0.42\n"
    assert evaluate_files([written(tmp_path, bad)])[0] == FAILED
    assert evaluate_files([written(tmp_path, CURVE + "QC 1\t2\t0.22\n")])[0] == ANSWERED


def test_the_outcome_is_what_the_schema_says(tmp_path: Path) -> None:
    out = tmp_path / "out.json"
    evaluate_files([written(tmp_path, LINE)], json_out=out)
    document, schema = json.loads(out.read_text("utf-8")), outcome_schema()
    assert document.keys() == schema["properties"].keys()
    assert Outcome.model_validate(document).verdict.headline == document["verdict"]["headline"]
