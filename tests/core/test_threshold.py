"""The curve with a threshold: its least sum of squares, also in a corner, and an interval that covers."""

import os

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import optimize

from dosis.core import MODELS, fit

LEVELS = np.array([0, 1, 3.2, 10, 32, 100, 320])
MODEL = MODELS["threshold_decline"]
RUNS = int(os.environ.get("DOSIS_RUNS", "60"))


def readings(
    threshold: float, rate: float, sd: float, seed: int, levels: np.ndarray = LEVELS
) -> tuple[np.ndarray, ...]:
    x = np.repeat(levels, 4)
    y = MODEL.value(x, np.array([100.0, threshold, rate]))
    return x, y + np.random.default_rng(seed).normal(0, sd, x.size)


def sse(p: np.ndarray, x: np.ndarray, y: np.ndarray) -> float:
    return float(np.square(y - p[0] * np.exp(-p[2] * np.maximum(x - p[1], 0))).sum())


@pytest.mark.parametrize(("threshold", "rate"), [(0.4, 0.5), (5.0, 0.1), (12.0, 0.01), (20.0, 0.06), (60.0, 0.04)])
def test_no_search_finds_a_smaller_sum_of_squares(threshold: float, rate: float) -> None:
    """Against scipy's differential evolution, which knows nothing of corners."""
    for seed in range(4):
        x, y = readings(threshold, rate, 5.0, seed)
        found = fit(MODEL, x, y)
        ends = [(50.0, 150.0), (1e-3, 320.0), (1e-4, 10.0)]
        want = optimize.differential_evolution(sse, ends, (x, y), rng=seed, tol=1e-10, maxiter=400)
        assert found.sse <= want.fun * (1 + 1e-9)


def test_a_least_sum_of_squares_in_a_corner_is_one_that_was_found() -> None:
    """With a threshold near a dose, one set of readings in six has its best at the very dose."""
    fits = [fit(MODEL, *readings(12.0, 0.01, 5.0, seed)) for seed in range(40)]
    corners = [each for each in fits if np.isclose(each.named["threshold"], LEVELS, rtol=1e-9).any()]
    assert len(corners) > 1
    assert all(each.converged for each in corners)


def test_the_interval_ends_where_the_best_fit_with_that_threshold_is_f_above_the_least() -> None:
    x, y = readings(20.0, 0.02, 5.0, 1)
    found = fit(MODEL, x, y)
    assert found.rmse is not None
    limit = found.sse + (found.rmse * found.t(0.95)) ** 2
    for end in found.profile("threshold", 0.95):
        assert end is not None

        def with_end(p: np.ndarray, end: float = end) -> float:
            return sse(np.array([p[0], end, np.exp(p[1])]), x, y)

        least = optimize.minimize(with_end, [100.0, np.log(0.02)], method="Nelder-Mead",
                                  options={"xatol": 1e-10, "fatol": 1e-10, "maxiter": 4000})  # fmt: skip
        assert least.fun == pytest.approx(limit, rel=1e-7)


@pytest.mark.parametrize(("threshold", "rate"), [(12.0, 0.01), (40.0, 0.02)])
def test_the_interval_covers_the_threshold_as_often_as_it_says(threshold: float, rate: float) -> None:
    """By simulation; a standard error alone covers it in half of the cases where few doses lie beyond it."""
    inside = 0
    for seed in range(RUNS):
        lower, upper = fit(MODEL, *readings(threshold, rate, 6.0, 500 + seed)).profile("threshold", 0.95)
        inside += (lower is None or lower <= threshold) and (upper is None or threshold <= upper)
    assert inside / RUNS > 0.95 - 4 * np.sqrt(0.95 * 0.05 / RUNS)


def test_without_a_threshold_the_interval_is_open_below() -> None:
    lower, upper = fit(MODEL, *readings(1e-4, 0.02, 5.0, 2)).profile("threshold", 0.95)
    assert lower is None
    assert upper is not None
    assert 0.5 < upper < 15


def test_doses_of_an_effect_are_exact_and_other_parameters_can_be_held() -> None:
    x, y = readings(8.0, 0.05, 1e-9, 3)
    found = fit(MODEL, x, y)
    assert_allclose(found.values, [100, 8, 0.05], rtol=1e-6)
    for share in (0.1, 0.5, 0.9):
        assert found.dose_at(share).estimate == pytest.approx(8 - np.log(1 - share) / 0.05, rel=1e-7)
    held = fit(MODEL, x, y, fixed={"rate": 0.05, "control": 100.0})
    assert held.named["threshold"] == pytest.approx(8.0, rel=1e-6)
    placed = fit(MODEL, x, y, fixed={"threshold": 8.0})
    assert_allclose(placed.values, [100, 8, 0.05], rtol=1e-6)
