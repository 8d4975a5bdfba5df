"""Growth of a diatom under the antifoulant TP-17: two lots on 96 wells, vehicle and full-kill wells, zero dose."""

import numpy as np

from dosis.run.changes import Change
from dosis.run.laying_out import AssignWells, Describe
from dosis.run.layout import Quantity
from dosis.run.roles import Role

DOSES = (0.0, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0)  # mg/L, one a row
GROWN, DEAD, BLANK = 4095.0, 104.0, 176.0
LOTS = (("Lot A", range(1, 5), 0.61, 1.35), ("Lot B", range(5, 9), 1.5, 1.22))  # columns, half-effect dose, slope


def plate() -> str:
    """As the reader prints it: chlorophyll fluorescence after 72 h."""
    rng = np.random.default_rng(17)
    wells = np.full((8, 12), GROWN)
    for _, columns, half, slope in LOTS:
        for r, dose in enumerate(DOSES):
            wells[r, list(columns)] = DEAD + (GROWN - DEAD) / (1 + (dose / half) ** slope)
    wells[4:, [0, 11]] = DEAD
    wells *= 1 + 0.045 * rng.standard_normal(wells.shape)
    wells[:, 9:11] = 0.0
    wells += BLANK + 4 * rng.standard_normal(wells.shape)
    wells[4, 1] *= 1.25  # a clump of cells
    lines = ["Ternhaven Shellfish Lab", "Diatom growth, TP-17, 72 h", "Fluorescence"]
    lines.append("\t".join(["", *map(str, range(1, 13))]))
    lines += ["\t".join(["ABCDEFGH"[r], *(f"{value:.0f}" for value in wells[r])]) for r in range(8)]
    return "\n".join(lines)


def changes() -> tuple[Change, ...]:
    """What a person did with it: said what the wells are."""

    def wells(rows: range, columns: range) -> tuple[int, ...]:
        return tuple(12 * r + c + 1 for r in rows for c in columns)

    doses = [
        AssignWells(
            readings=wells(range(r, r + 1), columns), role=Role.DOSE, name=f"{lot}, {dose:g} mg/L", series=lot,
            level=f"{dose:g} mg/L",
        )
        for lot, columns, _, _ in LOTS for r, dose in enumerate(DOSES)
    ]  # fmt: skip
    controls = [
        AssignWells(readings=wells(range(4), range(1)) + wells(range(4), range(11, 12)), role=Role.VEHICLE),
        AssignWells(readings=wells(range(4, 8), range(1)) + wells(range(4, 8), range(11, 12)), role=Role.FULL),
        AssignWells(readings=wells(range(8), range(9, 11)), role=Role.BLANK),
    ]
    return (Describe(level=Quantity(name="TP-17", unit="mg/L")), *controls, *doses)
