"""Do 95 % intervals cover 95 %? Simulated with fixed seeds at realistic noise; slow, run by CI too."""

import numpy as np
import pytest

from dosis.core import fit

RUNS = 4000


@pytest.mark.slow
@pytest.mark.parametrize(
    ("model", "weights", "noise"),
    [
        ("line", "none", lambda y: np.full_like(y, 0.012)),
        ("line_through_zero", "none", lambda y: np.full_like(y, 0.012)),
        ("line", "1/x^2", lambda y: 0.05 * np.abs(y)),
    ],
)
def test_read_back_intervals_cover_93_to_97_percent(model: str, weights: str, noise) -> None:
    rng = np.random.default_rng(2026)
    x = np.repeat([0.5, 1.0, 2.5, 5.0, 10.0, 20.0], 2)
    slope, intercept = 0.034, 0.0 if model == "line_through_zero" or weights != "none" else 0.02
    covered = 0
    for _ in range(RUNS):
        truth = intercept + slope * x
        result = fit(model, x, truth + rng.normal(0, 1, x.size) * noise(truth), weights=weights)
        level = rng.uniform(2, 18)
        signal = np.full(2, intercept + slope * level)
        back = result.read_back(list(signal + rng.normal(0, 1, 2) * noise(signal)))
        assert back.lower is not None and back.upper is not None
        covered += back.lower <= level <= back.upper
    assert 0.93 <= covered / RUNS <= 0.97


@pytest.mark.slow
def test_parameter_intervals_cover_93_to_97_percent() -> None:
    rng = np.random.default_rng(11)
    x = np.repeat([1.0, 2.0, 4.0, 8.0], 3)
    hits = np.zeros(2)
    for _ in range(RUNS):
        result = fit("line", x, 0.1 + 0.5 * x + rng.normal(0, 0.2, x.size))
        for i, (name, truth) in enumerate((("slope", 0.5), ("intercept", 0.1))):
            lower, upper = result.parameters[name].interval()
            hits[i] += lower <= truth <= upper
    assert ((hits / RUNS >= 0.93) & (hits / RUNS <= 0.97)).all()
