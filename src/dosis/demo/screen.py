"""A 384-well screen of forty invented extracts against diatoms: eight doses each; flat, partial, rising, noisy."""

import numpy as np

from dosis.run.changes import Change
from dosis.run.laying_out import AssignWells, Describe
from dosis.run.layout import Quantity
from dosis.run.roles import Role
from dosis.run.wells import row_letters

COMPOUNDS = 40
DOSES = tuple(100.0 / 10 ** (0.5 * step) for step in range(8))[::-1]  # mg/L, half a decade apart
GROWN, DEAD, BLANK = 3900.0, 110.0, 170.0


def plate() -> str:
    """As the reader prints it: vehicle in columns 1 and 2, full kill in 23 and 24, extracts between."""
    rng = np.random.default_rng(384)
    wells = np.full((16, 24), GROWN)
    wells[:, 22:] = DEAD
    for i in range(COMPOUNDS):
        share = _response(i, np.array(DOSES), rng)
        row, column = _place(i)
        wells[row : row + 8, column] = DEAD + (GROWN - DEAD) * share
    noise = 0.04 * np.ones(wells.shape)
    for i in range(4, COMPOUNDS, 9):
        row, column = _place(i)
        noise[row : row + 8, column] = 0.16  # a noisy one
    wells = BLANK + wells * (1 + noise * rng.standard_normal(wells.shape)) + 4 * rng.standard_normal(wells.shape)
    lines = ["Ternhaven Shellfish Lab", "Extract screen, plate 1", "Fluorescence"]
    lines.append("\t".join(["", *map(str, range(1, 25))]))
    lines += ["\t".join([row_letters(r), *(f"{value:.0f}" for value in wells[r])]) for r in range(16)]
    return "\n".join(lines)


def _place(compound: int) -> tuple[int, int]:
    return 8 * (compound % 2), 2 + compound // 2


def _response(compound: int, dose: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """What is left of growth: most are killed, some are flat, stop halfway, or grow better."""
    rises = compound % 20 == 11
    half, slope = 3.0 if rises else 10 ** rng.uniform(-0.6, 1.5), rng.uniform(0.8, 2.4)
    effect = 1 - 1 / (1 + (dose / half) ** slope)
    if compound % 8 == 3:
        return np.ones(dose.size)  # flat
    if compound % 8 == 6:
        return 1 - 0.45 * effect  # partial
    return 1 + 0.5 * effect if rises else 1 - effect


def changes() -> tuple[Change, ...]:
    """What a person did with it: said what the wells are."""

    def wells(rows: range, columns: range) -> tuple[int, ...]:
        return tuple(24 * r + c + 1 for r in rows for c in columns)

    doses = []
    for i in range(COMPOUNDS):
        row, column = _place(i)
        for step, dose in enumerate(DOSES):
            name = f"EX-{i + 1:02d}"
            doses.append(AssignWells(
                readings=wells(range(row + step, row + step + 1), range(column, column + 1)), role=Role.DOSE,
                name=f"{name}, {dose:.3g} mg/L", series=name, level=f"{dose:.4g} mg/L",
            ))  # fmt: skip
    controls = [
        AssignWells(readings=wells(range(16), range(2)), role=Role.VEHICLE),
        AssignWells(readings=wells(range(16), range(22, 24)), role=Role.FULL),
    ]
    return (Describe(level=Quantity(name="Extract", unit="mg/L")), *controls, *doses)
