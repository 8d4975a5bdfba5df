"""Fits against statsmodels, and the properties every fit must have."""

import math

import numpy as np
import pytest
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from dosis.core import Flag, fit

X = np.repeat([0.5, 1.0, 2.5, 5.0, 10.0, 20.0], 2)
Y = 0.01 + 0.0342 * X + np.random.default_rng(7).normal(0, 0.004, X.size)


@pytest.mark.parametrize("rule", ["none", "1/x", "1/x^2", "1/y", "1/y^2"])
@pytest.mark.parametrize("model", ["line", "line_through_zero"])
def test_agrees_with_statsmodels_wls(model: str, rule: str) -> None:
    """statsmodels WLS as an independent reference: estimates, errors, covariance, R², the confidence band."""
    base = {"none": X**0, "1/x": 1 / X, "1/x^2": X**-2.0, "1/y": 1 / Y, "1/y^2": Y**-2.0}[rule]
    design = sm.add_constant(X) if model == "line" else X[:, None]
    theirs = sm.WLS(Y, design, weights=base).fit()
    ours = fit(model, X, Y, weights=rule)
    order = [1, 0] if model == "line" else [0]
    assert_allclose(ours.values, theirs.params[order], rtol=1e-9)
    assert_allclose(ours.covariance, theirs.cov_params()[np.ix_(order, order)], rtol=1e-8)
    assert_allclose([p.p_value for p in ours.parameters.values()], theirs.pvalues[order], rtol=1e-7)
    assert_allclose(ours.r_squared, theirs.rsquared, rtol=1e-9)
    assert_allclose(ours.adjusted_r_squared, theirs.rsquared_adj, rtol=1e-9)
    # statsmodels leaves the variance out of the parameter count and keeps the constant n(1 + ln 2π).
    constant = X.size * (1 + math.log(2 * math.pi))
    assert_allclose(ours.bic, theirs.bic - constant + math.log(X.size), rtol=1e-8)
    frame = theirs.get_prediction(design).summary_frame()
    assert_allclose(np.array(ours.band(X)).T, frame[["mean_ci_lower", "mean_ci_upper"]], rtol=1e-8)


def test_observation_band_is_statsmodels_prediction_interval() -> None:
    frame = sm.OLS(Y, sm.add_constant(X)).fit().get_prediction(sm.add_constant(X)).summary_frame()
    assert_allclose(np.array(fit("line", X, Y).band(X, kind="observation")).T,
                    frame[["obs_ci_lower", "obs_ci_upper"]], rtol=1e-8)  # fmt: skip


def test_aicc_is_the_formula_of_burnham_and_anderson() -> None:
    """Burnham & Anderson (2002), section 2.4, with k counting the variance."""
    result, k, n = fit("line", X, Y), 3, X.size
    assert_allclose(result.aicc, n * math.log(result.sse / n) + 2 * k + 2 * k * (k + 1) / (n - k - 1), rtol=1e-12)


def test_runs_test_counts_as_siegel_does() -> None:
    """All below, then all above, of 5 and 5: two runs, probability 2/C(10,5) (Siegel; counted by hand)."""
    x = np.arange(10.0)
    y = np.where(x < 5, -1.0, 1.0)
    from dosis.core.inference.goodness import runs_test
    from dosis.core.places import places

    test = runs_test(places(x), y, np.ones(10))
    assert test.statistic == 2
    assert_allclose(test.p_value, 2 / math.comb(10, 5))


levels = st.floats(0.1, 1e4).map(lambda v: float(f"{v:.4g}"))
signals = st.floats(-1e3, 1e3).map(lambda v: round(float(f"{v:.6g}"), 12))
tables = st.lists(st.tuples(levels, signals), min_size=4, max_size=24).filter(
    lambda rows: np.ptp([x for x, _ in rows]) > 0.05 * max(x for x, _ in rows)
)


