"""Runs through curves: published assays evaluated whole, what is proposed, and what must not matter."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from dosis.core import MODELS
from dosis.core.expressions import parse
from dosis.demo import domoic_acid
from dosis.intake.understand import understand
from dosis.run.changes import SetStep
from dosis.run.difference import difference
from dosis.run.evaluate import ask, evaluate
from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.told import Asked
from dosis.run.questions.concentration.limits import LimitsStep
from dosis.run.readings import Readings
from dosis.run.record import changed
from dosis.run.standards.curve import CurveStep, LeaveOut
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from tests.conftest import reference
from tests.outcomes import answers

METHOD = default_method("concentration")


def assay(name: str, samples: tuple[float, ...] = (), *, doublings: bool = False) -> tuple[Readings, Layout]:
    """A published assay as a table of standards, their x in doublings on request; and samples with these signals."""
    data = reference(name)["data"]
    along = [5 + math.log2(x) for x in data["x"]] if doublings else data["x"]
    rows = [f"Std {x:g}\t{x!r}\t{y!r}" for x, y in zip(along, data["y"], strict=True)]
    rows += [f"Sample {i}\t\t{y!r}" for i, y in enumerate(samples, start=1)]
    intake = understand("\n".join(["Sample\tConc (ng/mL)\tOD", *rows]))
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, intake.layout


def through(step: CurveStep, readings: Readings, layout: Layout) -> Outcome:
    return evaluate(readings, layout, METHOD.with_step(step))


def plate() -> tuple[Readings, Layout, Method]:
    """The demo's immunoassay plate as it was laid out."""
    intake = understand(domoic_acid.plate())
    assert intake.readings is not None and intake.layout is not None
    layout, method = intake.layout, METHOD
    for change in domoic_acid.changes():
        layout, method = change.apply(intake.readings, layout, method)
    return intake.readings, layout, method


def test_a_published_immunoassay_comes_out_with_its_published_parameters() -> None:
    """Davidian & Giltinan (1995), 5.2.4: ELISA of DNase, run 6, as recomputed in the reference file."""
    known = reference("fpl_dnase_run6")
    outcome = through(CurveStep(model="logistic4"), *assay("fpl_dnase_run6"))
    found = {row.name: row.estimate for row in outcome.curve.parameters}
    expected = known["expected"]
    # The file writes b·(ln x − ln e) with b below zero for a rising curve, and c, d for the plateaus.
    assert found["midpoint"] == pytest.approx(expected["e"], rel=1e-5)
    assert found["slope"] == pytest.approx(abs(expected["b"]), rel=1e-5)
    assert sorted((found["lower"], found["upper"])) == pytest.approx(sorted((expected["c"], expected["d"])), rel=1e-4)
    assert outcome.curve.logarithmic
    assert {c.model for c in outcome.curve.candidates} == {"logistic4", "logistic5"}


@pytest.mark.parametrize("model", [id for id, model in MODELS.items() if model.solved and not model.kinked])
def test_a_pocket_calculator_comes_to_the_answer_by_the_working(model: str) -> None:
    """What the working of a read-back says, worked out as written, is what the answer says, on the same assay."""
    declared = MODELS[model]
    doublings = declared.shape == "sigmoid" and not declared.positive_x
    alike = CurveStep(model=model, weights="none")
    outcome = through(alike, *assay("fpl_dnase_run6", (0.5, 0.9), doublings=doublings))
    for answer in answers(outcome):
        text = next(line.text for line in outcome.working[answer.group] if line.label == "Read back")
        value = answer.in_reading.value
        assert value is not None
        assert float(parse(text).value({})) == pytest.approx(value, rel=2e-4)


