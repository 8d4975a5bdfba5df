"""What the answers of a run are judged by, said and worked: weights, scatter of samples, blanks, references."""

import re

import numpy as np
import pytest

from dosis.run.method import Method, default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.mortality.line import QuantalStep
from dosis.run.roles import Role
from dosis.run.standards.curve import CurveStep
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.replicates import ReplicatesStep
from tests.outcomes import Answer, answers
from tests.simulation.wells import Wells, worked

METHOD = default_method("concentration")
LEVELS = (1.0, 2.0, 4.0, 6.0, 8.0, 10.0)
UP = (-1.0, 0.3, 0.7)


def standards(sd: float, rise: float = 0.0) -> list[Wells]:
    """Three wells each on a line; the SD of a well is sd, and more by the share `rise` of its signal."""
    return [Wells(Role.STANDARD, f"Std {x:g}", [0.1 * x + (sd + rise * 0.1 * x) * e for e in UP], x) for x in LEVELS]


def sample(name: str, signal: float, sd: float) -> Wells:
    return Wells(Role.SAMPLE, name, [signal + sd * e for e in UP])


def said(outcome: Outcome, kind: str) -> str:
    return next(step.sentence for step in outcome.steps if step.kind == kind)


def named(outcome: Outcome) -> dict[str, Answer]:
    return {answer.name: answer for answer in answers(outcome)}


def width(answer: Answer) -> float:
    return float(answer.in_reading.upper - answer.in_reading.lower)


def test_standards_that_scatter_more_where_they_read_more_are_weighted_and_others_are_not() -> None:
    rising = worked([*standards(0.001, 0.05), sample("S", 0.5, 0.02)], METHOD)
    assert "weighted by their spread" in said(rising, "curve") and "p 0.0" in said(rising, "curve")
    even = worked([*standards(0.01), sample("S", 0.5, 0.01)], METHOD)
    assert "weighted" not in said(even, "curve")
    asked = worked([*standards(0.001, 0.05), sample("S", 0.5, 0.02)], METHOD.with_step(CurveStep(weights="none")))
    suggestion = asked.curve.suggestion
    assert suggestion is not None and suggestion.weights == "auto" and "scatter more" in suggestion.text
    assert "weighted" not in said(asked, "curve") and even.curve.suggestion is None


def test_samples_are_judged_with_the_standards_or_by_their_own_scatter() -> None:
    alike = worked([*standards(0.01), sample("A", 0.5, 0.01), sample("B", 0.7, 0.01)], METHOD)
    assert "judged together" in said(alike, "read_back")
    line = next(each for each in alike.working[answers(alike)[0].group] if each.label == "95 % interval")
    df = 6 * 3 - 2 + 2 * 2
    assert f", {df} df" in line.text
    rough = worked([*standards(0.01), sample("A", 0.5, 0.05), sample("B", 0.7, 0.05)], METHOD)
    times = re.search(r"scatter ([\d.]+) times", said(rough, "read_back"))
    assert times is not None and 4 < float(times[1]) < 6
    assert width(named(rough)["A"]) > 3 * width(named(alike)["A"])
    by_curve = worked([*standards(0.01), sample("A", 0.5, 0.05)], METHOD.with_step(ReadBackStep(scatter="curve")))
    assert "scatter" not in said(by_curve, "read_back")


def test_a_single_reading_has_the_spread_of_its_own_signal() -> None:
    """Of weighted standards, with samples that scatter more: a sample read once is off as far as one of its size."""
    rough = [sample(f"R{i}", 0.1 * x, 0.05 * x) for i, x in enumerate((1.5, 3.0, 5.0, 9.0))]
    once = [Wells(Role.SAMPLE, "Low", [0.15]), Wells(Role.SAMPLE, "High", [0.9])]
    found = named(worked([*standards(0.0005, 0.05), *rough, *once], METHOD))
    relative = {name: width(found[name]) / found[name].in_reading.value for name in ("Low", "High")}
    assert relative["Low"] == pytest.approx(relative["High"], rel=0.2)


