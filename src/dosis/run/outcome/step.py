"""What a step and a check say."""

from dosis.run.outcome.value import State
from dosis.run.record import light


@light
class StepOutcome:
    """A step in one sentence (**bold** marks its numbers) and the state of its checks.

    verdict : what the verdict says of it, where something is not as it should be that no check tells of.
    """

    kind: str
    title: str
    sentence: str
    state: State
    verdict: str = ""


@light
class Check:
    """A check: what was asked, what was found, and what to do."""

    id: str
    title: str
    state: State
    found: str
    threshold: str
    why: str
    groups: tuple[str, ...] = ()
    verdict: str = ""  # what the verdict says of it when it does not pass
    working: str = ""  # the id of its working, empty without one
