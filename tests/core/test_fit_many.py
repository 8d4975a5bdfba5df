"""fit_many gives for every curve what fit gives for it alone, and survives every kind of curve."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import optimize, special

from dosis.core import MODELS, fit, fit_many
from dosis.core.fitting.each import fit_each
from dosis.core.inference.areas import areas_under
from dosis.core.inference.doses import doses_at
from tests.core.test_curves import CASES

CURVES = 24


def noisy(id: str, seed: int = 3, noise: float = 0.02) -> tuple[np.ndarray, np.ndarray]:
    """The model's x in triplicate, and curves about it whose parameters vary by a tenth."""
    rng = np.random.default_rng(seed)
    truth, x = np.array(CASES[id][0]), np.repeat(CASES[id][1], 3)
    values = truth * rng.uniform(0.9, 1.1, (CURVES, truth.size))
    y = np.stack([MODELS[id].value(x, row) for row in values])
    return x, y + noise * np.ptp(y, axis=1)[:, None] * rng.standard_normal(y.shape)


@pytest.mark.parametrize("id", [id for id in CASES if not MODELS[id].kinked])
def test_every_model_gives_the_same_as_one_by_one(id: str) -> None:
    x, y = noisy(id)
    many = fit_many(id, x, y)
    # The optimum ends in kinks, where the gradient of the best fit need not vanish.
    assert many.converged.mean() > (0.8 if id == "optimum" else 0.9)
    for i in np.flatnonzero(many.converged):
        alone = fit(id, x, y[i])
        assert many.sse[i] <= alone.sse * (1 + 1e-8)
        if many.sse[i] >= alone.sse * (1 - 1e-8):  # the same minimum, not a better one
            assert_allclose(many.r_squared[i], alone.r_squared, rtol=1e-8)
            assert_allclose(many.rmse[i], alone.rmse, rtol=1e-7)
            spread = np.array([p.standard_error or np.inf for p in alone.parameters.values()])
            assert_allclose(many.values[i], alone.values, rtol=1e-8)
            finite = np.isfinite(spread) & np.isfinite(many.standard_errors[i])
            assert_allclose(many.standard_errors[i][finite], spread[finite], rtol=1e-3)


def test_four_parameter_curves_have_the_same_numbers_to_8_digits() -> None:
    """What the two programs share is the algorithm; what they do not is the order of sums."""
    rng = np.random.default_rng(21)
    x = np.repeat(np.geomspace(0.01, 100, 8), 3)
    middle, slope = np.exp(rng.uniform(-2, 2, (200, 1))), rng.uniform(0.8, 2.5, (200, 1))
    y = 0.1 + 1.9 / (1 + (x / middle) ** slope) + 0.03 * rng.standard_normal((200, 24))
    many = fit_many("logistic4", x, y)
    lower, upper = many.interval("midpoint", method="profile")
    for i in range(200):
        alone = fit("logistic4", x, y[i])
        assert_allclose(many.values[i], alone.values, rtol=1e-8, atol=1e-9)
        assert_allclose(many.sse[i], alone.sse, rtol=1e-10)
        assert_allclose(many.standard_errors[i], [p.standard_error for p in alone.parameters.values()], rtol=1e-7)
        if i < 10:
            assert_allclose((lower[i], upper[i]), alone.parameters["midpoint"].interval(method="profile"), rtol=1e-7)


@pytest.mark.parametrize(("model", "tolerance"), [("logistic4", 1e-8), ("boltzmann", 1e-8)])
def test_the_best_minimum_is_found_among_many(model: str, tolerance: float) -> None:
    """Against scipy's least_squares from 8 starts each: steep, noisy, partial and flat curves."""
    rng = np.random.default_rng(31)
    x = np.repeat(np.geomspace(0.01, 100, 8), 2)
    t = np.log(x)
    base = special.expit(rng.uniform(0.5, 8, (16, 1)) * (t - rng.uniform(-5, 6, (16, 1))))
    y = base * rng.choice([0, 1, 1], (16, 1)) + rng.choice([0.02, 0.2], (16, 1)) * rng.standard_normal((16, 16))
    found = fit_many(model, x if model == "logistic4" else t, y)
    for i in range(16):

        def residuals(p: np.ndarray, i: int = i) -> np.ndarray:
            return y[i] - p[0] - p[1] * special.expit(p[3] * (t - p[2]))

        best = min(
            2 * optimize.least_squares(residuals, [y[i].min(), np.ptp(y[i]), m, b], xtol=1e-14, ftol=1e-14).cost
            for m in np.linspace(-4.6, 4.6, 4) for b in (1.0, 5.0)
        )  # fmt: skip
        assert found.sse[i] <= best * (1 + tolerance)


