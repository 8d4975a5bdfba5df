"""The compiled loops behind sigmoid curves: their arithmetic, their kinks, and the minima they find."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import optimize

from dosis.core import MODELS, fit, fit_many
from dosis.core.fitting.sigmoids import arithmetic, kinks
from dosis.core.inference.result import Fit
from dosis.core.models import Model
from tests.core.test_curves import CASES

DOSES = np.geomspace(0.01, 100, 8)


def test_exponential_and_logarithm_are_right_to_the_last_bits() -> None:
    """Against the C library's functions of extended precision, as numpy gives them."""
    x = np.concatenate((-np.geomspace(1e-18, 599, 1500), [0.0], np.geomspace(1e-18, 700, 700)))
    found = np.array([arithmetic.exponential(value) for value in x.tolist()])
    long = x.astype(np.longdouble)
    assert_allclose(found[:, 0], np.exp(long).astype(float), rtol=4e-16)
    assert_allclose(found[:, 1], np.expm1(long).astype(float), rtol=4e-16)
    assert arithmetic.exponential(-1e6)[1] == -1.0
    e = np.concatenate(([0.0, 1.0], np.geomspace(1e-300, 1.0, 1500), np.linspace(0.4, 0.43, 100)))
    logarithm = [arithmetic.log_of_one_and(value) for value in e.tolist()]
    assert_allclose(logarithm, np.log1p(e.astype(np.longdouble)).astype(float), rtol=6e-16)


@pytest.mark.parametrize("side", [1, -1])
def test_the_best_kink_is_the_best_of_all_that_are_tried_one_by_one(side: int) -> None:
    """An exponential up to a kink and level beyond, against numpy's least squares at every steepness and kink."""
    rng = np.random.default_rng(5)
    t = np.linspace(-1, 1, 9)[::side].copy()
    y, w = rng.normal(size=9), rng.uniform(0.5, 3, 9)
    order, slopes = np.argsort(t), np.array([0.001, 1.0, 4.0, 20.0])
    falls = np.zeros((9, 4))
    falls[1:] = np.exp(-slopes * np.diff(t[order])[:, None])
    found, sums = np.empty((9, 3)), np.empty((5, 4))
    whole = kinks.best_kinks(t, y, w, order, slopes, falls, sums, found)

    def explained(k: float, m: float) -> float:
        shape = np.exp(k * np.minimum(t - m, 0))
        root = np.sqrt(w)
        design = root[:, None] * np.column_stack((np.ones(9), shape))
        left = root * y - design @ np.linalg.lstsq(design, root * y)[0]
        return whole - float(left @ left)

    for claimed, k, m in found[1:]:
        assert_allclose(claimed, explained(k, m), rtol=1e-6)
    best = max(explained(k, m) for k in slopes for m in np.linspace(t[order[1]], 1, 500))
    assert best - 1e-9 <= found[1:, 0].max() <= best * 1.01


def test_five_parameter_curves_reach_the_best_minimum_found_from_many_starts() -> None:
    """Against scipy's least_squares from 48 starts each: regular, noisy, partial and steep curves of 8 doses.

    Their best may lie at a limit, a Gompertz curve or a kink, where no gradient vanishes.
    """
    rng = np.random.default_rng(17)
    t = np.log(DOSES)
    middle, steep = rng.uniform(-4, 6, (6, 1)), rng.choice([1.0, 2.0, 8.0], (6, 1))
    y = 2 / (1 + np.exp(-steep * (t - middle))) + rng.choice([0.02, 0.2], (6, 1)) * rng.standard_normal((6, 8))
    # Theirs may come out either way round; ours are two curves, each of its own name.
    found = np.minimum(fit_many("logistic5", DOSES, y).sse, fit_many("logistic5_mirrored", DOSES, y).sse)
    for i in range(6):

        def residuals(p: np.ndarray, i: int = i) -> np.ndarray:
            shape = np.exp(-np.exp(min(p[4], 30)) * np.logaddexp(0, -p[3] * (t - p[2])))
            return y[i] - p[0] - (p[1] - p[0]) * shape

        with np.errstate(all="ignore"):
            best = min(
                2 * optimize.least_squares(residuals, [0, 2, m, b, g], xtol=1e-14, ftol=1e-14, max_nfev=300).cost
                for m in np.linspace(-4, 4, 4) for b in (-4.0, -1.0, 1.0, 4.0) for g in (-2.0, 0.0, 2.0)
            )  # fmt: skip
        assert found[i] <= best * (1 + 1e-8)


@pytest.mark.parametrize(
    "y",
    [
        (0.70, 1.40, 1.82, 1.98, 1.99, 2.00, 2.01, 2.01),
        (0.82, 1.52, 1.88, 1.98, 2.00, 1.99, 2.01, 2.00),
        (1.79, 1.85, 1.93, 1.98, 2.00, 2.00, 2.00, 2.02),
    ],
)
def test_a_curve_of_which_only_the_end_is_seen_has_several_minima_and_the_best_is_found(y: tuple[float, ...]) -> None:
    """A Gompertz curve against scipy's least_squares from 60 starts, the plateaus eliminated."""
    x, readings = np.array([0, 0.5, 1, 2, 4, 8, 16, 32]), np.array(y)

    def residuals(p: np.ndarray) -> np.ndarray:
        shape = np.exp(-np.exp(np.minimum(-p[1] * (x - p[0]), 6.5)))
        shape, centered = shape - shape.mean(), readings - readings.mean()
        size = shape @ shape
        return centered - shape * (shape @ centered / size if size > 1e-12 else 0.0)

    best = min(
        2 * optimize.least_squares(residuals, (middle, slope), xtol=1e-14, ftol=1e-14, gtol=1e-14, max_nfev=400).cost
        for middle in np.linspace(-6, 32, 10) for slope in (0.1, 0.5, 2.0, -0.1, -0.5, -2.0)
    )  # fmt: skip
    assert fit("gompertz_dose", x, y).sse <= best * (1 + 1e-8)
    assert fit_many("gompertz_dose", x, readings[None]).sse[0] <= best * (1 + 1e-8)


