"""Domoic acid by a competitive plate immunoassay: 96 wells at 450 nm, standards and samples, QCs, dilution 20."""

import numpy as np

from dosis.run.changes import Change
from dosis.run.laying_out import AssignWells, Describe, FillSeries, NumberSamples
from dosis.run.layout import Quantity
from dosis.run.roles import Role

UPPER, LOWER, MIDDLE, SLOPE = 2.13, 0.09, 1.62, -1.18
BLANK = 0.043
TOP, FACTOR, LEVELS = 20.0, 2.5, 8
DILUTION = 20.0


def plate() -> str:
    """As the reader prints it: eight standards in duplicate, 22 samples and two QCs in triplicate, eight blanks."""
    rng = np.random.default_rng(450)

    def signal(level: float) -> float:
        return float(LOWER + (UPPER - LOWER) / (1 + (level / MIDDLE) ** -SLOPE))

    wells = np.zeros((8, 12))
    for r in range(LEVELS):
        wells[r, 0:2] = signal(TOP / FACTOR**r)
    samples = np.exp(rng.uniform(np.log(0.25), np.log(9.0), 24))
    samples[6] = 46.0  # above the top standard
    samples[22:] = (1.0, 5.0)  # the two QCs, of 20 and 100 µg/L before dilution
    for i, level in enumerate(samples):
        wells[i % 8, 2 + 3 * (i // 8) : 5 + 3 * (i // 8)] = signal(level)
    wells *= 1 + 0.018 * rng.standard_normal(wells.shape)
    wells[:, 11] = 0.0
    wells += BLANK + 0.0012 * rng.standard_normal(wells.shape)
    wells[4, 4] *= 0.5  # a tip that did not seat
    lines = ["Ternhaven Shellfish Lab", "Domoic acid, plate 3", "Absorbance 450 nm"]
    lines.append("\t".join(["", *map(str, range(1, 13))]))
    lines += ["\t".join(["ABCDEFGH"[r], *(f"{value:.3f}" for value in wells[r])]) for r in range(8)]
    return "\n".join(lines)


def changes() -> tuple[Change, ...]:
    """What a person did with it: laid the plate out, which also opens the curve its standards ask for."""

    def wells(rows: range, columns: range) -> tuple[int, ...]:
        return tuple(12 * r + c + 1 for r in rows for c in columns)

    return (
        Describe(level=Quantity(name="Domoic acid", unit="µg/L")),
        FillSeries(readings=wells(range(8), range(2)), top=f"{TOP:g} µg/L", factor=FACTOR, replicates=2),
        NumberSamples(
            readings=wells(range(8), range(2, 11)), first="M-101", replicates=3, dilution=DILUTION
        ),
        AssignWells(readings=wells(range(6, 7), range(8, 11)), role=Role.QC, name="QC low", level="20 µg/L"),
        AssignWells(readings=wells(range(7, 8), range(8, 11)), role=Role.QC, name="QC high", level="100 µg/L"),
        AssignWells(readings=wells(range(8), range(11, 12)), role=Role.BLANK),
    )  # fmt: skip
