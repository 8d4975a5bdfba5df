"""Curves on an x that goes below zero, such as a voltage: drawn whole, compared by difference, never by ratio."""

import numpy as np
import pytest

from dosis.core import MODELS, fit
from dosis.intake.understand import understand
from dosis.run.evaluate import evaluate
from dosis.run.method import default_method
from dosis.run.outcome.outcome import Outcome
from dosis.run.questions.dose.compare import CompareStep
from dosis.run.questions.dose.curve import DoseCurveStep
from dosis.run.questions.registry import question_of

AT = (-80, -60, -50, -40, -30, -20, -10, 0, 10)
MIDDLE = {"A": -40.0, "B": -25.0}


def responses() -> dict[str, np.ndarray]:
    rng = np.random.default_rng(1)
    return {
        name: 100 / (1 + np.exp((middle - np.repeat(AT, 2)) / 6)) + rng.standard_normal(2 * len(AT))
        for name, middle in MIDDLE.items()
    }


def run(model: str, *, compared: bool = True) -> Outcome:
    rows = [
        f"x\t{v}\t{y:.4f}\t{name}"
        for name, ys in responses().items()
        for v, y in zip(np.repeat(AT, 2), ys, strict=True)
    ]
    intake = understand("\n".join(["Sample\tDose (mV)\tResponse\tSeries", *rows]))
    assert intake.readings is not None and intake.layout is not None
    method = default_method("dose").with_step(DoseCurveStep(model=model)).with_step(CompareStep(on=compared))
    return evaluate(intake.readings, question_of("dose").asked(intake.layout), method)


def test_boltzmann_curves_are_drawn_over_all_levels_and_compared_by_difference() -> None:
    outcome = run("boltzmann")
    for curve in outcome.curves:
        assert min(curve.line.x) < -80 and max(curve.line.x) > 10 and not curve.logarithmic
        assert curve.marks and curve.marks[0].x < 0
    text = outcome.part.comparisons[0].text
    assert "times" not in text and outcome.part.comparisons[0].ratio.value is None
    own = {
        name: fit("boltzmann", np.repeat(AT, 2), np.round(y, 4)).named["midpoint"] for name, y in responses().items()
    }
    assert f"**{own['B'] - own['A']:.2f}**" in text and "mV" in text
    assert "Difference" in {line.label for line in outcome.working["compare.0"]}


@pytest.mark.parametrize("compared", [True, False])
def test_every_model_takes_levels_below_zero_or_says_why_not(compared: bool) -> None:
    for model in MODELS:
        outcome = run(model, compared=compared)
        assert outcome.curve.line.x or outcome.curve.problem, model
