"""The budget of a run: off until it is asked for, then beside every interval, with its shares and its working."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.outcome.value import State
from dosis.run.questions.concentration.read_back import ReadBackStep
from dosis.run.standards.budget import BudgetStep, Source
from dosis.run.standards.curve import CurveStep
from tests.run.test_rules import LINE, run

ROWS = [*LINE, ("Pond", None, 0.51), ("Pond", None, 0.49), ("Weir", None, 1.2)]
STOCK = Source(name="Purity of the stock", percent=2.0, given_as="rectangular")
PIPETTE = Source(name="Pipettes", percent=1.0, of="levels")


def step(outcome, kind="budget"):
    return next(each for each in outcome.steps if each.kind == kind)


def test_it_is_off_and_says_what_intervals_are_of() -> None:
    outcome = run(ROWS)
    assert step(outcome).sentence == "Intervals are of the regression alone."
    assert "expanded" not in {column.id for column in outcome.answers.columns} and outcome.further == ()
    waiting = step(run(ROWS, BudgetStep(on=True)))
    assert waiting.state is State.LOOK and "regression alone" in waiting.sentence


def test_sources_are_combined_with_the_read_back() -> None:
    outcome = run(ROWS, BudgetStep(on=True, sources=(STOCK, PIPETTE)))
    answers = outcome.answers
    value = answers.column("in_sample").values
    shares = [[column.values[i] for column in outcome.further[0].columns] for i in range(2)]
    assert [column.name for column in outcome.further[0].columns] == ["Readings and curve", STOCK.name, PIPETTE.name]
    for i in range(2):
        assert sum(shares[i]) == pytest.approx(100)
        stock = value[i] * 0.02 / math.sqrt(3)
        u = answers.column("combined").values[i]
        assert_allclose(shares[i][1], 100 * (stock / u) ** 2, rtol=1e-9)
        assert_allclose(answers.column("expanded").values[i], 2 * u)
    half = (answers.column("in_sample").uppers[0] - answers.column("in_sample").lowers[0]) / 2
    only = run(ROWS, BudgetStep(on=True, sources=(Source(name="Next to nothing", percent=1e-9),), coverage="t"))
    assert_allclose(only.answers.column("expanded").values[0], half, rtol=0.01)  # then it is the interval itself
    lines = {line.label: line for line in outcome.working[answers.rows[0].group]}
    assert lines["Combined"].value == answers.column("combined").values[0]
    assert lines[STOCK.name].result.endswith("of the variance")
    assert answers.column("in_sample").lowers == run(ROWS).answers.column("in_sample").lowers  # the interval stays


def test_a_source_can_be_of_the_standards_at_one_level() -> None:
    """Moving each level by itself and adding squares is moving all of them, each by itself."""
    levels = sorted({level for _, level, _ in LINE if level})
    all_of_them = run(ROWS, BudgetStep(on=True, sources=(PIPETTE,)))
    each = [run(ROWS, BudgetStep(on=True, sources=(PIPETTE.model_copy(update={"level": level}),))) for level in levels]

    def of_levels(outcome):
        u, share = outcome.answers.column("combined").values[0], outcome.further[0].columns[1].values[0]
        return u**2 * share / 100

    assert_allclose(sum(map(of_levels, each)), of_levels(all_of_them), rtol=1e-9)
    assert max(map(of_levels, each)) < of_levels(all_of_them)
    absent = run(ROWS, BudgetStep(on=True, sources=(PIPETTE.model_copy(update={"level": 77.0}),)))
    assert step(absent).state is State.LOOK
    assert "Pipettes: there is no standard at 77" in step(absent).sentence


def test_a_dilution_goes_along_and_curves_of_series_have_budgets_each() -> None:
    def table(factor: int) -> str:
        rows = ["Sample\tConc (µM)\tA\tDilution\tSeries"]
        for series, steep in (("A", 0.1), ("B", 0.2)):
            for i, x in enumerate((0, 1, 2, 4, 8)):
                rows.append(f"Std {i}\t{x}\t{steep * x * (1 + 0.01 * (-1) ** i) + 0.01:.4f}\t1\t{series}")
            rows.append(f"Pond {series}\t\t{3 * steep:.3f}\t{factor}\t{series}")
        return "\n".join(rows)

    found = []
    for factor in (1, 5):
        intake = understand(table(factor), Choices(question="concentration"))
        assert intake.readings is not None and intake.layout is not None
        layout, method = opened(intake.readings, intake.layout, "concentration")
        method = method.with_step(BudgetStep(on=True, sources=(STOCK, PIPETTE))).with_step(CurveStep(model="line"))
        found.append(evaluate(intake.readings, layout, method))
    plain, diluted = found
    assert len(plain.curves) == 2 and [row.name for row in plain.further[0].rows] == ["Pond A", "Pond B"]
    assert_allclose(diluted.answers.column("expanded").values, np.multiply(plain.answers.column("expanded").values, 5))
    shares = [[column.values for column in outcome.further[0].columns] for outcome in found]
    assert_allclose(shares[0], shares[1], rtol=1e-9)
    assert plain.answers.column("expanded").values[0] > 0
    assert "Most comes from" in step(plain).sentence


@pytest.mark.parametrize("level", [0.90, 0.99])
def test_the_level_of_the_interval_does_not_move_the_budget(level: float) -> None:
    """U is of 95 % whatever the interval of the read-back is."""
    budget = BudgetStep(on=True, sources=(STOCK,), coverage="t")
    usual, other = run(ROWS, budget), run(ROWS, budget, ReadBackStep(level=level))
    assert other.answers.column("expanded").values == usual.answers.column("expanded").values
    assert other.answers.column("in_sample").lowers != usual.answers.column("in_sample").lowers


def test_answers_without_a_number_have_no_budget() -> None:
    outcome = run([*ROWS, ("High", None, 9.0)], BudgetStep(on=True, sources=(STOCK,)))
    assert outcome.answers.column("expanded").values[2] is None
    assert outcome.answers.column("expanded").texts[2] == "—"
    assert [row.name for row in outcome.further[0].rows] == ["Pond", "Weir"]
