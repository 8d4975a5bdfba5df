"""What only the outcome of a dose–response run has."""

from typing import Literal

from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.findings import Part
from dosis.run.record import light


@light
class ReferenceOutcome:
    """What counts as no effect, or as the full one, on a plate, in a series or the run.

    readings : those it is of; none of a typed value.
    """

    scope: str
    end: Literal["none", "full"]
    value: float
    shown: str
    readings: tuple[int, ...] = ()


class DosePart(Part):
    """The references between which responses were normalized, and the series held against each other."""

    kind: Literal["dose"] = "dose"
    references: tuple[ReferenceOutcome, ...] = ()
    comparisons: tuple[Comparison, ...] = ()
