"""The model of a rate that rises with temperature."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.models.model import Grid, Model, Parameter

GAS = 8.31446261815324e-3  # kJ/(mol K), exact since 2019 (CODATA)


def _energies(x: Array, y: Array) -> Grid:
    return {"energy": np.array([5.0, 15.0, 30.0, 45.0, 60.0, 80.0, 110.0, 160.0])}


ARRHENIUS = Model(
    id="arrhenius",
    name="Arrhenius",
    shape="saturating",
    equation="y = rate_25·exp(energy/0.00831446261815324·(1/298.15 − 1/(x + 273.15)))",
    parameters=(
        Parameter("rate_25", "rate at 25 °C", "y"),
        Parameter("energy", "activation energy; x in °C", "kJ/mol"),
    ),
    linear_in=("rate_25",),
    grid=_energies,
    intercept=False,
    source="Arrhenius (1889), Z. Phys. Chem. 4, 226",
    example=((1.0, 50.0), (5.0, 45.0)),
)  # fmt: skip
