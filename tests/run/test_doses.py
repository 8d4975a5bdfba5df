"""Dose–response runs: published assays evaluated whole, normalizing, what is not reached, and comparisons."""

import math
import re

import numpy as np
import pytest

from dosis.core import fit
from dosis.demo import diatom, screen
from dosis.intake.understand import understand
from dosis.output.answers import answer_cells
from dosis.run.changes import SetStep
from dosis.run.curves.setting import CurveSetting
from dosis.run.difference import difference
from dosis.run.evaluate import evaluate, look_at_curve
from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import Value
from dosis.run.questions.dose.compare import CompareStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.dose.effects import EffectsStep
from dosis.run.questions.dose.normalize import NormalizeStep
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.roles import Role
from tests.conftest import reference
from tests.outcomes import answers

METHOD = default_method("dose")


def assay(name: str, group: bool = False) -> tuple[Readings, Layout]:
    data = reference(name)["data"]
    series = data["group"] if group else ["Only"] * len(data["x"])
    rows = [f"Dose\t{x!r}\t{y!r}\t{s}" for x, y, s in zip(data["x"], data["y"], series, strict=True)]
    intake = understand("\n".join(["Sample\tDose (mM)\tResponse\tSeries", *rows]))
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, question_of("dose").asked(intake.layout)


def plate() -> tuple[Readings, Layout, Method]:
    intake = understand(diatom.plate())
    assert intake.readings is not None and intake.layout is not None
    layout, method = intake.layout, METHOD
    for change in diatom.changes():
        layout, method = change.apply(intake.readings, layout, method)
    return intake.readings, layout, method


def ends(value: Value) -> list[float | None]:
    return [value.lower, value.upper]


@pytest.mark.parametrize("name", ["fpl_ryegrass", "fpl_salba_bentazone"])
def test_a_published_ec50_with_its_interval(name: str) -> None:
    """Inderjit et al. (2002), Physiol. Plant. 114, 422; Christensen et al. (2003), Pest Manag. Sci. 59, 1303."""
    known = reference(name)["expected"]
    outcome = evaluate(*assay(name), METHOD)
    (effect,) = answers(outcome)
    relative = effect.leading
    assert effect.symbol == "IC"
    assert relative.value == pytest.approx(known["e"], rel=1e-6)
    assert ends(relative) != [None, None]
    assert effect.minus_log.value == pytest.approx(
        -known["log10_EC50"] + 3, rel=1e-6
    )  # of mol/L; the file has log10 mM
    assert effect.slope.value == pytest.approx(-known["b"], rel=1e-5)


def test_the_profile_interval_of_ryegrass_is_the_published_one() -> None:
    known = reference("fpl_ryegrass")["expected"]["ci95_EC50_profile"]
    outcome = evaluate(*assay("fpl_ryegrass"), METHOD.with_step(EffectsStep(method="profile")))
    assert ends(answers(outcome)[0].leading) == pytest.approx(known, rel=1e-5)


def test_any_effect_can_be_asked() -> None:
    known = reference("fpl_ryegrass")["expected"]
    outcome = evaluate(*assay("fpl_ryegrass"), METHOD.with_step(EffectsStep(levels=(50, 10, 90))))
    found = {percent: answers(outcome)[0].dose(percent).value for percent in (50, 10, 90)}
    assert found[10] == pytest.approx(known["EC10"]["x"], rel=1e-5)
    assert found[90] == pytest.approx(known["EC90"]["x"], rel=1e-5)
    assert len(outcome.curve.marks) == 3