def test_a_sample_is_read_back_beyond_a_threshold_by_its_formula() -> None:
    """Standards that fall from 1 µM on; at the level before it no concentration can be told."""
    rng = np.random.default_rng(3)
    rows = [f"S{i}\t{x}\t{2 * np.exp(-0.3 * max(x - 1, 0)) + rng.normal(0, 0.01):.4f}" for i, x in
            enumerate(2 * [0, 0.5, 1, 2, 4, 8])]  # fmt: skip
    intake = understand("\n".join(["Name\tConc (µM)\tA", *rows, "Pond\t\t1.1", "Weir\t\t2.4"]))
    assert intake.readings is not None
    assert intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "concentration")
    outcome = evaluate(intake.readings, layout, method.with_step(CurveStep(model="threshold_decline", weights="none")))
    pond, weir = answers(outcome)
    text = next(line.text for line in outcome.working[pond.group] if line.label == "Read back")
    assert pond.in_reading.value == pytest.approx(1 + np.log(2 / 1.1) / 0.3, rel=0.05)
    assert float(parse(text).value({})) == pytest.approx(pond.in_reading.value, rel=2e-4)
    assert weir.in_reading.value is None


def test_a_quadratic_is_read_back_by_its_formula_and_a_power_curve_by_search() -> None:
    for model, how in (("quadratic", "by the formula for quadratic equations"), ("power", "found by bisection")):
        outcome = through(CurveStep(model=model), *assay("fpl_dnase_run6", (0.5,)))
        (line,) = [line for line in outcome.working[answers(outcome)[0].group] if line.label == "Read back"]
        assert line.text.endswith(f"is 0.500000, {how}"), line.text


def test_a_sample_of_a_curve_comes_back_where_the_standards_put_it() -> None:
    outcome = through(CurveStep(model="logistic4"), *assay("fpl_dnase_run6", (0.681, 0.05, 9.0)))
    middle, low, high = answers(outcome)
    assert middle.in_reading.value == pytest.approx(1.5625, rel=0.05)  # the standard with that signal
    assert (middle.in_reading.lower or 0) < 1.5625 < (middle.in_reading.upper or 0)
    assert (low.in_reading.censor, high.in_reading.censor) == ("<", ">")
    assert high.in_reading.value is None and high.in_reading.shown == "> 12.5"


def test_a_bent_line_is_answered_with_the_curve_that_suits() -> None:
    readings, layout, _ = plate()
    line = evaluate(readings, layout, METHOD.with_step(CurveStep(leave_out=LeaveOut())))
    assert line.curve.suggestion is not None
    through_sigmoid = next(c for c in line.curve.candidates if c.chosen)
    assert (through_sigmoid.lack_of_fit_p or 1) < 0.05
    wide = evaluate(readings, layout, METHOD.with_step(CurveStep(model="quadratic")))
    assert wide.curve.suggestion is not None and wide.curve.suggestion.model == "logistic4"


def test_every_model_of_the_table_gives_an_outcome_or_a_reason() -> None:
    from dosis.core.models import MODELS

    readings, layout, _ = plate()
    for id in MODELS:
        outcome = through(CurveStep(model=id), readings, layout)
        assert outcome.curve.problem or outcome.curve.parameters, id
        assert len(answers(outcome)) == 24


def test_choices_of_the_fit_are_what_they_say() -> None:
    readings, layout = assay("fpl_dnase_run6")
    held = through(CurveStep(model="logistic4", fixed={"slope": 1.0}), readings, layout)
    assert {row.name: row.estimate for row in held.curve.parameters}["slope"] == 1.0
    means = through(CurveStep(model="logistic4", fit_to="means"), readings, layout)
    plain = through(CurveStep(model="logistic4"), readings, layout)
    assert [row.estimate for row in means.curve.parameters] == pytest.approx(
        [row.estimate for row in plain.curve.parameters], rel=1e-6
    )
    fewer = through(CurveStep(model="line", leave_out=LeaveOut(lowest=1, highest=2)), readings, layout)
    assert (fewer.curve.range.lower, fewer.curve.range.upper) == (0.1953125, 3.125)  # type: ignore[union-attr]
    with pytest.raises(ValueError, match="no parameter “top”"):
        CurveStep(model="logistic4", fixed={"top": 1.0})
    with pytest.raises(ValueError, match="no curve model"):
        CurveStep(model="wiggle")


