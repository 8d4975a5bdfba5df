"""Answers as a lab reads them: in order, with one rule for replicates, no alarm without a reason, no R² misread."""

import csv
import io

import numpy as np
import pytest

from dosis.intake.understand import understand
from dosis.output.answers import answer_cells
from dosis.output.exports.delimited import delimited
from dosis.output.exports.workbook import run_workbook
from dosis.run.evaluate import evaluate
from dosis.run.laying_out import AssignWells
from dosis.run.layout import Layout, natural
from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.questions.dose.compare import CompareStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.readings import Readings
from dosis.run.recipes import number, quantity
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep, LeaveOut
from dosis.run.steps.replicates import ReplicatesStep
from tests.outcomes import answers
from tests.run.test_doses import assay, plate

METHOD = default_method("concentration")
STANDARDS = [
    f"Std {i}\t{x}\t{0.1 * x + 0.002}\t{0.1 * x - 0.002}\t{0.1 * x}" for i, x in enumerate((1, 2, 4, 8), start=1)
]


def taken(*rows: str) -> tuple[Readings, Layout]:
    intake = understand("\n".join(["Sample\tConc (µM)\tA\tA\tA", *STANDARDS, *rows]))
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, intake.layout


def run(*rows: str, method: Method = METHOD) -> Outcome:
    return evaluate(*taken(*rows), method)


def test_r_squared_about_zero_has_a_name_of_its_own_everywhere() -> None:
    for model, name in (("line", "R²"), ("line_through_zero", "R₀²")):
        outcome = run(method=METHOD.with_step(CurveStep(model=model)))
        said = next(step.sentence for step in outcome.steps if step.kind == "curve")
        assert f", {name} **" in said
        assert {row.name for row in outcome.curve.statistics} >= {name, f"Adjusted {name}"}
        assert outcome.working["statistic.r2"][0].label == name
    doses = evaluate(*assay("fpl_ryegrass"), default_method("dose").with_step(DoseCurveStep(model="logistic3")))
    assert answers(doses)[0].r_squared_about == "zero" and "R₀² **" in next(
        s.sentence for s in doses.steps if s.kind == "dose_curve"
    )
    headings, rows = answer_cells(doses.answers)
    assert rows[0][headings.index("R2 about")] == "zero"


def headings(text: str) -> list[str]:
    return next(csv.reader(io.StringIO(text)))


def test_no_two_columns_of_an_export_have_the_same_heading() -> None:
    for outcome in (run("S1\t\t0.3\t0.31\t0.3"), evaluate(*assay("fpl_ryegrass"), default_method("dose"))):
        names = headings(delimited(outcome.answers, ","))
        assert len(names) == len(set(names))


@pytest.mark.parametrize(("limit", "state"), [(0.099, "look"), (0.101, "pass")])
def test_one_cv_limit_judges_replicates_step_and_check(limit: float, state: str) -> None:
    """Readings of 0.27, 0.30 and 0.33: mean 0.3, SD 0.03, CV 10 %."""
    outcome = run("S1\t\t0.27\t0.30\t0.33", method=METHOD.with_step(ReplicatesStep(cv_limit=limit)))
    step = next(step for step in outcome.steps if step.kind == "replicates")
    check = next(check for check in outcome.checks if check.id == "cv")
    assert step.state == check.state == state


def test_comparisons_follow_the_level_of_the_effect_doses() -> None:
    readings, layout, method = plate()
    wide, narrow = (
        evaluate(readings, layout, method.with_step(EffectsStep(interval=level))).part.comparisons[0].ratio
        for level in (0.99, 0.8)
    )
    assert wide.upper - wide.lower > 1.5 * (narrow.upper - narrow.lower)  # type: ignore[operator]
    own = evaluate(readings, layout, method.with_step(EffectsStep(interval=0.99)).with_step(CompareStep(level=0.8)))
    assert own.part.comparisons[0].ratio == narrow


def test_a_sample_that_scatters_more_than_the_curve_is_remarked_and_can_have_its_own() -> None:
    """F of 0.03² over RMSE² on 2 and 10 degrees of freedom is far beyond 1 %; that of 0.003² is not."""
    calm, rough = "S1\t\t0.300\t0.303\t0.297", "S2\t\t0.27\t0.30\t0.33"
    found = {answer.name: answer for answer in answers(run(calm, rough))}
    shorts = {name: [remark.short for remark in answer.remarks] for name, answer in found.items()}
    assert "scatters more" in shorts["S2"] and "scatters more" not in shorts["S1"]
    curve, own = (
        {a.name: a.in_reading for a in answers(run(calm, rough, method=METHOD.with_step(ReadBackStep(scatter=by))))}
        for by in ("curve", "own")
    )
    assert own["S1"] == curve["S1"] and own["S2"] == found["S2"].in_reading
    half = ((own["S2"].upper or 0) - (own["S2"].lower or 0)) / 2
    # t of 2 degrees of freedom times the standard error of three readings, over the slope: 4.303 × 0.03/√3 ÷ 0.1.
    assert half == pytest.approx(4.302653 * 0.03 / 3**0.5 / 0.1, rel=0.02)