def test_normalizing_moves_no_relative_dose_and_gives_the_published_percents() -> None:
    """Ryegrass in percent of control: 0 % the highest dose, 100 % the zero dose, as in the reference file."""
    known = reference("replicates_ryegrass")["expected"]["groups"]
    readings, layout = assay("fpl_ryegrass")
    step = NormalizeStep(no_effect="lowest_dose", full_effect="highest_dose")
    outcome = evaluate(readings, layout, METHOD.with_step(step))
    means = {point.x: point.y for point in outcome.curve.means}
    for group in known:
        if group["percent_of_control"] is not None:
            # Between the two controls: what the file gives as 100 less the inhibition.
            expected = 100 - group["percent_inhibition_two_control"]
            assert means[group["conc"]] == pytest.approx(expected, rel=1e-6, abs=1e-9)
    effect = answers(outcome)[0]
    assert effect.leading.value == pytest.approx(reference("fpl_ryegrass")["expected"]["e"], rel=1e-5)
    assert effect.other == pytest.approx(effect.leading.value, rel=1e-6)
    assert effect.dose(50, "absolute").value is not None
    hidden = evaluate(readings, layout, METHOD.with_step(step.model_copy(update={"references": "hidden"})))
    assert {point.state for point in hidden.curve.points if point.x == 0} == {"outside"}


def test_two_published_curves_are_compared() -> None:
    """Streibig (1998), Pesticide Science 55, 137: diuron on spinach, assays 4 and 5."""
    known = reference("ftest_spinach_diuron_assays")["expected"]
    readings, layout = assay("ftest_spinach_diuron_assays", group=True)
    outcome = evaluate(readings, layout, METHOD)
    (comparison,) = outcome.part.comparisons
    assert "not the same" in comparison.text
    # They are not parallel, so the ratio is of the separate curves' midpoints.
    separate = known["all_separate"]
    assert comparison.ratio.value == pytest.approx(separate["e2"] / separate["e1"], rel=1e-4)
    lines = {line.label: line for line in outcome.working[comparison.working]}
    parallel, df = known["parallel"], separate["df"]
    extra = (parallel["rss"] - separate["rss"]) / (parallel["df"] - df) / (separate["rss"] / df)
    assert f"= {extra:.3g}" in lines["Parallel"].text
    assert lines["Equivalence"].value == pytest.approx(separate["b2"] / separate["b1"], rel=1e-4)
    assert lines["Equivalence"].result == "not shown to be equivalent"
    common = evaluate(readings, layout, METHOD.with_step(DoseCurveStep(share=("lower", "upper"))))
    lower = [p.estimate for curve in common.curves for p in curve.parameters if p.name == "lower"]
    assert lower == pytest.approx([known["common_asymptotes"]["c"]] * 2, rel=1e-3)


def test_the_demo_plate_finds_what_it_was_made_from() -> None:
    outcome = evaluate(*plate())
    found = {effect.name: effect for effect in answers(outcome)}
    for lot, _, half, _ in diatom.LOTS:
        relative = found[lot].leading
        assert relative.lower is not None and relative.upper is not None
        assert relative.lower < half < relative.upper
        assert found[lot].between_50 == pytest.approx(half, rel=0.15)
    ratio = outcome.part.comparisons[0].ratio
    assert ratio.lower is not None and ratio.upper is not None and ratio.lower < 1.5 / 0.61 < ratio.upper
    assert {check.id for check in outcome.checks} >= {"z_prime", "bracketed", "plateaus"}
    assert len(outcome.curves) == 2 and outcome.curves[0].logarithmic


def test_raw_and_normalized_are_one_switch_and_shown_beside_each_other() -> None:
    readings, layout, method = plate()
    normalized = answers(evaluate(readings, layout, method))[0]
    raw = answers(evaluate(readings, layout, method.with_step(DoseCurveStep(of="raw"))))[0]
    assert raw.leading.value == pytest.approx(normalized.other, rel=1e-9)
    assert normalized.leading.value == pytest.approx(raw.other, rel=1e-9)
    # The same references give the same absolute dose on either scale.
    assert raw.dose(50, "absolute").value == pytest.approx(normalized.dose(50, "absolute").value, rel=1e-6)


def test_without_controls_it_says_so_and_goes_on_raw() -> None:
    outcome = evaluate(*assay("fpl_ryegrass"), METHOD)
    step = next(step for step in outcome.steps if step.kind == "normalize")
    assert step.state == "look" and "vehicle wells, but there are none" in step.sentence
    assert answers(outcome)[0].dose(50, "absolute").value is None


