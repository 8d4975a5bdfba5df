"""The question relation, from a pasted table to its answers."""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy import stats

from dosis.intake.understand import understand
from dosis.run.changes import SetQuestion, SetStep
from dosis.run.evaluate import ask, evaluate, look_at_equation
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.opening import opened
from dosis.run.outcome.equation import EquationAsked
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.told import Asked
from dosis.run.outcome.value import State
from dosis.run.questions.relation.columns import ColumnsStep
from dosis.run.questions.relation.compare import CompareRelationsStep
from dosis.run.questions.relation.curve import Range, RelationCurveStep
from dosis.run.questions.relation.leaving_out import LeaveOut
from dosis.run.questions.relation.part import RelationPart
from dosis.run.questions.relation.predict import PredictStep
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.step import Step

NIST: dict[str, Any] = json.loads(Path("tests/reference/nist_nonlinear.json").read_text("utf-8"))["sets"]


def run(text: str, *steps: Step) -> tuple[Readings, Layout, Method, Outcome]:
    """A table opened as a relation, with these steps."""
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    assert intake.understanding.asks == "relation"
    layout, method = opened(intake.readings, intake.layout, "relation")
    for step in steps:
        method = method.with_step(step)
    return intake.readings, layout, method, evaluate(intake.readings, layout, method)


def table(x: list[float], **columns: list[float]) -> str:
    rows = ["\t".join(["T", *columns])]
    rows += ["\t".join(map(str, row)) for row in zip(x, *columns.values(), strict=True)]
    return "\n".join(rows)


def column(outcome: Outcome, id: str) -> Any:
    return outcome.answers.column(id)


def part(outcome: Outcome) -> RelationPart:
    assert isinstance(outcome.part, RelationPart)
    return outcome.part


X = [1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0]
LINE = [2.1, 3.9, 6.2, 7.8, 10.1, 12.0, 13.8]


def test_a_line_is_that_of_least_squares_with_its_interval() -> None:
    outcome = run(table(X, y=LINE))[3]
    reference = stats.linregress(X, LINE)
    slope = column(outcome, "parameter_slope").value(0)
    assert slope.value == pytest.approx(reference.slope, rel=1e-12)
    t = stats.t.ppf(0.975, len(X) - 2)
    assert slope.lower == pytest.approx(reference.slope - t * reference.stderr, rel=1e-9)
    assert column(outcome, "parameter_intercept").values[0] == pytest.approx(reference.intercept, rel=1e-9)
    assert outcome.verdict.state is State.PASS
    assert "standard" not in json.dumps(outcome.model_dump(mode="json")["steps"]).casefold()


@pytest.mark.parametrize("name", ["Misra1a", "BoxBOD", "MGH09", "Rat42", "DanWood"])
def test_own_equations_through_the_run_are_those_that_nist_certifies(name: str) -> None:
    """From the worse start, start 1. Source: NIST StRD, nonlinear regression."""
    case = NIST[name]
    start = dict(zip(case["parameters"], case["start1"], strict=True))
    step = RelationCurveStep(model="custom", equation=case["formula"], start=start)
    outcome = run(table(case["x"], y=case["y"]), step)[3]
    for parameter, certified in zip(case["parameters"], case["certified"], strict=True):
        assert column(outcome, f"parameter_{parameter}").values[0] == pytest.approx(certified, rel=1e-8)


def test_errors_weigh_the_points_as_their_squares_say() -> None:
    """Weighted line by the formulas of Bevington & Robinson (2003), 6.3 (from memory), with the residual spread."""
    errors = [0.1, 0.1, 0.2, 0.2, 0.4, 0.4, 0.8]
    rows = "\n".join(f"{x}\t{y}\t{e}" for x, y, e in zip(X, LINE, errors, strict=True))
    outcome = run(f"T\ty\t±\n{rows}\n", RelationCurveStep(weights="error"))[3]
    w = 1 / np.square(errors)
    x, y = np.array(X), np.array(LINE)
    slope = (w.sum() * (w * x * y).sum() - (w * x).sum() * (w * y).sum()) / (
        w.sum() * (w * x * x).sum() - (w * x).sum() ** 2
    )
    assert column(outcome, "parameter_slope").values[0] == pytest.approx(slope, rel=1e-10)
    bare = run(f"T\ty\t±\n{rows}\n")[3]
    assert bare.curve.suggestion is not None and bare.curve.suggestion.weights == "error"
    lost = f"T\ty\t±\n{rows}\n8\t16.1\t\n"
    assert "have no error" in run(lost, RelationCurveStep(weights="error"))[3].curve.problem