@pytest.mark.parametrize("model", ["logistic4", "logistic5", "boltzmann"])
@pytest.mark.parametrize("weights", [None, "1/y^2"])
def test_one_curve_at_one_go_is_the_same_as_one_among_many(model: str, weights: str | None) -> None:
    """Regular curves are fitted without an array; their number must not hang on that. Readings in any order."""
    rng = np.random.default_rng(3)
    place = np.repeat(np.arange(-3.0, 4.0), 2)
    x = place if model == "boltzmann" else np.repeat(np.concatenate(([0.0], np.exp(np.arange(-2.0, 4.0)))), 2)
    order = rng.permutation(x.size)
    for y in (1 + 4 / (1 + np.exp(-1.3 * place)), 5 - 3 / (1 + np.exp(-0.8 * place))):
        many = y + 0.03 * rng.standard_normal((20, x.size))
        found = fit_many(model, x, many, weights=weights)
        for i in range(20):
            one = fit(model, x[order], many[i][order], weights=weights)
            assert_allclose(one.values, found.values[i], rtol=2e-6)
            assert_allclose(one.sse, found.sse[i], rtol=1e-9)
            residuals = many[i][order] - one.predict(x[order])
            assert_allclose(one.residuals, residuals, rtol=0, atol=1e-14)
            assert_allclose(one.sse, float((one.weights * residuals**2).sum()), rtol=1e-12)


@pytest.mark.parametrize("model", ["logistic4", "logistic5", "weibull"])
def test_few_doses_are_no_curve_but_no_error_either(model: str) -> None:
    for doses in ([1.0], [1.0, 2.0], [0.0, 1.0, 1.0]):
        found = fit_many(model, doses, np.ones((3, len(doses))))
        assert not found.converged.any()
        assert np.isnan(found.values).all()


def test_a_zero_dose_lies_on_the_plateau_also_next_to_a_kink() -> None:
    """With the power towards zero even a far away place would not: the plateau must be exact."""
    x = np.array([0.0, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0])
    y = 1 + 4 * np.minimum(x / 10, 1.0) ** 0.8
    result = fit("logistic5", x, y)
    assert result.rmse is not None
    assert result.rmse < 1e-6
    assert math.isclose(result.predict([0.0])[0], 1.0, abs_tol=1e-5)


@pytest.mark.parametrize("id", ["logistic4", "logistic5", "weibull", "boltzmann", "gompertz_dose", "quadratic"])
def test_reading_back_in_closed_form_is_the_same_as_through_the_general_curve(
    id: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The general way solves for the x of each signal and for the ends of its interval on the model's expression."""
    values, levels = CASES[id]
    rng = np.random.default_rng(8)
    x = np.repeat(levels, 2)
    y = MODELS[id].value(x, np.array(values))
    y = y + 0.02 * np.ptp(y) * rng.standard_normal(y.size)
    result = fit(id, x, y)
    low, high = np.sort(result.predict(result.range))
    signals = np.linspace(low - 0.02 * (high - low), high + 0.02 * (high - low), 15).tolist()
    quick = result.read_back_many(signals, [3] * 15)
    monkeypatch.setattr(Fit, "is_sigmoid", False)
    monkeypatch.setattr(Model, "inverse", lambda *_: None)
    for ours, theirs in zip(quick, result.read_back_many(signals, [3] * 15), strict=True):
        assert (ours.flag, ours.reason) == (theirs.flag, theirs.reason)
        for one, other in zip(
            (ours.estimate, ours.lower, ours.upper, ours.standard_error),
            (theirs.estimate, theirs.lower, theirs.upper, theirs.standard_error), strict=True,
        ):  # fmt: skip
            assert (one is None) == (other is None)
            if one is not None and other is not None:
                assert math.isclose(one, other, rel_tol=2e-9, abs_tol=1e-12)


def test_the_unit_of_x_does_not_matter_to_a_curve_on_a_linear_axis() -> None:
    """Millivolts or nanovolts: the midpoint moves with the unit, and nothing else does."""
    x = np.linspace(-80, 40, 9)
    y = 1 / (1 + np.exp(-(x + 20) / 9)) + 0.01 * np.sin(7 * x)
    small, large = fit("boltzmann", x, y), fit("boltzmann", 1e6 * x, y)
    assert_allclose(large.values, small.values * [1, 1, 1e6, 1e6], rtol=1e-8)
    assert_allclose(large.sse, small.sse, rtol=1e-10)


def test_a_kink_is_not_called_a_step() -> None:
    """Rising for several doses and level from one on: the place is known, the sharpness of the bend is not."""
    rising = 1 + 4 * np.minimum(DOSES / 3.0, 1.0) ** 0.8
    result = fit("logistic5", np.repeat(DOSES, 2), np.repeat(rising, 2) + np.tile([0.004, -0.004], 8))
    assert "step" not in result.message
    assert_allclose(result.predict(DOSES), rising, atol=0.02)


def test_ten_thousand_readings_at_as_many_doses_are_one_curve() -> None:
    rng = np.random.default_rng(3)
    x = np.exp(rng.uniform(-4, 4, 10_000))
    result = fit("logistic4", x, 1 + 3 / (1 + (x / 1.5) ** -1.2) + 0.1 * rng.standard_normal(x.size))
    assert result.converged
    assert_allclose(result.values, [1, 4, 1.5, 1.2], rtol=0.03)