def flat(*responses: float) -> tuple[Readings, Layout]:
    rows = [f"Dose\t{10.0**i!r}\t{y}\tX" for i, pair in enumerate(responses) for y in (pair, pair + 0.1, pair - 0.1)]
    intake = understand("\n".join(["Sample\tDose (mg/L)\tResponse\tSeries", *rows]))
    assert intake.readings is not None and intake.layout is not None
    return intake.readings, question_of("dose").asked(intake.layout)


@pytest.mark.parametrize("responses", [(100, 100.1, 99.9, 100, 100.05, 100), (100, 99, 98, 96, 90, 80)])
def test_an_effect_that_is_not_reached_is_a_bound_and_never_a_number_out_of_range(responses: tuple[float, ...]) -> None:
    readings, layout = flat(*responses)
    step = NormalizeStep(no_effect="typed", typed_no_effect=100, full_effect="typed", typed_full_effect=0)
    outcome = evaluate(readings, layout, METHOD.with_step(step))
    absolute = answers(outcome)[0].dose(50, "absolute")
    assert absolute.value is None and absolute.shown.startswith("> 100000")


def test_a_response_that_does_not_change_has_no_effect_dose() -> None:
    readings, layout = flat(100, 101, 99, 100.5, 99.5, 100.2)
    outcome = evaluate(readings, layout, METHOD)
    effect = answers(outcome)[0]
    assert effect.leading == Value(shown="none shown")
    assert [remark.short for remark in effect.remarks] == ["no effect shown"] and outcome.verdict.state == "look"


def screened() -> tuple[Readings, Layout, Method]:
    intake = understand(screen.plate())
    assert intake.readings is not None and intake.layout is not None
    layout, method = intake.layout, METHOD
    for change in screen.changes():
        layout, method = change.apply(intake.readings, layout, method)
    return intake.readings, layout, method


def test_the_demo_screen_has_its_flat_partial_rising_and_noisy_ones() -> None:
    outcome = evaluate(*screened())
    assert len(answers(outcome)) == len(outcome.curves) == screen.COMPOUNDS
    found = {effect.name: effect for effect in answers(outcome)}
    assert found["EX-04"].leading.shown == "none shown"
    assert {effect.symbol for effect in answers(outcome)} == {"IC"}  # one symbol a run: all that show an effect fall
    assert found["EX-07"].leading.value is not None  # stops halfway: a relative dose, and no absolute one
    assert found["EX-07"].dose(50, "absolute").shown == "> 100"
    assert outcome.part.comparisons == ()


def test_what_is_neither_dose_nor_control_is_named() -> None:
    rows = [f"D{i}\t{10.0**i!r}\t{y}" for i, y in enumerate((100, 96, 80, 40, 12, 5))]
    intake = understand("\n".join(["Sample\tDose (mg/L)\tResponse", *rows, "Pond\t\t50"]))
    assert intake.readings is not None and intake.layout is not None
    outcome = evaluate(intake.readings, question_of("dose").asked(intake.layout), METHOD)
    step = next(step for step in outcome.steps if step.kind == "dose_curve")
    assert "not used: Pond" in step.sentence and step.state == "look"


def test_nothing_to_fit_is_said_and_nothing_breaks() -> None:
    readings, layout = flat(100, 50)
    outcome = evaluate(readings, layout, METHOD)
    assert answers(outcome) == [] and outcome.verdict.state == "fail"
    assert "2 doses" in outcome.curve.problem
    bare = evaluate(readings, layout.model_copy(update={"groups": ()}), METHOD)
    assert bare.verdict.headline and bare.curve.points == ()


