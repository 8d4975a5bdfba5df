"""What only the outcome of a relation has: what the curve, or the table, says at typed values."""

from typing import Literal

from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.findings import Part
from dosis.run.outcome.value import Value
from dosis.run.record import light


@light
class Prediction:
    """What one series says at a typed value.

    asked : what was typed, "x" or "y", and its number as shown. of : the series. value : what is read there, with the
    interval. beyond : why it is to be taken with care, or why there is none; empty where all is well.
    """

    asked: Literal["x", "y"]
    at: float
    shown_at: str
    of: str
    value: Value
    beyond: str = ""
    working: str = ""


class RelationPart(Part):
    """Predictions, and the series held against each other."""

    kind: Literal["relation"] = "relation"
    predictions: tuple[Prediction, ...] = ()
    comparisons: tuple[Comparison, ...] = ()
    x_label: str = ""
    y_label: str = ""
