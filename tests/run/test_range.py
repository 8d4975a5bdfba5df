"""What lies outside the standards is said as such, with advice that fits the curve and can be followed."""

import pytest

from dosis.core import fit
from dosis.core.limits import working_range
from dosis.intake.understand import understand
from dosis.run.evaluate import ask, evaluate
from dosis.run.method import default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.told import Asked
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.standards.curve import CurveStep
from tests.outcomes import Answer, answers

RISING = ["Std 0\t0\t0.01\t0.012\t"] + [f"Std\t{x}\t{0.01 + 0.1 * x}\t{0.012 + 0.1 * x}\t" for x in (1, 2, 4, 8)]
FALLING = [
    f"Std\t{x}\t{2 / (1 + x / 2) + 0.01}\t{2 / (1 + x / 2) - 0.01}\t" for x in (0, 0.25, 0.5, 1, 2, 4, 8, 16, 32)
]
LINE, CURVE = default_method("concentration"), default_method("concentration").with_step(CurveStep(model="logistic4"))


def run(standards: list[str], *samples: str, method=LINE) -> Outcome:
    intake = understand("\n".join(["Sample\tConc (µM)\tA\tA\tDilution", *standards, *samples]))
    assert intake.readings is not None and intake.layout is not None
    return evaluate(intake.readings, intake.layout, method)


def only(outcome: Outcome) -> Answer:
    (answer,) = answers(outcome)
    return answer


@pytest.mark.parametrize(("signal", "shown"), [(0.108, "< 1"), (0.1115, None), (-0.05, "< 1"), (0.05, "< 1")])
def test_a_zero_standard_is_no_lowest_standard(signal: float, shown: str | None) -> None:
    outcome = run(RISING, f"S1\t\t{signal}\t{signal}\t")
    value = only(outcome).in_reading
    assert (value.value is None, value.shown) == (True, shown) if shown else value.value == pytest.approx(1.0, abs=0.02)
    read = outcome.verdict.headline
    assert read == ("S1 could not be read as a number." if shown else "S1 read.")
    found = next(check for check in outcome.checks if check.id == "range")
    assert found.found == ("0 of 1 within" if shown else "1 of 1 within")


def test_extrapolating_below_the_lowest_standard_stays_marked() -> None:
    answer = only(run(RISING, "S1\t\t0.06\t0.06\t", method=LINE.with_step(ReadBackStep(extrapolate=True))))
    assert answer.in_reading.value == pytest.approx(0.49, abs=0.01)
    assert answer.remarks[0].short == "below lowest standard"


@pytest.mark.parametrize(
    ("dilution", "advice"),
    [("", "add a lower standard or concentrate the sample."), ("20", "dilute it less than × 20, or add a lower ")],
)  # fmt: skip
def test_advice_can_be_followed(dilution: str, advice: str) -> None:
    answer = only(run(RISING, f"S1\t\t0.05\t0.05\t{dilution}"))
    assert "below the lowest standard above zero (1 µM)" in answer.remarks[0].text and advice in answer.remarks[0].text
    assert ("dilute" in answer.remarks[0].text) is bool(dilution)


@pytest.mark.parametrize(
    ("standards", "method", "cell", "bound", "advice"),
    [
        (RISING, LINE, "OVER", "> 8", "dilute and rerun"),
        (FALLING, CURVE, "OVER", "< 0.25", "on this curve that is a low concentration"),
        (RISING, LINE, "UNDER", "< 1", "on this curve that is a low concentration"),
        (FALLING, CURVE, "UNDER", "> 32", "dilute and rerun"),
    ],
)  # fmt: skip
def test_over_range_means_what_the_curve_says_it_does(standards, method, cell: str, bound: str, advice: str) -> None:
    outcome = run(standards, f"S1\t\t{cell}\t{cell}\t", method=method)
    answer = only(outcome)
    assert answer.in_reading.shown == bound and advice in answer.remarks[0].text
    said = "".join(part.text for part in outcome.verdict.detail)
    assert ("dilute and rerun" in said) is (advice == "dilute and rerun")


def test_quantifiable_never_leaves_the_standards() -> None:
    curve = fit("line", [0, 0, 1, 1, 2, 2, 4, 4], [0.0, 0.0001, 0.1, 0.1001, 0.2, 0.2001, 0.4, 0.4001])
    found = working_range(curve, 0.5)
    assert (found.low, found.high) == (pytest.approx(1), pytest.approx(4))
    assert run(RISING, "S1\t\t0.3\t0.3\t").curve.shown_working == "1.00 – 8.00 µM"


def test_the_curve_asked_below_its_lowest_standard_says_so() -> None:
    intake = understand("\n".join(["Sample\tConc (µM)\tA\tA\tDilution", *RISING]))
    assert intake.readings is not None and intake.layout is not None
    told = ask(intake.readings, intake.layout, LINE, Asked(signal=0.05)).text
    assert "below the lowest standard above zero" in told
    assert "below" not in ask(intake.readings, intake.layout, LINE, Asked(signal=0.3)).text