def test_comparing_can_be_switched_off_and_has_a_reference() -> None:
    readings, layout, method = plate()
    off = evaluate(readings, layout, method.with_step(CompareStep(on=False)))
    turned = evaluate(readings, layout, method.with_step(CompareStep(reference="Lot B")))
    assert off.part.comparisons == () and turned.part.comparisons[0].reference == "Lot B"
    ratio = evaluate(readings, layout, method).part.comparisons[0].ratio.value
    assert turned.part.comparisons[0].ratio.value == pytest.approx(1 / (ratio or 0), rel=1e-6)
    assert {group.role for group in layout.groups} == {Role.VEHICLE, Role.FULL, Role.BLANK, Role.DOSE}


def test_a_wall_in_brief_is_the_whole_less_what_is_made_when_a_curve_is_looked_at() -> None:
    readings, layout, method = screened()
    brief, whole = evaluate(readings, layout, method), evaluate(readings, layout, method, whole=True)
    assert brief.answers == whole.answers
    assert brief.verdict == whole.verdict
    assert all(curve.brief and not curve.parameters and curve.line.y for curve in brief.curves)
    assert not any(curve.brief for curve in whole.curves)
    looked = look_at_curve(readings, layout, method, whole.curves[7].key)
    assert looked is not None
    curve, working = looked
    assert curve == whole.curves[7]
    assert len(curve.parameters) == 4
    assert curve.line.lower
    for id in (f"{curve.tag}parameter.slope", f"{curve.tag}statistic.rmse"):
        assert id not in brief.working
        assert working[id] == whole.working[id]
    assert look_at_curve(readings, layout, method, "nobody") is None


def test_one_series_is_an_exception_and_the_others_stay_as_they_are() -> None:
    readings, layout, method = screened()
    step = DoseCurveStep(own={"EX-07": CurveSetting(model="weibull"), "EX-09": CurveSetting(fixed={"lower": 0.0})})
    all_alike, all_weibull = (
        evaluate(readings, layout, method.with_step(each)) for each in (DoseCurveStep(), DoseCurveStep(model="weibull"))
    )
    outcome = evaluate(readings, layout, method.with_step(step))
    names = [curve.key for curve in outcome.curves]
    assert [curve.key for curve in outcome.curves if curve.own] == ["EX-07", "EX-09"]
    seventh, ninth = names.index("EX-07"), names.index("EX-09")
    assert outcome.curves[seventh].name == "Weibull"
    found, alone = answers(outcome)[seventh].leading, answers(all_weibull)[seventh].leading
    assert found.value == pytest.approx(alone.value, rel=1e-6)
    assert answers(outcome)[ninth].lower.value == 0
    others = [i for i in range(len(names)) if i not in (seventh, ninth)]
    for i in others:
        assert answers(outcome)[i].leading.shown == answers(all_alike)[i].leading.shown
    curve_step = next(each for each in outcome.steps if each.kind == "dose_curve")
    assert "**A setting of their own:** EX-07, EX-09." in curve_step.sentence
    assert SetStep(step=step).words(readings, layout, METHOD) == (
        "Curve: 4-parameter logistic, of normalized responses; EX-07: Weibull; "
        "EX-09: 4-parameter logistic, lower held at 0"
    )
    changed = difference((layout, method, all_alike), (layout, method.with_step(step), outcome)).settings
    assert next((each.what, each.before, each.after) for each in changed) == (
        "Curve · curve of EX-07",
        "as all others",
        "Weibull",
    )


def test_series_of_different_models_are_not_compared() -> None:
    readings, layout, method = plate()
    shared = DoseCurveStep(share=("slope",), own={"Lot B": CurveSetting(model="weibull")})
    outcome = evaluate(readings, layout, method.with_step(shared))
    assert "different models" in outcome.part.comparisons[0].text
    assert [effect.symbol for effect in answers(outcome)] == ["IC", "IC"]
    with pytest.raises(ValueError, match="has no parameter “scale”"):
        DoseCurveStep(own={"Lot B": CurveSetting(fixed={"scale": 1.0})})


