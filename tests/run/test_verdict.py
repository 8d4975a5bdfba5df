"""What the one line of a run is made of: the worst state wins, and every state that is not passed says why."""

import pytest

from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.verdict import found_by, of_steps, said_by, stuck_at, verdict

PASS, LOOK, FAIL = State.PASS, State.LOOK, State.FAIL


def check(id: str, state: State, said: str = "") -> Check:
    return Check(id=id, title=id.title(), state=state, found=f"{id} found", threshold="", why="", verdict=said)


def step(state: State, sentence: str = "", said: str = "") -> StepOutcome:
    return StepOutcome(kind="k", title="K", sentence=sentence, state=state, verdict=said)


@pytest.mark.parametrize(
    ("states", "failed", "look", "expected"),
    [
        ((), False, False, PASS),
        ((PASS, PASS), False, False, PASS),
        ((PASS, LOOK), False, False, LOOK),
        ((LOOK, FAIL), False, False, FAIL),
        ((PASS,), False, True, LOOK),
        ((PASS,), True, False, FAIL),
        ((LOOK,), True, True, FAIL),
        ((FAIL,), False, True, FAIL),
    ],
)
def test_the_worst_of_checks_and_question_is_the_state(
    states: tuple[State, ...], failed: bool, look: bool, expected: State
) -> None:
    made = verdict("Read.", [], [check("a", state) for state in states], failed=failed, look=look)
    assert made.state is expected and made.headline == "Read."
    counts = (made.passed, made.to_look_at, made.failed)
    assert counts == tuple(states.count(state) for state in (PASS, LOOK, FAIL))


def test_what_is_said_is_of_what_is_not_passed() -> None:
    checks = [check("a", PASS, "A."), check("b", LOOK, "B."), check("c", FAIL, "C."), check("d", LOOK)]
    assert [part.text for part in said_by(checks)] == ["B. ", "C. "]
    assert [part.text for part in found_by(checks)] == ["B? b found. ", "C? c found. ", "D? d found. "]
    assert len(found_by([check(name, LOOK) for name in "abcd"])) == 3
    steps = [step(PASS, said="P."), step(LOOK, said="L."), step(FAIL)]
    assert [part.text for part in of_steps(steps)] == ["L. "]


def test_the_first_step_that_failed_says_why_the_others_wait() -> None:
    steps = [step(LOOK, "Looks."), step(FAIL, "The **first** fails."), step(FAIL, "Waiting.")]
    assert [part.text for part in stuck_at(steps)] == ["The first fails. "]
    assert stuck_at(steps[:1]) == []
