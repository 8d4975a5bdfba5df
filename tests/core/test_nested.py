"""Readings nested in preparations: against the analysis of variance, statsmodels' mixed model, and by coverage."""

import warnings

import numpy as np
import pytest
import statsmodels.api as sm
from numpy.testing import assert_allclose

from dosis.core.anova import one_way
from dosis.core.nested import nested


def drawn(rng: np.random.Generator, sizes: list[int], between: float, within: float = 1.0) -> list[list[float]]:
    return [(10 + between * rng.standard_normal() + within * rng.standard_normal(n)).tolist() for n in sizes]


def test_balanced_data_give_the_analysis_of_variance() -> None:
    """Searle, Casella & McCulloch (1992), 4.4: REML is ANOVA where no component is negative."""
    groups = drawn(np.random.default_rng(1), [4] * 6, 2.0)
    found, anova = nested(groups), one_way(groups)
    assert_allclose((found.within, found.between), (anova.repeatability_sd, anova.between_sd), rtol=1e-6)
    means = np.mean(groups, axis=1)
    assert_allclose((found.mean, found.standard_error), (means.mean(), means.std(ddof=1) / np.sqrt(6)), rtol=1e-6)
    assert found.degrees_of_freedom == 5


@pytest.mark.parametrize("between", [0.3, 1.0, 3.0])
def test_uneven_data_give_the_mixed_model(between: float) -> None:
    """statsmodels MixedLM by REML."""
    groups = drawn(np.random.default_rng(7), [2, 5, 3, 8, 4, 1, 6], between)
    y = np.concatenate(groups)
    label = np.repeat(np.arange(7), [len(group) for group in groups])
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        want = sm.MixedLM(y, np.ones((y.size, 1)), label).fit(reml=True, method=["powell", "lbfgs"])
    found = nested(groups)
    assert_allclose(found.mean, want.fe_params[0], rtol=1e-5)
    assert_allclose(found.within**2, want.scale, rtol=2e-3)
    assert_allclose(found.between**2, want.cov_re[0, 0], rtol=1e-2, atol=2e-3)
    between2, within2 = want.cov_re[0, 0], want.scale  # its own bse is of the Hessian in all parameters
    weights = [1 / (between2 + within2 / len(group)) for group in groups]
    assert_allclose(found.standard_error, sum(weights) ** -0.5, rtol=5e-3)


def test_preparations_alike_have_no_spread_between_them() -> None:
    groups = [[1.0, 3.0], [3.0, 1.0], [1.0, 3.0], [3.0, 1.0]]
    assert nested(groups).between == 0
    single = nested([[1.0], [2.0], [4.0]])
    assert single.within is None and single.between == pytest.approx(np.std([1, 2, 4], ddof=1))
    exact = nested([[1.0, 1.0], [2.0, 2.0]])
    assert (exact.within, exact.mean) == (0.0, 1.5)
    for bad in ([[1.0, 2.0]], [[1.0], []]):
        with pytest.raises(ValueError, match="at least 2"):
            nested(bad)


def test_intervals_hold_the_mean_as_often_as_they_say_and_those_of_wells_do_not() -> None:
    """800 runs of 4 preparations with 6 wells each."""
    rng, inside, naive, n = np.random.default_rng(5), 0, 0, 800
    for _ in range(n):
        groups = drawn(rng, [6] * 4, 1.0, 0.5)
        low, high = nested(groups).interval()
        inside += low <= 10 <= high
        wells = np.concatenate(groups)
        naive += abs(wells.mean() - 10) <= 2.07 * wells.std(ddof=1) / np.sqrt(wells.size)
    assert 0.935 <= inside / n <= 0.97
    assert naive / n < 0.70
    low, high = nested(groups).interval()
    wide = nested(groups).interval(also=1.0)
    assert wide[0] < low and wide[1] > high