def test_equivalent_slopes_are_said_beside_the_difference() -> None:
    """The two one-sided tests of USP <1032>: equivalent only where the 90 % interval lies within the margins."""
    text = evaluate(*plate()).part.comparisons[0].text
    said = re.search(r"Slopes (.*): ratio [\d.]+ \(([\d.]+) – ([\d.]+), 90 %\), margins 0.8 to 1.25\.", text)
    assert said is not None
    within = float(said[2]) >= 0.8 and float(said[3]) <= 1.25
    assert said[1] == ("equivalent" if within else "not shown to be equivalent")


def test_a_drift_over_the_plate_is_found_and_an_even_plate_passes() -> None:
    readings, layout, method = plate()
    even = next(check for check in evaluate(readings, layout, method).checks if check.id == "even")
    assert (even.state, even.found) == ("pass", "no edge effect, no drift")
    drifting = tuple(
        each.model_copy(update={"value": each.value * (1 + 0.02 * (each.column or 0))}) if each.value else each
        for each in readings.readings
    )
    outcome = evaluate(readings.model_copy(update={"readings": drifting}), layout, method)
    check = next(check for check in outcome.checks if check.id == "even")
    assert check.state == "look" and "first column to last +" in check.found
    assert outcome.working["check.even"]
    first, last = ([e.deviation or 0 for e, r in zip(outcome.readings, drifting, strict=True) if r.column == column]
                   for column in (0, 11))  # fmt: skip
    assert sum(first) < 0 < sum(last)


def test_slope_plateaus_minus_log_and_area_come_with_intervals() -> None:
    """Inderjit et al. (2002), Physiol. Plant. 114, 422, against the same fit made by itself."""
    data, outcome = reference("fpl_ryegrass")["data"], evaluate(*assay("fpl_ryegrass"), METHOD)
    effect, alone = answers(outcome)[0], fit("logistic4", data["x"], data["y"])
    for name in ("slope", "lower", "upper"):
        assert ends(getattr(effect, name)) == pytest.approx(alone.parameters[name].interval(), rel=1e-6)
    low, high = min(x for x in data["x"] if x > 0), max(data["x"])
    area = alone.area(low, high, logarithmic=True)
    assert ends(effect.area) == pytest.approx([area.lower, area.upper], rel=1e-6)
    dose = effect.leading
    assert ends(effect.minus_log) == pytest.approx([3 - math.log10(dose.upper or 0), 3 - math.log10(dose.lower or 0)])
    headings, (row, *_) = answer_cells(outcome.answers)
    at = headings.index("Area over log dose")
    assert row[at : at + 3] == [effect.area.value, *ends(effect.area)]


def test_a_curve_with_a_threshold_tells_it_as_the_no_effect_concentration() -> None:
    """Readings of a curve that begins to fall at 8 µg/L; its half effect lies ln 2/0.05 further on."""
    rng = np.random.default_rng(4)
    rows = [(dose, 100 * math.exp(-0.05 * max(dose - 8, 0)) + rng.normal(0, 2)) for dose in
            (0, 1, 2, 4, 8, 16, 32, 64) for _ in range(4)]  # fmt: skip

    def found(turn: float = 0.0) -> Outcome:
        text = "\n".join(f"A\t{dose}\t{abs(turn - y):.6f}" for dose, y in rows)
        intake = understand(f"Series\tDose (µg/L)\tSignal\n{text}")
        assert intake.readings is not None
        assert intake.layout is not None
        layout = question_of("dose").asked(intake.layout)
        return evaluate(intake.readings, layout, METHOD.with_step(DoseCurveStep(model="threshold_decline")))

    table = found().answers
    threshold, half = table.column("threshold").value(0), table.column("relative_50").value(0)
    assert table.column("threshold").name == "NEC"
    assert threshold.value == pytest.approx(8, abs=1)
    assert half.value == pytest.approx(8 + math.log(2) / 0.05, rel=0.05)
    assert threshold.lower is not None
    assert threshold.upper is not None
    assert threshold.lower < 8 < threshold.upper
    said = next(step for step in found(turn=100.0).steps if step.kind == "dose_curve").sentence
    assert "falls with the dose, and these responses rise; choose another curve." in said
