"""NOEC and LOEC in runs of responses and of counts, and the controls' scatter on both sides of its limit."""

import pytest

from dosis.core.no_effect import no_effect, no_effect_of_counts
from dosis.core.replicates import summarize
from dosis.run.evaluate import evaluate
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State
from dosis.run.questions.dose.checks import DoseChecksStep
from dosis.run.questions.dose.no_effect import NoEffectStep
from dosis.run.questions.mortality.no_effect import NoEffectCountsStep
from dosis.run.steps.step import Step
from tests.run.test_mortality import METHOD, counts
from tests.run.test_rules import run

CONTROL = [102.0, 98.5, 100.9, 99.2, 101.4, 98.0]
AT = {1.0: [101.0, 98.6, 100.2], 3.0: [99.0, 97.2, 101.1], 10.0: [85.0, 83.1, 86.9], 30.0: [41.0, 39.8, 43.5],
      100.0: [12.0, 10.9, 13.3]}  # fmt: skip
ROWS = [*(("Vehicle", None, y) for y in CONTROL), *(("TP-17", x, y) for x, ys in AT.items() for y in ys)]
COUNTS = "\n".join(
    ["Dose (mg/L)\tExposed\tDead", *(f"{x}\t40\t{r}" for x, r in ((0, 1), (1, 2), (2, 3), (4, 14), (8, 33)))]
)


def step_of(outcome: Outcome, kind: str) -> tuple[State, str]:
    step = next(step for step in outcome.steps if step.kind == kind)
    return step.state, step.sentence


@pytest.mark.parametrize("test", ["dunnett", "williams", "jonckheere"])
def test_responses_are_held_against_their_controls(test: str) -> None:
    outcome = run(ROWS, NoEffectStep(test=test), question="dose")
    want = no_effect([0.0, *AT], [CONTROL, *AT.values()], test, falling=True)
    assert outcome.answers.column("noec").values == (want.noec,) and want.noec == 3
    assert outcome.answers.column("loec").values == (want.loec,) and want.loec == 10
    table = next(table for table in outcome.further if table.title.startswith("Against the control"))
    assert table.column("p").values == tuple(each.p_value for each in want.tested)
    assert [line.label for line in outcome.working["no_effect"]][-2:] == ["NOEC", "LOEC"]


def test_it_is_off_until_it_is_asked_for() -> None:
    outcome = run(ROWS, question="dose")
    assert step_of(outcome, "no_effect") == (State.PASS, "Switched off; an effect dose says more.")
    assert "noec" not in {column.id for column in outcome.answers.columns} and not outcome.further


def test_bounds_where_all_or_none_have_an_effect() -> None:
    """Of two doses there is no curve, and so no row; what the test says stands in the step and below the answers."""
    for keep, said in (
        (lambda x: x >= 10, "NOEC **< 10**, LOEC **10**"),
        (lambda x: x < 10, "NOEC **3**, LOEC **> 3**"),
    ):
        outcome = run(
            [row for row in ROWS if row[1] is None or keep(row[1])], NoEffectStep(test="dunnett"), question="dose"
        )
        assert said in step_of(outcome, "no_effect")[1]
        assert any(table.title.startswith("Against the control") for table in outcome.further)
    more = [("Vehicle", None, y) for y in CONTROL]
    more += [("TP-17", x, y + d) for x, y in ((10, 85), (20, 60), (40, 30), (100, 12)) for d in (-1.5, 0.4, 1.2)]
    column = run(more, NoEffectStep(test="dunnett"), question="dose").answers.column("noec")
    assert (column.values, column.censors, column.texts) == ((None,), ("<",), ("< 10",))


def test_what_cannot_be_tested_is_said() -> None:
    bare = [row for row in ROWS if row[1] is not None]
    state, said = step_of(run(bare, NoEffectStep(test="dunnett"), question="dose"), "no_effect")
    assert state is State.LOOK and "no control to test against" in said
    single = [("Vehicle", None, 100.0), ("TP-17", 1.0, 90.0), ("TP-17", 3.0, 60.0), ("TP-17", 9.0, 20.0)]
    state, said = step_of(run(single, NoEffectStep(test="williams"), question="dose"), "no_effect")
    assert state is State.LOOK and "too few readings" in said


@pytest.mark.parametrize("test", ["fisher", "cochran_armitage"])
def test_counts_are_held_against_their_controls(test: str) -> None:

    steps: Step = NoEffectCountsStep(test=test)
    outcome = evaluate(*counts(COUNTS), METHOD.with_step(steps))
    want = no_effect_of_counts([0.0, 1, 2, 4, 8], [(1, 40), (2, 40), (3, 40), (14, 40), (33, 40)], test)
    assert outcome.answers.column("noec").values == (want.noec,)
    assert outcome.answers.column("loec").values == (want.loec,) and want.loec == 4


def test_controls_may_scatter_as_a_method_allows() -> None:
    cv = summarize(CONTROL).cv
    for limit, state in ((cv * 1.001, State.PASS), (cv * 0.999, State.FAIL)):
        checks = run(ROWS, DoseChecksStep(control_cv=limit), question="dose").checks
        assert next(check.state for check in checks if check.id == "control_cv") is state
    assert "control_cv" not in {check.id for check in run(ROWS, question="dose").checks}
