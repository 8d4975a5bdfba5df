"""evaluate(): a run from its readings to its verdict, and what holds whatever the readings are."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from dosis.core import fit
from dosis.demo.phosphate import bent_run, clean_run
from dosis.intake.understand import understand
from dosis.run.changes import Assign, ChangeError, Exclude, Include, SetStep
from dosis.run.evaluate import evaluate
from dosis.run.layout import Exclusion, Group, Layout, Quantity
from dosis.run.method import default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep, Window
from tests.conftest import reference
from tests.outcomes import Answer, answers
from tests.tables import PHOSPHATE, fluorescein_table

METHOD = default_method("concentration")


def run(text: str, method=METHOD) -> Outcome:
    intake = understand(text)
    return evaluate(intake.readings, intake.layout, method)


def answer(outcome: Outcome, name: str) -> Answer:
    return next(a for a in answers(outcome) if a.name == name)


def check(outcome: Outcome, id: str) -> State:
    return next(c.state for c in outcome.checks if c.id == id)


def test_fluorescein_comes_out_as_published_from_the_pasted_table() -> None:
    """Miller & Miller: fluorescein unknowns 0.72, 6.21, 11.13 pg/mL, with Fieller's interval.

    The first lies between the zero standard and the lowest one above it, and is read where that is asked for.
    """
    assert [a.in_reading.shown for a in answers(run(fluorescein_table()))] == ["< 2", "6.21", "11.13"]
    outcome = run(fluorescein_table(), METHOD.with_step(ReadBackStep(extrapolate=True)))
    expected = [case for case in reference("cal_linear_fluorescein")["expected"]["inverse"] if case["m"] == 1]
    assert [a.in_reading.shown for a in answers(outcome)] == ["0.72", "6.21", "11.13"]
    for found, case in zip(answers(outcome), expected, strict=True):
        assert_allclose((found.in_reading.lower, found.in_reading.upper), case["ci95_fieller"], rtol=1e-8)


def test_every_number_of_an_answer_follows_from_the_one_before() -> None:
    outcome = run(PHOSPHATE)
    pier = answer(outcome, "Pier N")
    levels = [level for level in (0.5, 1, 2.5, 5, 10) for _ in range(2)]
    signals = [0.038, 0.040, 0.057, 0.060, 0.112, 0.109, 0.204, 0.208, 0.391, 0.386]
    curve = fit("line", levels, [y - 0.020 for y in signals])
    assert pier.signal == pytest.approx(0.145 - 0.020)
    assert pier.in_reading.value == pytest.approx(curve.read_back([0.123, 0.127]).estimate)
    assert pier.in_sample.value == pytest.approx(5 * pier.in_reading.value)
    assert pier.in_sample.upper == pytest.approx(5 * pier.in_reading.upper)
    assert outcome.curve.y_label == "Blank-corrected A880"
    assert outcome.curve.x_label == "Concentration / µM"


def test_working_is_recorded_line_by_line_with_the_numbers_put_in() -> None:
    outcome = run(PHOSPHATE)
    lines = {line.label: line for line in outcome.working[answer(outcome, "Pier N").group]}
    assert lines["Raw"].cells == ("0.143", "0.147")
    assert lines["− blank 0.0200"].cells == ("0.1230", "0.1270")
    assert lines["Mean"].result == "0.1250"
    p = {row.name: row.estimate for row in outcome.curve.parameters}
    assert lines["Read back"].text.startswith("(0.125000 − ")
    assert lines["Read back"].value == pytest.approx((0.125 - p["intercept"]) / p["slope"])
    assert lines["× dilution 5"].value == pytest.approx(answer(outcome, "Pier N").in_sample.value)


def test_negative_intercept_keeps_its_sign_in_the_working() -> None:
    outcome = run("Std\t1\t0.09\nStd\t2\t0.20\nStd\t3\t0.29\nStd\t4\t0.41\nPier\t\t0.25")
    line = next(line for line in outcome.working[answers(outcome)[0].group] if line.label == "Read back")
    assert "(0.250000 − (−0.0150000)) ÷ 0.105000" in line.text


def test_over_range_reading_is_left_out_of_the_mean_and_said() -> None:
    marsh = answer(run(PHOSPHATE), "Marsh 2")
    assert (marsh.n, marsh.n_all) == (1, 2)
    assert marsh.remarks[0].short == "over range"
    assert "dilute and rerun" in marsh.remarks[0].text


def test_sample_above_the_top_standard_is_a_bound_unless_extrapolation_is_asked_for() -> None:
    text = PHOSPHATE + "Sluice\t\t0.9\t0.9\t× 10\t\n"
    sluice = answer(run(text), "Sluice")
    assert (sluice.in_reading.value, sluice.in_reading.shown, sluice.in_sample.shown) == (None, "> 10", "> 100")
    asked = answer(run(text, METHOD.with_step(ReadBackStep(extrapolate=True))), "Sluice")
    assert asked.in_reading.value > 20
    assert "extrapolated" in asked.remarks[0].text


def test_sample_below_the_lowest_standard_is_a_bound() -> None:
    low = answer(run(PHOSPHATE + "Spring\t\t0.021\t0.022\t\t\n"), "Spring")
    assert low.in_reading.shown == "< 0.5"
    assert low.remarks[0].short == "below lowest standard"


def test_qc_above_the_top_standard_is_off_with_its_bound_and_no_recovery() -> None:
    outcome = run(PHOSPHATE + "QC high\t12 µM\t0.9\t0.9\t\t\n")
    assert answer(outcome, "QC high").recovery == Value(shown="")
    qc = next(c for c in outcome.checks if c.id == "qc")
    assert qc.found == "QC high > 10; at 12 µM 0 of 2 readings within" and qc.state is not State.PASS


def test_demo_run_bends_and_its_straight_part_is_proposed() -> None:
    outcome = run(bent_run())
    assert check(outcome, "bend") is State.LOOK
    assert outcome.verdict.state is State.FAIL
    proposed = outcome.curve.suggestion
    assert proposed.upper == 20 and "top 2 standards" in proposed.text
    window = Window(lower=proposed.lower, upper=proposed.upper)
    mended = run(bent_run(), METHOD.with_step(CurveStep(window=window)))
    assert check(mended, "bend") is State.PASS and check(mended, "recovery") is State.PASS
    assert answer(mended, "Sluice").in_sample.shown == "> 200"
    assert {p.state for p in mended.curve.points if p.x > 20} == {"outside"}


def test_clean_demo_run_passes_every_check_and_finds_what_was_put_in() -> None:
    outcome = run(clean_run())
    assert outcome.verdict.state is State.PASS
    outfall = answer(outcome, "Outfall")
    assert outfall.in_reading.lower < 17.4 < outfall.in_reading.upper
    assert all(90 < a.recovery.value < 110 for a in answers(outcome) if a.role is Role.QC)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("Pier N\t\t0.1\nPier S\t\t0.2\nBlank\t0\t0.01", "There are no standards"),
        ("Std 1\t5\t0.1\nPier S\t\t0.2", "Only one concentration (5) is left"),
        ("Std 1\t5\t0.1\nStd 2\t5\t0.2\nPier S\t\t0.2", "Only one concentration (5) is left"),
        ("Std 1\t1\t0.2\nStd 2\t5\t0.2\nStd 3\t9\t0.2\nPier S\t\t0.2", "does not change with concentration"),
        ("Std 1\t1\tOVER\nStd 2\t5\tOVER\nPier S\t\t0.2\nPier N\t\t0.3", "No standard with a usable reading"),
    ],
)
def test_a_run_without_a_curve_says_why_and_still_shows_its_signals(text: str, said: str) -> None:
    outcome = run(text)
    assert outcome.verdict.state is State.FAIL
    assert said in outcome.verdict.detail[0].text
    assert all(a.in_reading.value is None for a in answers(outcome))
    assert answer(outcome, "Pier S").shown_signal.startswith("0.")


def test_weights_that_cannot_be_used_are_explained() -> None:
    text = "Std 0\t0\t0.01\nStd 1\t1\t0.1\nStd 2\t2\t0.2\nPier\t\t0.15"
    outcome = run(text, METHOD.with_step(CurveStep(weights="1/x^2")))
    assert "no weight for 0" in outcome.curve.problem


def test_forcing_through_zero_is_checked_against_the_free_intercept() -> None:
    method = METHOD.with_step(CurveStep(model="line_through_zero"))
    assert check(run(clean_run(), method), "intercept") is State.PASS
    shifted = "\n".join(f"Std\t{x}\t{0.5 + 0.1 * x + d}" for x in (1, 2, 3, 4) for d in (-0.004, 0.004)) + "\nA\t\t0.7"
    assert check(run(shifted, method), "intercept") is State.LOOK


def _shifted(readings: Readings, by: float) -> Readings:
    cells = tuple(r.model_copy(update={"value": None if r.value is None else r.value + by}) for r in readings.readings)
    return Readings(readings=cells)


@given(st.floats(-5, 5).map(lambda v: round(v, 3)))
@settings(max_examples=20)
def test_adding_the_same_to_wells_and_blank_changes_no_answer(by: float) -> None:
    intake = understand(clean_run())
    before = evaluate(intake.readings, intake.layout, METHOD)
    after = evaluate(_shifted(intake.readings, by), intake.layout, METHOD)
    for old, new in zip(answers(before), answers(after), strict=True):
        assert new.in_sample.value == pytest.approx(old.in_sample.value, rel=1e-6)


@given(st.randoms(use_true_random=False))
@settings(max_examples=15)
def test_order_of_groups_does_not_matter(random) -> None:
    intake = understand(bent_run())
    groups = list(intake.layout.groups)
    random.shuffle(groups)
    shuffled = intake.layout.model_copy(update={"groups": tuple(groups)})
    before = {a.group: a.in_sample.value for a in answers(evaluate(intake.readings, intake.layout, METHOD))}
    for found in answers(evaluate(intake.readings, shuffled, METHOD)):
        old = before[found.group]
        assert found.in_sample.value == (old if old is None else pytest.approx(old, rel=1e-9))


def test_doubling_a_dilution_doubles_the_answer() -> None:
    intake = understand(PHOSPHATE)
    group = next(g for g in intake.layout.groups if g.name == "Pier N")
    layout, _ = Assign(groups=(group.id,), dilution=10).apply(intake.readings, intake.layout, METHOD)
    once, twice = (answer(evaluate(intake.readings, each, METHOD), "Pier N") for each in (intake.layout, layout))
    assert twice.in_sample.value == pytest.approx(2 * once.in_sample.value)
    assert twice.in_reading == once.in_reading


def test_excluding_and_including_restores_the_same_bytes() -> None:
    intake = understand(bent_run())
    before = evaluate(intake.readings, intake.layout, METHOD).model_dump_json()
    out, _ = Exclude(readings=(9, 12), reason="bubble").apply(intake.readings, intake.layout, METHOD)
    assert evaluate(intake.readings, out, METHOD).model_dump_json() != before
    back, _ = Include(readings=(9, 12)).apply(intake.readings, out, METHOD)
    assert evaluate(intake.readings, back, METHOD).model_dump_json() == before


def test_excluded_reading_leaves_the_fit_but_not_the_figure() -> None:
    intake = understand(PHOSPHATE)
    standard = next(g for g in intake.layout.groups if g.name == "Std 3")
    layout, _ = Exclude(readings=standard.readings[:1], reason="bubble").apply(intake.readings, intake.layout, METHOD)
    outcome = evaluate(intake.readings, layout, METHOD)
    point = next(p for p in outcome.curve.points if p.reading == standard.readings[0])
    assert point.state == "excluded" and point.residual is not None
    assert {s.name: s.shown for s in outcome.curve.statistics}["Readings"] == "9"
    assert next(r for r in outcome.readings if r.id == point.reading).why == "excluded: bubble"


def test_changes_speak_for_the_ledger() -> None:
    intake = understand(PHOSPHATE)
    words = [
        Exclude(readings=(3,), reason="bubble").words(intake.readings, intake.layout, METHOD),
        SetStep(step=CurveStep(window=Window(upper=5))).words(intake.readings, intake.layout, METHOD),
        Assign(groups=("g7",), role=Role.QC, level=4).words(intake.readings, intake.layout, METHOD),
    ]
    assert words == [
        "Excluded Std 1 reading 1 (0.038): bubble",
        "Curve: Line, standards up to 5 µM",
        "Pier N: QC, level 4 µM",
    ]


def test_changes_that_do_not_apply_are_refused_in_words() -> None:
    layout = understand(PHOSPHATE).layout
    with pytest.raises(ChangeError, match="no reading 999"):
        Exclude(readings=(999,), reason="x").apply(understand(PHOSPHATE).readings, layout, METHOD)
    with pytest.raises(ChangeError, match="not in this run"):
        Assign(groups=("nowhere",), role=Role.QC).apply(understand(PHOSPHATE).readings, layout, METHOD)


def test_a_reading_has_one_place_in_a_layout() -> None:
    quantity = Quantity(name="A")
    group = Group(id="a", role=Role.SAMPLE, name="A", readings=(1,))
    with pytest.raises(ValueError, match="two groups"):
        Layout(signal=quantity, level=quantity, groups=(group, group.model_copy(update={"id": "b"})))
    with pytest.raises(ValueError, match="in no group"):
        Layout(signal=quantity, level=quantity, groups=(group,), exclusions=(Exclusion(reading=2, reason="x"),))


def test_outcome_is_plain_json_without_nan() -> None:
    text = run("Std 1\t1\t0.1\nStd 2\t2\t0.2\nPier\t\t0.15").model_dump_json()
    json.loads(text, parse_constant=lambda name: pytest.fail(f"{name} in the outcome"))


def test_changed_readings_are_looked_up_anew() -> None:
    """What is kept of readings is theirs alone: a copy with others knows nothing of it."""
    intake = understand("Sample\tConc\tA\nStd 1\t1\t0.10\nStd 2\t5\tOVER\nPond\t\t0.300\n")
    assert intake.readings is not None
    readings = intake.readings
    assert (readings.numbers, readings.why_not, readings.decimals) == (
        {1: 0.10, 3: 0.300}, {2: "above the instrument's range"}, 3,
    )  # fmt: skip
    other = readings.model_copy(update={"readings": readings.readings[:1]})
    assert (other.numbers, other.why_not, other.decimals, list(other.by_id)) == ({1: 0.10}, {}, 2, [1])
    assert readings == readings.model_copy() == type(readings).model_validate(dict(readings))
