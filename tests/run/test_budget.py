"""The budget of a run: off until it is asked for, then beside every interval, with its shares and its working."""

import math

import pytest
from numpy.testing import assert_allclose

from dosis.run.outcome.value import State
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


def test_a_dilution_goes_along_and_curves_of_plates_or_series_have_budgets_each() -> None:
    text = [("Std", x, 0.1 * x) for x in (0, 1, 2, 4, 8)]
    rows = [(name, x, y * (1 + 0.01 * (-1) ** i)) for i, (name, x, y) in enumerate(text)]
    outcome = run([*rows, ("Pond", None, 0.3)], BudgetStep(on=True, sources=(STOCK,)), CurveStep(model="line"))
    assert outcome.answers.column("expanded").values[0] > 0
    assert "Most comes from" in step(outcome).sentence


def test_answers_without_a_number_have_no_budget() -> None:
    outcome = run([*ROWS, ("High", None, 9.0)], BudgetStep(on=True, sources=(STOCK,)))
    assert outcome.answers.column("expanded").values[2] is None
    assert outcome.answers.column("expanded").texts[2] == "—"
    assert [row.name for row in outcome.further[0].rows] == ["Pond", "Weir"]