@given(tables)
@settings(max_examples=80)
def test_every_fit_keeps_its_promises(rows: list[tuple[float, float]]) -> None:
    x, y = np.array(rows).T
    result = fit("line", x, y)
    shuffled = np.random.default_rng(1).permutation(x.size)
    again = fit("line", x[shuffled], y[shuffled])
    span = max(np.abs(y).max(), 1e-3)
    assert_allclose(again.predict(x), result.predict(x), atol=1e-9 * span)
    assert_allclose(fit("line", x, y, weights=np.ones_like(x)).values, result.values)
    assert_allclose(fit("line", x, 10 * y).sse, 100 * result.sse, rtol=1e-6, atol=1e-16 * span**2)
    if not result.slope_is_flat and abs(result.values[0]) * np.ptp(x) > 1e-6 * span:
        middle = float(np.mean([x.min(), x.max()]))
        back = result.read_back(float(result.predict(middle)[0]))
        assert_allclose(back.estimate, middle, rtol=1e-6)
        assert back.flag is None
        if back.lower is not None and back.upper is not None:
            assert back.lower <= middle * (1 + 1e-6) and middle * (1 - 1e-6) <= back.upper


def test_out_of_range_is_flagged_and_a_standard_is_not() -> None:
    result = fit("line", [1, 2, 3, 4], [1.01, 2.0, 2.99, 4.02])
    assert result.read_back(6.0).flag is Flag.ABOVE_RANGE
    assert result.read_back(-1.0).flag is Flag.BELOW_RANGE
    assert result.read_back(float(result.predict(4.0)[0])).flag is None


def test_flat_line_reads_nothing_back_and_says_why() -> None:
    result = fit("line", [1, 2, 3, 4], [0.5, 0.5, 0.5, 0.5])
    back = result.read_back(0.5)
    assert (back.estimate, back.flag) == (None, Flag.FLAT)
    assert "does not change" in result.warnings[0]


def test_interval_without_end_is_none_not_a_number() -> None:
    """A slope that is not significant has no Fieller interval (Fieller 1954)."""
    back = fit("line", [1, 2, 3, 4], [1.0, 0.4, 1.3, 0.9]).read_back(0.9)
    assert (back.lower, back.upper) == (None, None)
    assert "slope" in back.reason


def test_two_standards_give_a_line_without_an_interval() -> None:
    result = fit("line", [1, 2], [0.1, 0.2])
    assert result.rmse is None and result.parameters["slope"].standard_error is None
    assert result.read_back(0.15).estimate == pytest.approx(1.5)
    assert result.read_back(0.15).lower is None
    assert "no spread" in result.warnings[0]


@pytest.mark.parametrize(
    ("x", "y", "options", "said"),
    [
        ([1, 2], [1], {}, "2 numbers and y has 1"),
        ([], [], {}, "at least 2 readings; there are none"),
        ([3, 3, 3], [1, 2, 3], {}, "2 different x; there is 1"),
        ([1, 2, math.nan], [1, 2, 3], {}, "1 of 3 numbers in x are missing or infinite"),
        ([1, 2], [1, math.inf], {}, "first at position 2"),
        ([0, 1, 2], [1, 2, 3], {"weights": "1/x^2"}, "no weight for 0"),
        ([1, 2, 3], [1, 2, 3], {"weights": [1, -1, 1]}, "positive, finite"),
        ([1, 2, 3], [1, 2, 3], {"weights": "heavy"}, "no weighting"),
        ([1, 2, 3], [1, 2, 3], {"weights": "1/sd^2"}, "standard deviation of every reading"),
        ([1e300, 2e300, 3e300], [1, 2, 3.5], {}, "too large or too small"),
        ([1, 2, 3], [1e300, 2e300, 3.5e300], {}, "too large or too small"),
        ([1, 2, 3], [1, 2, 3], {"window": (2.5, None)}, "at least 2 readings; there is 1"),
    ],
)
def test_what_cannot_be_fitted_says_what_and_why(x: list, y: list, options: dict, said: str) -> None:
    with pytest.raises(ValueError, match=said.replace("(", r"\(")):
        fit("line", x, y, **options)


def test_unknown_model_names_the_known_ones() -> None:
    with pytest.raises(ValueError, match="line, line_through_zero"):
        fit("squiggle", [1, 2], [1, 2])


def test_window_takes_both_ends_in() -> None:
    assert fit("line", X, Y, window=(1.0, 5.0)).range == (1.0, 5.0)
    assert_allclose(fit("line", X, Y, window=(None, 5.0)).values, fit("line", X[:8], Y[:8]).values)
