"""The verdict: a run in one line."""

from dosis.run.outcome.value import State
from dosis.run.record import light


@light
class VerdictPart:
    """A piece of the verdict's text; one that names a group leads to it."""

    text: str
    group: str | None = None


@light
class Verdict:
    """The one-line conclusion."""

    state: State
    headline: str
    detail: tuple[VerdictPart, ...]
    passed: int
    to_look_at: int
    failed: int