def test_an_own_equation_is_fitted_from_its_start_values() -> None:
    readings, layout = assay("fpl_dnase_run6")
    step = CurveStep(model="custom", expression="a + b*x/(h + x)", start={"a": 0.05, "b": 2.0, "h": 3.0})
    own = through(step, readings, layout)
    library = through(CurveStep(model="hyperbola_offset"), readings, layout)
    assert own.curve.parameters[1].estimate == pytest.approx(library.curve.parameters[0].estimate, rel=1e-6)
    # Without starts they are looked for over orders of magnitude, and the same minimum is come to.
    found = through(CurveStep(model="custom", expression="a + b*x/(h + x)"), readings, layout)
    assert found.curve.parameters[1].estimate == pytest.approx(own.curve.parameters[1].estimate, rel=1e-6)


def test_limits_and_range_are_shown_and_can_be_switched_off() -> None:
    readings, layout, method = plate()
    outcome = evaluate(readings, layout, method)
    assert outcome.curve.working is not None
    assert 0.05 < outcome.curve.working.lower < 0.3
    assert 10 < outcome.curve.working.upper <= 20
    off = evaluate(readings, layout, method.with_step(LimitsStep(on=False)))
    assert off.curve.working is None
    assert [a.in_sample.value for a in answers(off)] == [a.in_sample.value for a in answers(outcome)]


def test_the_order_of_wells_does_not_matter() -> None:
    readings, layout, method = plate()
    turned = Layout.model_validate({**dict(layout), "groups": layout.groups[::-1]})
    before = {a.name: a.in_sample for a in answers(evaluate(readings, layout, method))}
    after = {a.name: a.in_sample for a in answers(evaluate(readings, turned, method))}
    for name, value in before.items():
        assert after[name].shown == value.shown
        assert after[name].value == (None if value.value is None else pytest.approx(value.value, rel=1e-9))


@given(st.floats(-5, 5))
@settings(max_examples=8)
def test_a_constant_on_every_well_and_blank_changes_no_answer(constant: float) -> None:
    readings, layout, method = plate()
    lifted = readings.model_copy(update={
        "readings": tuple(r.model_copy(update={"value": None if r.value is None else r.value + constant})
                          for r in readings.readings)
    })  # fmt: skip
    before, after = evaluate(readings, layout, method), evaluate(lifted, layout, method)
    for a, b in zip(answers(before), answers(after), strict=True):
        assert b.in_sample.value == (None if a.in_sample.value is None else pytest.approx(a.in_sample.value, rel=1e-7))


def test_the_difference_of_two_states_names_settings_exclusions_and_answers() -> None:
    readings, layout, method = plate()
    outcome = evaluate(readings, layout, method)
    _, other = SetStep(step=CurveStep(model="logistic5")).apply(readings, layout, method)
    found = difference((layout, method, outcome), (layout, other, evaluate(readings, layout, other)))
    assert [(c.what, c.before, c.after) for c in found.settings] == [
        ("Curve · model", "4-parameter logistic", "5-parameter logistic")
    ]
    assert found.layout == found.exclusions == () and len(found.answers) > 10
    assert all(c.before.endswith(" µg/L") and c.after.endswith(" µg/L") for c in found.answers)
    nothing = difference((layout, method, outcome), (layout, method, outcome))
    assert nothing.settings == nothing.answers == ()
    # A blank moves the whole of a curve with a lower plateau: every sample reads back as it did with equal weights.
    even = method.with_step(method.step("curve").model_copy(update={"weights": "none"}))
    _, off = SetStep(step=BlankStep(on=False)).apply(readings, layout, even)
    shifted = difference(
        (layout, off, evaluate(readings, layout, off)), (layout, even, evaluate(readings, layout, even))
    )
    assert [c.what for c in shifted.settings] == ["Blank · on"] and shifted.answers == ()


