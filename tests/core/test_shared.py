"""Simultaneous fits of several series against recomputed published assays, and their properties."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import extra_sum_of_squares, fit
from dosis.core.inference.joint import SharedFit
from tests.conftest import reference

CASE = reference("ftest_spinach_diuron_assays")
DATA, EXPECTED = CASE["data"], CASE["expected"]
OURS = {"c": "lower", "d": "upper", "e": "midpoint", "b": "slope"}
SHARES = {
    "all_separate": (),
    "common_asymptotes": ("lower", "upper"),
    "common_asymptotes_shared_EC50": ("lower", "upper", "midpoint"),
    "parallel": ("lower", "upper", "slope"),
}


def joint(name: str) -> SharedFit:
    """The two assays of Streibig (1998), Pesticide Science 55, 137, fitted together."""
    return fit("logistic4", DATA["x"], DATA["y"], series=DATA["group"], share=SHARES[name])


@pytest.mark.parametrize("name", SHARES)
def test_joint_fits_are_those_recomputed(name: str) -> None:
    """Streibig (1998); recomputed to 50 digits. The published slope is positive for a falling curve."""
    result, expected = joint(name), EXPECTED[name]
    assert result.converged
    assert_allclose(result.sse, expected["rss"], rtol=1e-8)
    assert result.degrees_of_freedom == expected["df"]
    assert_allclose(result.rmse, expected["residual_sd"], rtol=1e-8)
    for key, value in expected.items():
        if key[0] in OURS and key[1:] in ("", "1", "2"):
            ours = result.parameters[OURS[key[0]] + (f" of {key[1:]}" if key[1:] else "")]
            sign = -1 if key[0] == "b" else 1
            assert_allclose(sign * ours.estimate, value, rtol=1e-6, atol=1e-8)
            assert_allclose(ours.standard_error, expected[f"se_{key}"], rtol=1e-6)


@pytest.mark.parametrize(
    ("simpler", "larger", "key"),
    [
        ("common_asymptotes", "all_separate", "F_common_asymptotes_vs_all_separate"),
        ("common_asymptotes_shared_EC50", "common_asymptotes", "F_shared_EC50_vs_separate_EC50"),
        ("parallel", "common_asymptotes", "F_parallel_vs_common_asymptotes"),
        ("parallel", "all_separate", "F_parallel_vs_all_separate"),
    ],
)
def test_differences_between_curves_by_extra_sum_of_squares(simpler: str, larger: str, key: str) -> None:
    """Streibig (1998); recomputed."""
    test, expected = extra_sum_of_squares(joint(simpler), joint(larger)), EXPECTED[key]
    assert_allclose(test.statistic, expected["F"], rtol=1e-6)
    assert test.degrees_of_freedom == (expected["df1"], expected["df2"])
    assert_allclose(test.p_value, expected["p"], rtol=1e-5)


def test_the_ratio_of_midpoints_and_its_interval() -> None:
    """Streibig (1998); recomputed: relative potency of the parallel curves."""
    expected = EXPECTED["relative_potency_parallel"]
    ratio = joint("parallel").ratio("midpoint", 1, 2)
    assert_allclose(ratio.estimate, expected["value"], rtol=1e-7)
    assert_allclose((ratio.lower, ratio.upper), expected["ci95_log"], rtol=1e-6)
    assert_allclose(ratio.log_standard_error, expected["se_log10"] * np.log(10), rtol=1e-6)


def test_a_joint_fit_of_twice_the_same_series_is_the_single_fit() -> None:
    x, y = np.array(DATA["x"][:21]), np.array(DATA["y"][:21])
    single = fit("logistic4", x, y)
    both = fit("logistic4", [*x, *x], [*y, *y], series=["a"] * 21 + ["b"] * 21, share=single.model.names)
    assert_allclose(both.values, single.values, rtol=1e-7)
    assert_allclose(both.sse, 2 * single.sse, rtol=1e-9)
    assert both.degrees_of_freedom == 38
    apart = fit("logistic4", [*x, *x], [*y, *y], series=["a"] * 21 + ["b"] * 21)
    for label in ("a", "b"):
        assert_allclose(apart.series[label].values, single.values, rtol=1e-7)
        assert_allclose(apart.series[label].rmse, apart.rmse)


def test_each_series_is_a_curve_of_its_own_with_the_common_spread() -> None:
    result = joint("parallel")
    for label in (1, 2):
        curve = result.series[label]
        half = curve.dose_at(0.5)
        midpoint = result.parameters[f"midpoint of {label}"]
        assert_allclose(half.estimate, midpoint.estimate, rtol=1e-9)
        assert_allclose(half.standard_error, midpoint.standard_error, rtol=1e-6)
        assert_allclose((half.lower, half.upper), midpoint.interval(), rtol=1e-6)
    lower, upper = result.parameters["midpoint of 1"].interval(method="profile")
    assert lower < result.parameters["midpoint of 1"].estimate < upper


@pytest.mark.parametrize(
    ("options", "said"),
    [
        ({"series": ["a"]}, "1 series labels for 42"),
        ({"share": ("slope",)}, "give series="),
        ({"series": DATA["group"], "share": ("nothing",)}, "no parameter “nothing”"),
        ({"series": ["a"] * 41 + ["b"]}, "Series “b”: .* needs at least 4 readings"),
        ({"series": DATA["group"], "robust": "huber"}, "not available for several series"),
    ],
)
def test_what_cannot_be_fitted_together_is_said(options: dict, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        fit("logistic4", DATA["x"], DATA["y"], **options)