def test_a_line_through_a_rise_and_a_fall_is_said_to_mislead() -> None:
    rise = [1.0, 3.1, 5.0, 6.2, 4.9, 2.8, 1.1]
    outcome = run(table(X, y=rise))[3]
    assert outcome.verdict.state is State.LOOK
    assert outcome.curve.suggestion is not None and outcome.curve.suggestion.model == "optimum"
    straight = next(check for check in outcome.checks if check.id == "straight")
    assert straight.state is State.LOOK and "rises and falls" in straight.found
    # A bend that turns beyond the points is no rise and fall, but no straight line either.
    bend = [1.0, 4.0, 6.6, 8.8, 10.6, 12.1, 13.1]
    bent = next(check for check in run(table(X, y=bend))[3].checks if check.id == "straight")
    assert bent.state is State.LOOK and "bends" in bent.found
    clear = next(check for check in run(table(X, y=LINE))[3].checks if check.id == "straight")
    assert clear.state is State.PASS


def test_both_axes_may_be_computed() -> None:
    outcome = run(
        table(X, y=LINE), ColumnsStep(x="1/x", y="log10(y)", x_name="1/T", x_unit="1/K"), RelationCurveStep()
    )[3]
    reference = stats.linregress(1 / np.array(X), np.log10(LINE))
    assert column(outcome, "parameter_slope").values[0] == pytest.approx(reference.slope, rel=1e-10)
    assert outcome.curve.x_label == "1/T / 1/K"
    lost = run(table([0.0, *X], y=[1.0, *LINE]), ColumnsStep(x="1/x"))[3]
    assert "1 points have no value" in lost.steps[0].sentence and lost.steps[0].state is State.LOOK
    wrong = run(table(X, y=LINE), ColumnsStep(x="1/("))[3]
    assert wrong.steps[0].state is State.FAIL and wrong.verdict.state is State.FAIL


def test_points_are_left_out_by_x_or_by_the_table_and_never_more_than_the_rule_says() -> None:
    mixed = [4.0, 1.0, 7.0, 2.0, 6.0, 3.0, 5.0]
    text = table(mixed, y=[2 * x for x in mixed])
    by_x = run(text, RelationCurveStep(leave_out=LeaveOut(first=1, last=2)))[3]
    assert (by_x.curve.range.lower, by_x.curve.range.upper) == (2, 5)  # type: ignore[union-attr]
    by_table = run(text, RelationCurveStep(leave_out=LeaveOut(first=1, last=2, by="table")))[3]
    used = sorted(point.x for point in by_table.curve.points if point.state == "used")
    assert used == [1, 2, 6, 7]
    allowed = run(text, RelationCurveStep(leave_out=LeaveOut(first=1, last=1, at_most=2)))[3]
    assert allowed.verdict.state is not State.FAIL
    refused = run(text, RelationCurveStep(leave_out=LeaveOut(first=2, last=1, at_most=2)))[3]
    assert refused.verdict.state is State.FAIL and "allows 2" in refused.steps[1].sentence
    window = run(text, RelationCurveStep(window=Range(lower=2, upper=6)))[3]
    assert (window.curve.range.lower, window.curve.range.upper) == (2, 6)  # type: ignore[union-attr]


def test_predictions_go_both_ways_with_the_interval_that_is_asked_for() -> None:
    step = PredictStep(at_x=(3.5, 99.0), at_y=(8.0,))
    found = part(run(table(X, y=LINE), step)[3]).predictions
    reference = stats.linregress(X, LINE)
    x = np.array(X)
    residual = np.array(LINE) - reference.intercept - reference.slope * x
    s = np.sqrt((residual**2).sum() / (len(X) - 2))
    half = (
        stats.t.ppf(0.975, len(X) - 2) * s * np.sqrt(1 / len(X) + (3.5 - x.mean()) ** 2 / ((x - x.mean()) ** 2).sum())
    )
    middle = reference.intercept + reference.slope * 3.5
    assert found[0].value.value == pytest.approx(middle, rel=1e-12)
    assert found[0].value.lower == pytest.approx(middle - half, rel=1e-9)
    assert found[1].beyond == "outside the points" and not found[0].beyond
    assert found[2].value.value == pytest.approx((8.0 - reference.intercept) / reference.slope, rel=1e-10)
    wider = part(run(table(X, y=LINE), PredictStep(at_x=(3.5,), of="reading"))[3]).predictions[0]
    assert wider.value.lower is not None and found[0].value.lower is not None
    assert wider.value.lower < found[0].value.lower


def test_a_table_is_read_off_in_place_without_a_curve() -> None:
    """By hand: between (2, 10) and (4, 18), 3 is at 14; the other way 14 is at 3."""
    text = "Conductivity (mS/cm)\tSalinity (psu)\n1\t4\n2\t10\n4\t18\n8\t40\n"
    step = PredictStep(at_x=(3.0, 9.0), at_y=(14.0,))
    outcome = run(text, RelationCurveStep(model="table"), step)[3]
    first, outside, back = part(outcome).predictions
    assert first.value.value == 14 and back.value.value == 3
    assert outside.value.value is None and "never extrapolated" in outside.beyond
    inside = run(text, RelationCurveStep(model="table"), PredictStep(at_x=(3.0,)))[3]
    assert inside.verdict.state is State.PASS and "14" in inside.verdict.headline


