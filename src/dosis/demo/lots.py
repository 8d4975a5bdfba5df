"""Two lots of the antifoulant TP-17 beside its reference: diatom fluorescence at eight doses, in three blocks."""

import numpy as np

from dosis.run.changes import Change, SetStep
from dosis.run.questions.potency.assays import AssaysStep
from dosis.run.questions.potency.potency import PotencyStep

DOSES = (0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0)  # mg/L
STRENGTHS = (("TP-17 reference", 1.0), ("Lot C", 0.93), ("Lot D", 1.18))
BLOCKS = (0.0, 14.0, -9.0)  # what the replicate columns differ by, in the unit of the readings


def lots_table(seed: int = 1717) -> str:
    """As read, one row a dose, a column for each block."""
    rng = np.random.default_rng(seed)
    lines = ["Preparation\tTP-17 (mg/L)\tFluorescence 1\tFluorescence 2\tFluorescence 3"]
    for name, strength in STRENGTHS:
        for dose in DOSES:
            mean = 60 + 820 / (1 + (dose * strength / 3.4) ** 1.35)
            read = "\t".join(f"{mean + block + rng.normal(0, 13):.0f}" for block in BLOCKS)
            lines.append(f"{name}\t{dose:g}\t{read}")
    return "\n".join(lines)


def lots_changes() -> list[Change]:
    """Replicates as blocks, and the reference with its declared potency."""
    return [
        SetStep(step=AssaysStep(blocked="replicates")),
        SetStep(step=PotencyStep(declared=1000, unit="U/mg")),
    ]