def test_missing_readings_and_weights_are_as_in_a_single_fit() -> None:
    x, y = noisy("logistic4")
    y[2, [0, 5, 9]] = np.nan
    y[3, :] = np.nan
    for weights in (None, "1/y^2"):
        many = fit_many("logistic4", x, np.abs(y) + 0.05, weights=weights)
        there = np.isfinite(y[2])
        alone = fit("logistic4", x[there], np.abs(y[2, there]) + 0.05, weights=weights)
        assert_allclose(many.sse[2], alone.sse, rtol=1e-8)
        assert many.n[2] == there.sum()
        assert not many.converged[3] and np.isnan(many.values[3]).all()


def test_curves_of_every_kind_come_through_without_an_exception() -> None:
    """Flat, steep, partial, outlying, falling and mere noise, more than one chunk of them."""
    rng = np.random.default_rng(12)
    x = np.repeat(np.geomspace(0.01, 100, 8), 3)
    regular = np.tile(noisy("logistic4")[1][0][:24], (3000, 1))
    kinds = [
        regular + 0.01 * rng.standard_normal((3000, 24)),
        np.ones((500, 24)),
        np.where(x > 1, 1.0, 0.0) + np.zeros((500, 1)),
        rng.standard_normal((500, 24)),
        np.abs(x**0.3) + 0.02 * rng.standard_normal((500, 24)),
        1e-300 * rng.standard_normal((20, 24)),
        1e150 * rng.standard_normal((20, 24)),
    ]
    many = fit_many("logistic4", x, np.concatenate(kinds))
    assert many.converged[:3000].all()
    assert np.isfinite(many.sse[:5000]).all()
    assert len(many.values) == sum(map(len, kinds))


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (("logistic4", [1, 2, 3], [[1, 2]]), r"x must be \(n,\)"),
        (("logistic4", [-1, 2, 3], [[1, 2, 3]]), "not below zero"),
        (("nothing", [1, 2, 3], [[1, 2, 3]]), "no model"),
    ],
)
def test_shapes_that_do_not_fit_are_refused_in_words(args: tuple, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        fit_many(*args)


def test_a_step_and_a_bare_end_have_no_made_up_errors() -> None:
    """As in a single fit: what the readings leave open has no standard error."""
    x = np.repeat(np.geomspace(0.1, 100, 7), 2)
    noise = np.tile([0.01, -0.01], 7)
    y = np.stack((np.where(x > 3, 1.0, 0.0), 0.002 * x**0.7)) + noise
    many = fit_many("logistic4", x, y)
    for i in range(2):
        alone = fit("logistic4", x, y[i])
        known = [p.standard_error is not None for p in alone.parameters.values()]
        assert np.isfinite(many.standard_errors[i]).tolist() == known
    assert np.isfinite(many.standard_errors[0]).tolist() == [True, True, False, False]


@pytest.mark.parametrize("id", ["logistic4", "logistic5", "weibull", "gompertz_dose"])
def test_full_results_of_many_curves_are_those_of_one_by_one(id: str) -> None:
    """Statistics, doses with intervals, and areas; a curve at a limit is left to `fit`."""
    x, y = noisy(id, seed=8)
    low, high = (float(x[x > 0].min()), float(x.max()))
    y[0] = 1.0 + 1e-3 * np.random.default_rng(1).standard_normal(x.size) * (x == x.max())  # an end of a curve at most
    found = fit_each(MODELS[id], x, y)
    assert found[0] is None or found[0].sse <= fit(id, x, y[0]).sse * (1 + 1e-8)
    many = [(i, each) for i, each in enumerate(found) if each is not None]
    assert len(many) > 0.8 * CURVES
    doses = doses_at([each for _, each in many], [0.3] * len(many), "span", 0.95)
    areas = areas_under([each for _, each in many], low, high, 0.95)
    for (i, each), dose, area in zip(many, doses, areas, strict=True):
        alone = fit(id, x, y[i])
        if each.sse < alone.sse * (1 - 1e-8):
            continue  # a better minimum
        assert_allclose(each.sse, alone.sse, rtol=1e-8)
        assert_allclose(area.estimate, alone.area(low, high).estimate, rtol=1e-6)
        other = alone.dose_at(0.3)
        assert dose.flag == other.flag
        if other.lower is not None:
            assert other.standard_error  # what is known is known with an error, however the parameters cancel
            got = [dose.estimate, dose.lower, dose.upper, each.lack_of_fit.p_value, each.aicc]
            want = [other.estimate, other.lower, other.upper, alone.lack_of_fit.p_value, alone.aicc]
            assert_allclose(got, want, rtol=1e-5)