def test_series_have_a_row_each_at_the_digits_asked_for_and_are_compared() -> None:
    rng = np.random.default_rng(4)
    x = list(np.linspace(1, 10, 12))
    one, two, three = ([round(float(k * v + 1 + 0.05 * rng.normal()), 4) for v in x] for k in (2.0, 2.0, 2.5))
    text = table(x, **{"Trial 1": one, "Trial 2": two, "Trial 3": three})
    outcome = run(text, RelationCurveStep(digits=2))[3]
    assert [row.name for row in outcome.answers.rows] == ["Trial 1", "Trial 2", "Trial 3"]
    assert column(outcome, "parameter_slope").texts == ("2.0", "2.0", "2.5")
    same, other = part(outcome).comparisons
    assert "not told apart" in same.text and "not the same" in other.text

    # F of Bates & Watts (1988), 3.10, by the sums of squares of the lines alone and of one line for both.
    def sse(xs: list[float], ys: list[float]) -> float:
        line = stats.linregress(xs, ys)
        return float(np.square(np.array(ys) - line.intercept - line.slope * np.array(xs)).sum())

    apart, together = sse(x, one) + sse(x, three), sse(x + x, one + three)
    f = (together - apart) / 2 / (apart / (2 * len(x) - 4))
    working = outcome.working[other.working][0]
    assert working.value == pytest.approx(float(stats.f.sf(f, 2, 2 * len(x) - 4)), rel=1e-6)
    off = run(text, CompareRelationsStep(on=False))[3]
    assert part(off).comparisons == ()


def test_an_equation_is_looked_at_while_it_is_typed() -> None:
    case = NIST["Misra1a"]
    readings, layout, method, _ = run(table(case["x"], y=case["y"]))
    good = look_at_equation(readings, layout, method, EquationAsked(equation=case["formula"]))
    assert [each.name for each in good.parameters] == ["b1", "b2"]
    assert [each.linear for each in good.parameters] == [True, False]
    assert good.parameters[0].shown == "238.9" and good.x and "starts came to" in good.said
    assert good.tried[0].best
    broken = look_at_equation(readings, layout, method, EquationAsked(equation="b1*(1-exp(-b2*x)"))
    assert broken.problem and broken.position is not None
    bare = look_at_equation(readings, layout, method, EquationAsked(equation="b1*b2"))
    assert "needs x" in bare.problem


def test_a_run_is_asked_something_else_and_back_again() -> None:
    text = "Sample\tConc (µM)\tA880\nBlank\t\t0.02\nStd 1\t1\t0.12\nStd 2\t2\t0.22\nStd 3\t4\t0.42\nPier\t\t0.3\n"
    intake = understand(text)
    assert intake.readings is not None and intake.layout is not None
    layout, method = opened(intake.readings, intake.layout, "concentration")
    before = evaluate(intake.readings, layout, method)
    change = SetQuestion(question="relation")
    there, asked = change.apply(intake.readings, layout, method)
    assert asked.question == "relation" and "instead of" in change.words(intake.readings, layout, method)
    assert evaluate(intake.readings, there, asked).answers.rows
    back, again = SetQuestion(question="concentration").apply(intake.readings, there, asked)
    after = evaluate(intake.readings, back, again)
    pier = [outcome.answers.column("in_reading").value(-1).value for outcome in (before, after)]
    assert pier[0] is not None and pier[1] == pytest.approx(pier[0], rel=1e-12)
    assert any(group.role is Role.BLANK for group in back.groups)


def test_the_curve_is_asked_of_one_number_too() -> None:
    readings, layout, method, _ = run(table(X, y=LINE))
    told = ask(readings, layout, method, Asked(level=3.0))
    reference = stats.linregress(X, LINE)
    assert told.value == pytest.approx(reference.intercept + 3 * reference.slope, rel=1e-10)
    assert "95 %" in told.text


def test_settings_that_make_no_sense_are_refused() -> None:
    with pytest.raises(ValueError, match="no parameter “q”"):
        RelationCurveStep(fixed={"q": 1.0})
    with pytest.raises(ValueError, match="Type the equation"):
        RelationCurveStep(model="custom")
    with pytest.raises(ValueError, match="no curve model"):
        RelationCurveStep(model="wiggle")
    step = RelationCurveStep(model="custom", equation="a + b*x", start={"a": 1.0}, leave_out=LeaveOut(first=1))
    method = SetStep(step=step)
    assert "without the first 1" in method.step.words(None, "")