def test_one_odd_sample_widens_its_own_interval_and_no_other() -> None:
    calm = [sample(name, y, 0.01) for name, y in (("A", 0.3), ("B", 0.5), ("C", 0.7))]
    without = named(worked([*standards(0.01), *calm], METHOD))
    outcome = worked([*standards(0.01), *calm, sample("Odd", 0.6, 0.2)], METHOD)
    found = named(outcome)
    assert "scatters more" in [remark.short for remark in found["Odd"].remarks]
    for name in "ABC":
        assert width(found[name]) == pytest.approx(width(without[name]), rel=1e-9)
    assert width(found["Odd"]) > 10 * width(found["C"])


@pytest.mark.parametrize(("model", "wider"), [("line", False), ("line_through_zero", True)])
def test_a_blank_counts_where_it_does_not_cancel(model: str, wider: bool) -> None:
    """Between a blank of two wells that differ and one of twenty that hardly do."""
    made = []
    for blank in ([0.03, 0.07], [0.05 + 0.0001 * (-1) ** k for k in range(20)]):
        bench = [Wells(each.role, each.name, [v + 0.05 for v in each.values], each.level) for each in standards(0.004)]
        bench += [Wells(Role.SAMPLE, "S", [0.35, 0.352, 0.348]), Wells(Role.BLANK, "Blank", blank)]
        made.append(width(named(worked(bench, METHOD.with_step(CurveStep(model=model))))["S"]))
    assert (made[0] > 1.5 * made[1]) is wider


def test_each_sample_with_a_blank_of_its_own_carries_that() -> None:
    bench = [*standards(0.004), Wells(Role.BLANK, "Blank", [0.0, 0.001, -0.001])]
    bench += [Wells(Role.SAMPLE, "S", [0.45, 0.452, 0.448]), Wells(Role.BLANK, "S blank", [0.01, 0.09, 0.05])]
    own = worked(bench, METHOD.with_step(BlankStep(scope="own")))
    run = worked(bench, METHOD.with_step(BlankStep(scope="run")))
    assert width(named(own)["S"]) > 2 * width(named(run)["S"])


def test_the_median_is_less_precise_than_the_mean() -> None:
    bench = [*standards(0.01), *(sample(name, 0.5, 0.01) for name in ("S", "T", "U", "V"))]
    mean, median = (
        width(named(worked(bench, METHOD.with_step(ReplicatesStep(combine=by))))["S"]) for by in ("mean", "median")
    )
    assert 1.02 < median / mean < 1.16


DOSES = (0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0)


def dosed(controls: float, method: Method, series: tuple[tuple[str, float], ...] = (("A", 0.5),)) -> Outcome:
    """Curves between controls whose wells stand so far apart, of 100."""
    e = (-1.0, 1.0)
    bench = [Wells(Role.VEHICLE, "Vehicle", [100 + controls * k for k in e]),
             Wells(Role.FULL, "Full", [controls * k for k in e])]  # fmt: skip
    for name, middle in series:
        for i, x in enumerate(DOSES):
            mean = 100 / (1 + x / middle) + 3 * np.sin(1.7 * i + middle)
            bench.append(Wells(Role.DOSE, f"{name}{x}", [mean + 2 * k for k in e], x, name))
    return worked(bench, method)


def test_the_controls_count_in_absolute_doses_and_where_a_plateau_is_held() -> None:
    plain = default_method("dose")
    held = plain.with_step(DoseCurveStep(fixed={"lower": 0.0, "upper": 100.0}))
    for method, relative in ((plain, False), (held, True)):
        sure, loose = (answers(dosed(apart, method))[0] for apart in (2.0, 15.0))
        ratio = {
            kind: np.log(getattr(loose, f"{kind}_50").upper / getattr(loose, f"{kind}_50").lower)
            / np.log(getattr(sure, f"{kind}_50").upper / getattr(sure, f"{kind}_50").lower)
            for kind in ("relative", "absolute")
        }
        assert ratio["absolute"] > 1.5
        assert bool(ratio["relative"] > 1.5) is relative


