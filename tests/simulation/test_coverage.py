"""Do 95 % intervals cover 95 %? Simulated with fixed seeds at realistic noise; slow, run by CI too."""

import numpy as np
import pytest
from scipy import special

from dosis.core import fit, fit_many, quantal

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


DOSES = np.repeat(np.geomspace(0.03, 100, 8), 3)
MIDPOINT, SLOPE = 2.0, -1.2


def four_parameters(dose: np.ndarray) -> np.ndarray:
    """A falling curve from 100 to 5."""
    return 5 + 95 / (1 + (dose / MIDPOINT) ** -SLOPE)


@pytest.mark.slow
@pytest.mark.parametrize("method", ["wald", "profile"])
def test_midpoint_intervals_of_the_four_parameter_curve_cover_93_to_97_percent(method: str) -> None:
    """5 % of the span as noise, 8 doses in triplicate, both plateaus seen; many at once."""
    rng = np.random.default_rng(42)
    truth = four_parameters(DOSES)
    many = fit_many("logistic4", DOSES, truth + rng.normal(0, 5, (RUNS, DOSES.size)))
    lower, upper = many.interval("midpoint", method=method)
    assert many.converged.all()
    covered = float(np.mean((lower <= MIDPOINT) & (upper >= MIDPOINT)))
    assert 0.93 <= covered <= 0.97


@pytest.mark.slow
def test_other_parameters_of_the_four_parameter_curve_are_covered_too() -> None:
    rng = np.random.default_rng(43)
    many = fit_many("logistic4", DOSES, four_parameters(DOSES) + rng.normal(0, 3, (RUNS, DOSES.size)))
    for name, value in (("lower", 5), ("upper", 100), ("slope", SLOPE)):
        lower, upper = many.interval(name)
        assert 0.93 <= float(np.mean((lower <= value) & (upper >= value))) <= 0.97


@pytest.mark.slow
def test_read_back_through_the_four_parameter_curve_covers_93_to_97_percent() -> None:
    """Samples in duplicate over the steep part of the curve."""
    rng = np.random.default_rng(44)
    runs, covered, noise = 1500, 0, 2.0
    for _ in range(runs):
        result = fit("logistic4", DOSES, four_parameters(DOSES) + rng.normal(0, noise, DOSES.size))
        level = float(np.exp(rng.uniform(np.log(0.5), np.log(8))))
        back = result.read_back(list(four_parameters(np.full(2, level)) + rng.normal(0, noise, 2)))
        assert back.lower is not None and back.upper is not None
        covered += back.lower <= level <= back.upper
    assert 0.93 <= covered / runs <= 0.97


@pytest.mark.slow
@pytest.mark.parametrize("link", ["probit", "logit"])
def test_ld50_intervals_cover_93_to_97_percent(link: str) -> None:
    """6 doses of 40 animals each; Fieller, many at once, over the sets with a finite line."""
    rng = np.random.default_rng(45)
    dose, exposed = np.geomspace(1, 32, 6), np.full(6, 40)
    line = 3.0 * (np.log10(dose) - np.log10(6))
    share = special.ndtr(line) if link == "probit" else special.expit(line)
    many = quantal.fit_many(dose, rng.binomial(exposed, share, (RUNS, 6)), exposed, link=link)
    _, lower, upper = many.dose_for(0.5)
    used = many.converged & np.isfinite(lower) & np.isfinite(upper)
    assert used.mean() > 0.99
    assert 0.93 <= float(np.mean((lower[used] <= 6) & (upper[used] >= 6))) <= 0.97
