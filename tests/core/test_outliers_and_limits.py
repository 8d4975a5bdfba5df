"""Outlier tests, detection limits and assay quality against published values."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import fit
from dosis.core.limits import assay_quality, detection_limits
from dosis.core.outliers import DIXON_95, dixon, grubbs, mad_rule
from tests.conftest import reference


@pytest.mark.parametrize("part", ["first", "extended"])
def test_nitrite_outlier(part: str) -> None:
    """Miller & Miller, nitrite in river water: not outlying among four readings, outlying among seven."""
    case = reference("outlier_nitrite")
    readings, expected = case["data"][part], case["expected"][part]
    by_grubbs, by_dixon = grubbs(readings), dixon(readings)
    assert_allclose(by_grubbs.statistic, expected["grubbs"]["G"], rtol=1e-9)
    assert_allclose(by_grubbs.critical, expected["grubbs"]["G_crit_two_sided_005"], rtol=1e-8)
    assert_allclose(by_grubbs.p_value, expected["grubbs"]["p_two_sided_bonferroni"], rtol=1e-7)
    assert by_grubbs.outlying == expected["grubbs"]["outlier"]
    assert_allclose(by_dixon.statistic, expected["dixon"]["Q"], rtol=1e-9)
    assert by_dixon.outlying == (part == "extended")
    assert by_grubbs.value == by_dixon.value == 0.380


def test_nickel_outlier_by_three_rules() -> None:
    """Nickel in syenite (Analytical Methods Committee, robust statistics)."""
    case = reference("outlier_nickel_syenite")
    found = grubbs(case["data"]["values"])
    assert_allclose(
        (found.statistic, found.critical), (case["expected"]["G"], case["expected"]["G_crit_two_sided_005"])
    )
    by_mad = mad_rule(case["data"]["values"])
    assert by_mad.value == 125 and by_mad.outlying
    assert_allclose(by_mad.statistic, (125 - case["expected"]["median"]) / case["expected"]["mad_scaled_1_4826"])


def test_critical_values_for_small_n() -> None:
    """Grubbs (1969) and Rorabacher (1991): tables from 3 to 10."""
    expected = reference("outlier_critical_values_small_n")["expected"]
    for n in range(3, 11):
        readings = list(np.arange(n, dtype=float))
        assert_allclose(grubbs(readings).critical, expected["grubbs_two_sided_005"][str(n)], rtol=1e-8)
        assert_allclose(grubbs(readings, alpha=0.01).critical, expected["grubbs_two_sided_001"][str(n)], rtol=1e-8)
        assert_allclose(DIXON_95[n], expected["dixon_r10_two_sided_005"][str(n)], atol=0.003)


def test_readings_that_agree_have_no_outlier() -> None:
    for rule in (grubbs, dixon, mad_rule):
        found = rule([0.5, 0.5, 0.5])
        assert not found.outlying and "same" in found.reason
        with pytest.raises(ValueError, match="at least 3"):
            rule([1.0, 2.0])
    with pytest.raises(ValueError, match="3 to 10"):
        dixon([1.0] * 11)


def test_detection_limits_of_the_cadmium_line() -> None:
    """EURACHEM/CITAC example A5 with the factors of ICH Q2."""
    case = reference("cal_linear_quam_cadmium")
    line, expected = fit("line", case["data"]["x"], case["data"]["y"]), case["expected"]["ols"]
    by_residuals = detection_limits(line)
    assert_allclose(by_residuals.lod, expected["lod_3.3_residual_sd"], rtol=1e-9)
    assert_allclose(by_residuals.loq, expected["loq_10_residual_sd"], rtol=1e-9)
    by_intercept = detection_limits(line, line.parameters["intercept"].standard_error)
    assert_allclose((by_intercept.lod, by_intercept.loq),
                    (expected["lod_3.3_se_intercept"], expected["loq_10_se_intercept"]), rtol=1e-9)  # fmt: skip
    with pytest.raises(ValueError, match="straight line"):
        detection_limits(fit("quadratic", case["data"]["x"], case["data"]["y"]))


def test_standard_addition_is_the_read_back_of_no_signal() -> None:
    """Silver by standard addition (Miller & Miller): 17.3, with its delta and Fieller limits."""
    case = reference("standard_addition_silver")
    back = fit("line", case["data"]["x"], case["data"]["y"]).read_back(0.0, n=math.inf)
    assert_allclose(-back.estimate, case["expected"]["x_intercept_magnitude"], rtol=1e-9)
    assert_allclose(back.standard_error, case["expected"]["se_x"], rtol=1e-8)
    assert_allclose((-back.upper, -back.lower), case["expected"]["ci95_fieller"], rtol=1e-8)


def test_assay_quality_of_the_spinach_plate() -> None:
    """Zhang, Chung & Oldenburg (1999) on published readings; recomputed."""
    case = reference("zprime_spinach_curve4")
    found, expected = assay_quality(case["data"]["high"], case["data"]["low"]), case["expected"]
    for name in ("z_prime", "signal_to_background", "signal_to_noise", "signal_window", "ssmd"):
        assert_allclose(getattr(found, name), expected[name], rtol=1e-9)
    assert_allclose(found.low.cv, expected["cv_low_percent"] / 100, rtol=1e-9)
    assert assay_quality([1.0], [0.0]).z_prime is None