def test_a_comparison_has_the_setting_of_its_curves() -> None:
    """Equal weights, robust, held plateaus: the ratio is that of the two half-effect doses, each time another one."""
    pair = (("A", 0.3), ("B", 1.1))
    ratios = []
    held = DoseCurveStep(fixed={"lower": 0.0, "upper": 100.0})
    for step in (DoseCurveStep(), held, DoseCurveStep(robust="bisquare")):
        outcome = dosed(2.0, default_method("dose").with_step(step), pair)
        one, other = (answer.relative_50.value for answer in answers(outcome))
        ratio = outcome.part.comparisons[0].ratio
        assert ratio.value == pytest.approx(other / one, rel=0.15) and ratio.lower < ratio.value < ratio.upper
        ratios.append(round(ratio.value, 6))
    assert len(set(ratios)) == 3
    mixed = DoseCurveStep(own={"B": DoseCurveStep(fixed={"lower": 0.0})})
    text = dosed(2.0, default_method("dose").with_step(mixed), pair).part.comparisons[0].text
    assert "cannot be compared" in text and "held" in text


def counted(rows: list[tuple[str, float, int, int]], step: QuantalStep) -> Outcome:
    """Counts of 20, by series and dose."""
    bench = [Wells(Role.DOSE, f"{name}{x}", [n], x, name, more=([r],)) for name, x, n, r in rows]
    return worked(bench, default_method("mortality").with_step(step), channels=("Exposed", "Dead"))


def test_a_lethal_dose_below_zero_is_none_and_says_so() -> None:
    rows = [("A", x, 20, r) for x, r in ((0.5, 7), (2.0, 8), (3.0, 12), (4.0, 15), (5.0, 16))]
    outcome = counted(rows, QuantalStep(dose="linear"))
    (answer,) = answers(outcome)
    assert answer.relative_10.value is None and answer.relative_50.value is not None
    assert any(remark.short.endswith("10") and "below zero dose" in remark.text for remark in answer.remarks)
    assert outcome.verdict.state is State.LOOK


def test_two_series_on_a_linear_dose_are_compared_there() -> None:
    rows = [("A", x, 20, r) for x, r in ((1.0, 2), (2.0, 5), (3.0, 10), (4.0, 15), (5.0, 18))]
    rows += [("B", x, 20, r) for x, r in ((1.0, 1), (2.0, 3), (3.0, 6), (4.0, 10), (5.0, 14))]
    text = counted(rows, QuantalStep(dose="linear")).part.comparisons[0].text
    assert "meet at dose zero" in text


def test_where_none_were_exposed_the_row_is_left_out_and_says_so() -> None:
    rows = [("", 1.0, 20, 2), ("", 2.0, 0, 0), ("", 3.0, 20, 9), ("", 4.0, 20, 17)]
    outcome = counted(rows, QuantalStep())
    assert [reading.why for reading in outcome.readings if not reading.used] == ["none were exposed"]


def test_abbotts_correction_says_what_it_does_to_small_effects() -> None:
    rows = [("A", 0.0, 20, 3), *(("A", x, 20, r) for x, r in ((1.0, 5), (2.0, 8), (4.0, 14), (8.0, 19)))]
    assert "Estimate the background instead" in said(counted(rows, QuantalStep(background="abbott")), "quantal")
    assert "Without dose" in said(counted(rows, QuantalStep()), "quantal")


def test_numbers_near_the_ends_of_the_range_have_an_answer_or_a_reason() -> None:
    """Signals of ±1e200 and of 1e-320: nothing overflows on its way out."""
    for size in (1e200, -1e200, 1e140, 1e-200, 1e-320):
        for model in ("line", "power", "quadratic", "hyperbola", "logistic4"):
            bench = [
                Wells(Role.STANDARD, f"S{x:g}", [x * size, x * size * 1.01], x) for x in (1.0, 2.0, 4.0, 8.0, 16.0)
            ]
            bench += [Wells(Role.SAMPLE, "a", [3 * size, -size]), Wells(Role.BLANK, "B", [0.0, size / 10])]
            for weights in ("auto", "1/yhat^2"):
                outcome = worked(bench, METHOD.with_step(CurveStep(model=model, weights=weights)))
                assert outcome.verdict.headline
