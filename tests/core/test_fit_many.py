"""fit_many gives for every curve what fit gives for it alone, and survives every kind of curve."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import MODELS, fit, fit_many
from tests.core.test_curves import CASES

CURVES = 24


def noisy(id: str, seed: int = 3, noise: float = 0.02) -> tuple[np.ndarray, np.ndarray]:
    """The model's x in triplicate, and curves about it whose parameters vary by a tenth."""
    rng = np.random.default_rng(seed)
    truth, x = np.array(CASES[id][0]), np.repeat(CASES[id][1], 3)
    values = truth * rng.uniform(0.9, 1.1, (CURVES, truth.size))
    y = np.stack([MODELS[id].value(x, row) for row in values])
    return x, y + noise * np.ptp(y, axis=1)[:, None] * rng.standard_normal(y.shape)


@pytest.mark.parametrize("id", CASES)
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
            assert (np.abs(many.values[i] - alone.values) <= 1e-4 * spread).all()
            finite = np.isfinite(spread) & np.isfinite(many.standard_errors[i])
            assert_allclose(many.standard_errors[i][finite], spread[finite], rtol=1e-3)


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
