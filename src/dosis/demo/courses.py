"""Time courses of the demo world, invented: phosphatase on substrate and temperature, growth, fading."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models import MODELS
from dosis.run.changes import Change, SetStep
from dosis.run.laying_out import AssignWells
from dosis.run.questions.rate.against import AgainstStep
from dosis.run.questions.rate.course import CourseStep
from dosis.run.questions.rate.scale import Measured, ScaleStep
from dosis.run.roles import Role

LEVELS = (0.05, 0.1, 0.2, 0.5, 1.0, 2.0)  # mM of substrate
FASTEST, HALF = 0.092, 0.24  # AU/min and mM
TEMPERATURES = (8, 12, 16, 20, 24, 28, 32, 36)


def _rows(head: list[str], columns: list[list[str]]) -> str:
    lines = ["\t".join(head), *("\t".join(row) for row in zip(*columns, strict=True))]
    return "\n".join(lines) + "\n"


def phosphatase_table() -> str:
    """Absorbance at 405 nm of mussel gland on six levels of substrate, two assays each, and a blank that drifts.

    The highest levels bend as the product builds up; one cell was not read.
    """
    rng = np.random.default_rng(2206)
    t = np.arange(0, 12.5, 0.5)
    columns = [[f"{v:g}" for v in t], [f"{v:.4f}" for v in 0.051 + 0.0004 * t + rng.normal(0, 0.0012, t.size)]]
    head = ["Time (min)", "Blank"]
    for level in LEVELS:
        rate = FASTEST * level / (HALF + level)
        for assay in (1, 2):
            own = rate * rng.normal(1, 0.02)
            y = 0.058 + 0.0004 * t + _bending(own, t, 22.0) + rng.normal(0, 0.0022, t.size)
            head.append(f"{level:g} mM rep {assay}")
            columns.append([f"{v:.4f}" for v in y])
    columns[7][11] = ""
    return _rows(head, columns)


def _bending(rate: float, t: Array, time: float) -> Array:
    return rate * time * (1 - np.exp(-t / time))


def phosphatase_changes() -> list[Change]:
    """In real units: pNP at 405 nm, 1 cm, in 1 mL with 0.42 mg of protein; rates at the start, before the bend."""
    scale = ScaleStep(
        absorptivity=Measured(value=18_000, unit="L/mol/cm"), path=Measured(value=1, unit="cm"),
        volume=Measured(value=1, unit="mL"), amount=Measured(value=0.42, unit="mg"), to="nmol/min/mg",
    )  # fmt: skip
    return [SetStep(step=CourseStep(by="start")), SetStep(step=scale)]


def temperature_plate() -> str:
    """Grids of a 24-well plate read every minute: each column pair at a temperature, the last row blanks."""
    rng = np.random.default_rng(731)
    rates = [0.031 * _on_temperature(c) * rng.normal(1, 0.025) for c in TEMPERATURES for _ in range(2)]
    grids = []
    for minute in range(11):
        lines = [f"Time: {minute} min", "\t" + "\t".join(str(c + 1) for c in range(6))]
        for r in range(4):
            cells = []
            for c in range(6):
                well = r * 6 + c
                slope = 0.0003 if well >= len(rates) else rates[well]
                cells.append(f"{0.06 + slope * minute + rng.normal(0, 0.0011):.4f}")
            lines.append("ABCD"[r] + "\t" + "\t".join(cells))
        grids.append("\n".join(lines))
    return "Phosphatase, mussel gland, 405 nm\n\n" + "\n\n".join(grids) + "\n"


def _on_temperature(c: float) -> float:
    """From nothing at 1 °C to 1 at 29 °C and nothing again at 38 °C; by "optimum"."""
    return float(MODELS["optimum"].value(np.array([float(c)]), np.array([1.0, 29.0, 28.0, 9.0]))[0])


def temperature_changes() -> list[Change]:
    """Two wells a temperature, the last eight blanks."""
    made: list[Change] = [
        AssignWells(readings=(2 * i + 1, 2 * i + 2), role=Role.POINT, name=f"{c} °C", level=f"{c} °C")
        for i, c in enumerate(TEMPERATURES)
    ]
    blanks = tuple(range(2 * len(TEMPERATURES) + 1, 25))
    made.append(AssignWells(readings=blanks, role=Role.BLANK, name="Blank"))
    return [*made, SetStep(step=AgainstStep(model="optimum"))]


def growth_table() -> str:
    """Optical density of a diatom in three flasks, read every four hours."""
    rng = np.random.default_rng(88)
    t = np.arange(0, 121, 4.0)
    head, columns = ["Time (h)"], [[f"{v:g}" for v in t]]
    for name, rate, lag, rise in (
        ("Flask A", 0.058, 14, 3.1),
        ("Flask B", 0.055, 18, 3.0),
        ("Flask C", 0.043, 26, 2.7),
    ):
        y = -3.35 + rise / (1 + np.exp(4 * rate / rise * (lag - t) + 2)) + rng.normal(0, 0.035, t.size)
        head.append(name)
        columns.append([f"{v:.3f}" for v in np.exp(y)])
    return _rows(head, columns)


def fading_table() -> str:
    """Fluorescence of phycoerythrin under light, under a filter and in the dark, every ten minutes."""
    rng = np.random.default_rng(615)
    t = np.arange(0, 125, 5.0)
    head, columns = ["Time (min)"], [[f"{v:g}" for v in t]]
    for name, rate in (("Full light (RFU)", 0.031), ("Half light (RFU)", 0.0165), ("Behind the filter (RFU)", 0.0072)):
        y = 8200 * np.exp(-rate * t) + 340 + rng.normal(0, 55, t.size)
        head.append(name)
        columns.append([f"{v:.0f}" for v in y])
    return _rows(head, columns)


def fading_changes() -> list[Change]:
    """A decay to what glass and water fluoresce by themselves."""
    return [SetStep(step=CourseStep(by="whole", model="exponential_decay_plateau"))]