def test_points_left_out_by_level_are_marked_in_list_and_workbook() -> None:
    readings, layout = taken("S1\t\t0.3\t0.31\t0.3")
    method = METHOD.with_step(CurveStep(leave_out=LeaveOut(highest=1)))
    outcome = evaluate(readings, layout, method)
    top = next(group for group in layout.groups if group.level == 8)
    aside = {reading.id for reading in outcome.readings if reading.aside}
    assert aside == set(top.readings)
    from python_calamine import CalamineWorkbook

    book = CalamineWorkbook.from_filelike(io.BytesIO(run_workbook("t", readings, layout, outcome)))
    rows = book.get_sheet_by_name("Readings").to_python()
    used, why = rows[0].index("Used"), rows[0].index("Why not")
    assert [row[used] for row in rows[1:]].count("no") == 3
    assert {row[why] for row in rows[1:] if row[used] == "no"} == {"its level is left out of the curve"}


def test_a_recovery_far_off_is_no_number_and_says_which_standard() -> None:
    rows = [f"Std\t{x}\t{y}" for x, y in ((1, 100), (2, 50), (4, 25), (8, 12), (16, 6))]
    intake = understand("\n".join(["Sample\tConc (µM)\tA", *rows]))
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, intake.layout, METHOD)
    check = next(check for check in outcome.checks if check.id == "recovery")
    assert "Std 1 µM below zero" in check.found and "−" not in check.verdict


def test_an_amber_verdict_says_why() -> None:
    """Only a replicate CV is off: the verdict used to be amber and silent."""
    outcome = run("S1\t\t0.265\t0.30\t0.335", "S2\t\t0.3\t0.301\t0.299")
    assert outcome.verdict.headline == "2 of 2 samples read." and outcome.verdict.state == "look"
    assert "S1 CV" in "".join(part.text for part in outcome.verdict.detail)


def test_answers_stand_in_the_order_of_the_layout_not_of_editing() -> None:
    readings, layout = taken("S10\t\t0.3\t0.3\t0.3", "S2\t\t0.2\t0.2\t0.2", "S1\t\t0.4\t0.4\t0.4")
    first = next(group for group in layout.groups if group.name == "S10")
    edited = AssignWells(readings=first.readings, dilution=2).apply(readings, layout, METHOD)[0]
    assert [a.name for a in answers(evaluate(readings, edited, METHOD))] == ["S10", "S2", "S1"]
    assert sorted(["S10", "s2", "S1", "QC 3", "S1b"], key=natural) == ["QC 3", "S1", "S1b", "s2", "S10"]


def test_on_plates_answers_go_by_plate_and_then_by_name() -> None:
    rng = np.random.default_rng(3)
    block = "\n".join("\t".join(f"{v:.3f}" for v in row) for row in rng.uniform(0.1, 1, (4, 6)))
    intake = understand(f"Plate 1\n{block}\n\nPlate 2\n{block}")
    readings, layout, method = intake.readings, intake.layout, METHOD
    assert readings is not None and layout is not None
    for wells, name in (((30, 31), "S1"), ((5, 6), "S10"), ((3, 4), "S2"), ((28, 29), "S11")):
        layout, method = AssignWells(readings=wells, role=Role.SAMPLE, name=name).apply(readings, layout, method)
    for i in range(4):
        change = AssignWells(readings=(13 + i,), role=Role.STANDARD, level=f"{2**i}")
        layout, method = change.apply(readings, layout, method)
    outcome = evaluate(readings, layout, method)
    assert [a.name for a in answers(outcome)] == ["S2", "S10", "S1", "S11"]
    assert [row[0] for row in csv.reader(io.StringIO(delimited(outcome.answers, ",")))][1:] == [
        "S2",
        "S10",
        "S1",
        "S11",
    ]


@pytest.mark.parametrize(
    ("text", "value", "unit"),
    [
        ("10^0.5", 10**0.5, ""), ("sqrt(10) µM", 10**0.5, "µM"), ("3 × 2/7", 6 / 7, ""), ("0.080*2/10 mM", 0.016, "mM"),
        ("10^-6 M", 1e-6, "M"), ("2,5 mg/L", 2.5, "mg/L"), ("5", 5.0, ""),
    ],
)  # fmt: skip
def test_levels_and_settings_can_be_typed_as_they_come_about(text: str, value: float, unit: str) -> None:
    assert quantity(text, "level") == (pytest.approx(value, rel=1e-15), unit)


@pytest.mark.parametrize(
    ("text", "said"), [("1/0", "is not a number"), ("x + 1", "is not a number"), ("10^0.5 µM", "has a unit")]
)
def test_what_does_not_work_out_is_said(text: str, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        number(text)
