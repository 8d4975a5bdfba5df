"""Brine-shrimp mortality under the antifoulant TP-17: two lots, four vessels of ten at each dose, control deaths."""

import numpy as np

DOSES = (0.0, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0)  # mg/L
VESSELS, ANIMALS, BACKGROUND = 4, 10, 0.04
LOTS = (("Lot A", 3.1, 2.6), ("Lot B", 6.0, 2.4))  # half-lethal dose and probit slope


def table() -> str:
    """As counted after 48 h, one row a vessel."""
    from scipy.special import ndtr

    rng = np.random.default_rng(48)
    lines = ["Lot\tTP-17 (mg/L)\tExposed\tDead"]
    for lot, half, slope in LOTS:
        for dose in DOSES:
            killed = 0.0 if dose == 0 else float(ndtr(slope * np.log10(dose / half)))
            for _ in range(VESSELS):
                dead = rng.binomial(ANIMALS, BACKGROUND + (1 - BACKGROUND) * killed)
                lines.append(f"{lot}\t{dose:g}\t{ANIMALS}\t{dead}")
    return "\n".join(lines)
