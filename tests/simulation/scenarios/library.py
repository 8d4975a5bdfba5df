"""What no question serves yet, through the library."""

import numpy as np
from numpy.random import Generator

from dosis.core import fit, potency
from dosis.core.inference.parameters import ParameterEstimate
from tests.simulation.scenario import Answer, Scenario


def _of(what: str, truth: float, estimate: ParameterEstimate) -> Answer:
    ends = estimate.interval()
    return Answer(what, truth, silent=True) if ends is None else Answer(what, truth, *ends)


def lines(rng: Generator) -> list[Answer]:
    """Two preparations on parallel lines."""
    dose = np.tile(np.repeat([1.0, 2.0, 4.0, 8.0], 4), 2)
    label = ["S"] * 16 + ["T"] * 16
    strength = np.repeat([1.0, 1.5], 16)
    y = 2 + 1.2 * np.log(dose * strength) + rng.normal(0, 0.4, dose.size)
    found = potency.parallel_lines(dose, y, label)["T"]
    return [Answer("potency", 1.5, found.lower, found.upper)]


def slopes(rng: Generator) -> list[Answer]:
    """Two preparations and a blank."""
    dose = np.concatenate(([0.0] * 4, np.tile(np.repeat([1.0, 2.0, 3.0], 4), 2)))
    label = ["S"] * 4 + ["S"] * 12 + ["T"] * 12
    slope = np.concatenate((np.full(16, 0.5), np.full(12, 0.4)))
    y = 0.3 + slope * dose + rng.normal(0, 0.1, dose.size)
    found = potency.slope_ratio(dose, y, label)["T"]
    return [Answer("potency", 0.8, found.lower, found.upper)]


def curves(rng: Generator) -> list[Answer]:
    """Two preparations on parallel four-parameter curves."""
    x = np.repeat(np.geomspace(0.05, 50, 8), 2)
    dose = np.tile(x, 2)
    label = ["S"] * x.size + ["T"] * x.size
    y = 5 + 95 / (1 + (np.repeat([2.0, 1.0], x.size) / dose) ** 1.2) + rng.normal(0, 4, dose.size)
    found = potency.parallel_curves(dose, y, label).potencies["T"]
    return [Answer("potency", 2.0, found.lower, found.upper)]


def michaelis(rng: Generator) -> list[Answer]:
    """A saturation curve of rates."""
    x = np.repeat([0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0], 2)
    result = fit("hyperbola", x, 100 * x / (4 + x) + rng.normal(0, 3, x.size))
    return [_of("Km", 4.0, result.parameters["half"]), _of("Vmax", 100.0, result.parameters["maximum"])]


def decay(rng: Generator) -> list[Answer]:
    """One decay to zero, ten times."""
    x = np.linspace(0, 10, 10)
    result = fit("exponential_decay", x, 50 * np.exp(-0.3 * x) + rng.normal(0, 1, x.size))
    return [_of("half-life", np.log(2) / 0.3, result.derived["half_life"])]


SCENARIOS = [
    Scenario("parallel-lines", "Potency by parallel lines, 4 doses four times", lines),
    Scenario("slope-ratio", "Potency by slope ratio, 3 doses four times", slopes),
    Scenario("parallel-curves", "Potency by parallel 4-parameter curves, 8 doses twice", curves),
    Scenario("michaelis", "Saturation curve, 7 concentrations twice", michaelis),
    Scenario("decay", "Half-life, 10 times", decay),
]