@pytest.mark.parametrize(("value", "listed"), [(29.00034, False), (29.00036, True)])
def test_answers_that_are_written_alike_differ_in_six_digits(value: float, listed: bool) -> None:
    readings, layout, method = plate()
    outcome = evaluate(readings, layout, method)
    table = outcome.answers
    column = table.column("in_sample")
    at = next(i for i, found in enumerate(column.values) if found is not None)

    def with_value(number: float) -> Outcome:
        moved = changed(column, values=(*column.values[:at], number, *column.values[at + 1 :]))
        columns = tuple(moved if each is column else each for each in table.columns)
        return outcome.model_copy(update={"answers": table.model_copy(update={"columns": columns})})

    one, other = with_value(29.0003), with_value(value)
    found = difference((layout, method, one), (layout, method, other)).answers
    assert [c.what for c in found] == ([table.rows[at].name] if listed else [])
    assert all(c.before != c.after for c in found)


def test_a_blank_of_each_row_or_column_is_taken_off_its_own_wells() -> None:
    readings, layout, method = plate()
    by_row = evaluate(readings, layout, method.with_step(BlankStep(scope="row")))
    raw = {r.id: r.value for r in readings.readings}
    corrected = {r.id: r.corrected for r in by_row.readings}
    for id in (1, 30, 95):  # A1, C6 and H11; the blanks stand in column 12
        blank = raw[12 * ((id - 1) // 12) + 12]
        assert corrected[id] == pytest.approx((raw[id] or 0) - (blank or 0), abs=1e-12)
    by_column = evaluate(readings, layout, method.with_step(BlankStep(scope="column")))
    assert "11 columns have no blank" in next(s.sentence for s in by_column.steps if s.kind == "blank")
    typed = evaluate(readings, layout, method.with_step(BlankStep(scope="typed", typed=0.04)))
    assert {r.id: r.corrected for r in typed.readings}[1] == pytest.approx((raw[1] or 0) - 0.04, abs=1e-12)


def test_a_drifting_blank_is_said() -> None:
    rows = [f"Blank\t\t{0.02 + 0.004 * i:.3f}\nStd {i}\t{i}\t{0.1 * i + 0.02:.3f}" for i in range(1, 8)]
    intake = understand("\n".join(["Sample\tConc (µM)\tA880", *rows]))
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, intake.layout, METHOD)
    assert "The blanks drift along the run" in next(s.sentence for s in outcome.steps if s.kind == "blank")


def test_geometric_means_and_what_has_none() -> None:
    readings, layout, method = plate()
    outcome = evaluate(readings, layout, method.with_step(ReplicatesStep(combine="geometric")))
    answer = answers(outcome)[0]
    used = [r.corrected or 0 for r in outcome.readings if r.id in layout.group(answer.group).readings]
    assert answer.signal == pytest.approx((used[0] * used[1] * used[2]) ** (1 / 3), rel=1e-12)
    below = evaluate(readings, layout, method.with_step(ReplicatesStep(combine="geometric")).with_step(
        BlankStep(scope="typed", typed=1.0)))  # fmt: skip
    assert "A geometric mean needs readings above zero" in next(
        s.sentence for s in below.steps if s.kind == "replicates"
    )


def test_the_curve_answers_either_way() -> None:
    readings, layout, method = plate()
    there = ask(readings, layout, method, Asked(level=1.5))
    assert there.value is not None
    back = ask(readings, layout, method, Asked(signal=there.value))
    assert back.value == pytest.approx(1.5, rel=1e-9)
    assert "outside the standards" in ask(readings, layout, method, Asked(level=50.0)).text
    assert ask(readings, layout, method, Asked(signal=99.0)).value is None
    power = method.with_step(CurveStep(model="power"))
    assert ask(readings, layout, power, Asked(level=0.0)).text == "The curve has no value there."
    assert ask(readings, layout.model_copy(update={"groups": ()}), method, Asked(level=1.0)).value is None


def test_a_slipped_tip_is_pointed_at() -> None:
    outcome = evaluate(*plate())
    suspects = [r for r in outcome.readings if r.suspect]
    assert 53 in {r.id for r in suspects}  # E5, a tip that did not seat
    assert "Grubbs, G = 1.15" in next(r.suspect for r in suspects if r.id == 53)
