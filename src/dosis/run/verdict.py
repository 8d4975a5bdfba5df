"""The verdict: what every question's one line is made of."""

from collections.abc import Sequence

from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.outcome.verdict import Verdict, VerdictPart

NAMED = 3  # at most so many samples or checks by name; a line that lists thirty is not read


def verdict(
    headline: str, detail: Sequence[VerdictPart], checks: Sequence[Check], *, failed: bool, look: bool
) -> Verdict:
    """The line; `failed` and `look` are what the question itself says, beside its checks."""
    states = [check.state for check in checks]
    count = {state: states.count(state) for state in State}
    state = State.PASS
    if failed or count[State.FAIL]:
        state = State.FAIL
    elif look or count[State.LOOK]:
        state = State.LOOK
    return Verdict(
        state=state, headline=headline, detail=tuple(detail),
        passed=count[State.PASS], to_look_at=count[State.LOOK], failed=count[State.FAIL],
    )  # fmt: skip


def of_steps(steps: Sequence[StepOutcome]) -> list[VerdictPart]:
    """What steps say of what no check tells of."""
    return [VerdictPart(text=f"{step.verdict} ") for step in steps if step.verdict and step.state is not State.PASS]


def stuck_at(steps: Sequence[StepOutcome]) -> list[VerdictPart]:
    """What the first step that could not be done has to say: those after it only wait for it."""
    failed = next((step for step in steps if step.state is State.FAIL), None)
    return [] if failed is None else [VerdictPart(text=f"{failed.sentence.replace('**', '')} ")]


def said_by(checks: Sequence[Check]) -> list[VerdictPart]:
    """What checks that are not passed have to say in the verdict."""
    return [
        VerdictPart(text=f"{check.verdict} ") for check in checks if check.verdict and check.state is not State.PASS
    ]


def found_by(checks: Sequence[Check]) -> list[VerdictPart]:
    """Checks that are not passed, in what they found."""
    off = [check for check in checks if check.state is not State.PASS]
    return [VerdictPart(text=f"{check.title}? {check.found}. ") for check in off[:NAMED]]
