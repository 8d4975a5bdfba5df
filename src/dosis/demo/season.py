"""Twelve domoic acid plates of a season by one method, in which the low QC drifts upward from the eighth on."""

import numpy as np

from dosis.demo.domoic_acid import BLANK, FACTOR, LEVELS, LOWER, MIDDLE, SLOPE, TOP, UPPER

PLATES = 12
GOOD = 7  # plates from which limits were made, while all was well
# What the low QC gains from plate to plate: its stock loses solvent, which a control chart shows before a run fails.
DRIFT = (0, 0, 0, 0, 0, 0, 0, 0.06, 0.08, 0.10, 0.12, 0.14)


def plate(number: int) -> str:
    """Plate 1 to 12 as the reader prints it, laid out as the demo's single plate is."""
    rng = np.random.default_rng(4500 + number)
    upper = UPPER * (1 + 0.03 * rng.standard_normal())
    middle = MIDDLE * (1 + 0.04 * rng.standard_normal())

    def signal(level: float) -> float:
        return float(LOWER + (upper - LOWER) / (1 + (level / middle) ** -SLOPE))

    wells = np.zeros((8, 12))
    for r in range(LEVELS):
        wells[r, 0:2] = signal(TOP / FACTOR**r)
    samples = np.exp(rng.uniform(np.log(0.25), np.log(9.0), 24))
    samples[22] = 1.0 * (1 + DRIFT[number - 1]) * (1 + 0.02 * rng.standard_normal())
    samples[23] = 5.0 * (1 + 0.02 * rng.standard_normal())
    for i, level in enumerate(samples):
        wells[i % 8, 2 + 3 * (i // 8) : 5 + 3 * (i // 8)] = signal(level)
    wells *= 1 + 0.018 * rng.standard_normal(wells.shape)
    wells[:, 11] = 0.0
    wells += BLANK * (1 + 0.05 * rng.standard_normal()) + 0.0012 * rng.standard_normal(wells.shape)
    lines = ["Ternhaven Shellfish Lab", f"Domoic acid, season plate {number}", "Absorbance 450 nm"]
    lines.append("\t".join(["", *map(str, range(1, 13))]))
    lines += ["\t".join(["ABCDEFGH"[r], *(f"{value:.3f}" for value in wells[r])]) for r in range(8)]
    return "\n".join(lines)
