"""Two series beside each other, in words."""

from dosis.run.outcome.value import State, Value
from dosis.run.record import light


@light
class Comparison:
    """Two series beside each other, in words: whether one curve serves both, and how their half-effect doses stand."""

    reference: str
    name: str
    state: State
    text: str
    ratio: Value = Value()
    working: str = ""
