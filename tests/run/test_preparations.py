"""Preparations of one thing are taken together by their number, in concentrations and in effect doses."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core.nested import nested
from dosis.intake.understand import understand
from dosis.intake.understanding import Choices
from dosis.run.changes import Assign
from dosis.run.changing import changed
from dosis.run.evaluate import evaluate
from dosis.run.opening import opened
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.table import AnswerTable
from dosis.run.preparations import TITLE

TABLE = "\n".join([
    "Sample\tConc (µM)\tA 1\tA 2\tA 3", *(f"Std {i}\t{x}\t{0.1 * x}\t{0.1 * x + 0.002}\t{0.1 * x - 0.002}"
                                        for i, x in enumerate((0, 1, 2, 4, 8), start=1)),
    "Mussel a\t\t0.300\t0.302\t0.298", "Mussel b\t\t0.350\t0.353\t0.349", "Mussel c\t\t0.327\t0.330\t0.324",
    "Alone\t\t0.5\t0.5\t0.51",
])  # fmt: skip


def run(text: str, parents: dict[str, str], question: str = "concentration") -> Outcome:
    found = understand(text, Choices(question=question))
    assert found.readings is not None and found.layout is not None
    layout, method = opened(found.readings, found.layout, question)
    changes = [
        Assign(groups=(group.id,), replicate_of=of) for group in layout.groups
        if (of := parents.get(group.name) or parents.get(group.series))
    ]  # fmt: skip
    if changes:
        layout, method, words = changed(found.readings, layout, method, changes)
        assert "a preparation of" in words[0]
    return evaluate(found.readings, layout, method)


def table(outcome: Outcome) -> AnswerTable:
    return next(table for table in outcome.further if table.title == TITLE)


def test_concentrations_are_nested_and_share_the_error_of_the_curve() -> None:
    outcome = run(TABLE, {f"Mussel {each}": "Mussel" for each in "abc"})
    found = table(outcome)
    assert [row.name for row in found.rows] == ["Mussel"]
    x = np.repeat([0, 1, 2, 4, 8], 3)
    slope, intercept = np.polyfit(x, 0.1 * x + np.tile([0, 0.002, -0.002], 5), 1)
    wells = [[(y - intercept) / slope for y in ys] for ys in
             ((0.300, 0.302, 0.298), (0.350, 0.353, 0.349), (0.327, 0.330, 0.324))]  # fmt: skip
    want = nested(wells)
    mean = found.column("mean")
    assert_allclose(mean.values[0], want.mean, rtol=1e-9)
    assert_allclose((found.column("between").values[0], found.column("within").values[0]), (want.between, want.within))
    low, high = want.interval()
    assert mean.lowers[0] < low and mean.uppers[0] > high  # the curve's own error is in it
    assert mean.uppers[0] - mean.lowers[0] < 1.2 * (high - low)
    assert "nested, REML" in found.column("how").texts[0]
    one = outcome.answers.column("in_sample")
    assert mean.uppers[0] - mean.lowers[0] > 2 * (one.uppers[0] - one.lowers[0])  # wider than that of wells alone


def test_nothing_is_taken_together_that_nobody_said_belongs_together() -> None:
    assert run(TABLE, {}).further == ()
    alone = table(run(TABLE, {"Mussel a": "Mussel"}))
    assert alone.column("mean").values == (None,)
    assert "fewer than two" in alone.column("how").texts[0]


def test_effect_doses_of_several_series_count_once_each_as_logarithms() -> None:
    rng = np.random.default_rng(3)
    rows = ["Compound\tDose (µM)\tResponse"]
    for name, half in (("K7 mon", 2.0), ("K7 tue", 2.6), ("K7 wed", 1.7)):
        for x in (0.1, 0.3, 1, 3, 10, 30):
            rows.append(f"{name}\t{x}\t{5 + 95 / (1 + (x / half) ** 1.3) + rng.normal(0, 0.8):.3f}")
    outcome = run("\n".join(rows), dict.fromkeys(("K7 mon", "K7 tue", "K7 wed"), "K7"), "dose")
    found = table(outcome)
    logs = np.log(outcome.answers.leads[0].values)
    half = stats.t.ppf(0.975, 2) * logs.std(ddof=1) / math.sqrt(3)
    cell = found.column("mean").value(0)
    assert_allclose((cell.value, cell.lower, cell.upper), np.exp([logs.mean(), logs.mean() - half, logs.mean() + half]))
    assert found.column("preparations").values == (3.0,)
    assert found.column("mean").unit == outcome.answers.leads[0].unit == "µM"


@pytest.mark.parametrize("text", [TABLE.replace("0.350\t0.353\t0.349", "9\t9\t9")])
def test_a_preparation_without_a_number_is_counted_and_said(text: str) -> None:
    found = table(run(text, {f"Mussel {each}": "Mussel" for each in "abc"}))
    assert found.column("preparations").values == (3.0,)
    assert "1 without a number" in found.column("how").texts[0]
