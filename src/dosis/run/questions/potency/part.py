"""What only the outcome of a potency run has."""

from typing import Literal

from dosis.run.outcome.findings import Part


class PotencyPart(Part):
    """What the samples stand beside, and by which model: "lines", "slopes" or a curve's."""

    kind: Literal["potency"] = "potency"
    reference: str = ""
    model: str = ""
