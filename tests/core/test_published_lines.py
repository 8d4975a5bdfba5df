"""Straight lines against certified and published answers."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import Fit, fit, replicates
from dosis.core.fitting.linear import solve
from tests.conftest import reference

NINE_DIGITS = 1e-9


def of(name: str, model: str = "line", **options: object) -> Fit:
    data = reference(name)["data"]
    return fit(model, data["x"], data["y"], **options)


@pytest.mark.parametrize(
    ("name", "model", "certified"),
    [
        ("nist_linear_norris", "line", {"intercept": "b0", "slope": "b1"}),
        ("nist_linear_noint1", "line_through_zero", {"slope": "b1"}),
    ],
)
def test_nist_lines_come_out_to_nine_digits(name: str, model: str, certified: dict[str, str]) -> None:
    """NIST/ITL StRD, Linear Regression: Norris, NoInt1 (R² of the latter is about zero)."""
    expected, result = reference(name)["expected"], of(name, model)
    for parameter, key in certified.items():
        estimate = result.parameters[parameter]
        assert_allclose(estimate.estimate, expected[key], rtol=NINE_DIGITS)
        assert_allclose(estimate.standard_error, expected[f"se_{key}"], rtol=NINE_DIGITS)
    assert_allclose(result.rmse, expected["residual_sd"], rtol=NINE_DIGITS)
    assert_allclose(result.sse, expected["rss"], rtol=NINE_DIGITS)
    assert_allclose(result.r_squared, expected["r_squared"], rtol=NINE_DIGITS)


@pytest.mark.parametrize("name", ["nist_linear_wampler1", "nist_linear_wampler3"])
def test_nist_polynomials_come_out_of_the_solver_to_nine_digits(name: str) -> None:
    """NIST/ITL StRD, Linear Regression: Wampler1 and Wampler3, degree 5, the hard cases for normal equations."""
    case = reference(name)
    x, y = (np.array(case["data"][axis], dtype=float) for axis in "xy")
    solution = solve(np.vander(x, 6, increasing=True), y, np.ones_like(y))
    errors = np.sqrt(np.diag(solution.unscaled_covariance) * (solution.residuals**2).sum() / (y.size - 6))
    for i in range(6):
        assert_allclose(solution.parameters[i], case["expected"][f"b{i}"], rtol=NINE_DIGITS)
        assert_allclose(errors[i], case["expected"][f"se_b{i}"], rtol=NINE_DIGITS, atol=1e-9)


def test_fluorescein_reads_back_as_published() -> None:
    """Miller & Miller, Statistics and Chemometrics for Analytical Chemistry: 0.72, 6.21 and 11.13 pg/mL."""
    expected, result = reference("cal_linear_fluorescein")["expected"], of("cal_linear_fluorescein")
    for case in expected["inverse"]:
        back = result.read_back(case["y0"], n=case["m"] or math.inf)
        assert_allclose(back.estimate, case["x"], rtol=1e-9)
        assert_allclose(back.standard_error, case["se_delta"], rtol=1e-8)
        assert_allclose((back.lower, back.upper), case["ci95_fieller"], rtol=1e-8)
    assert [round(result.read_back(y).estimate or 0, 2) for y in (2.9, 13.5, 23.0)] == [0.72, 6.21, 11.13]


def test_pilot_plant_line_and_its_weighted_read_back() -> None:
    """Daniel & Wood (1971), pilot-plant acid; inverse predictions recomputed to 50 digits."""
    expected, result = reference("cal_linear_pilot")["expected"]["ols"], of("cal_linear_pilot")
    assert_allclose(result.parameters["slope"].interval(), expected["ci95_slope"], rtol=1e-9)
    assert_allclose(result.covariance[0, 1], expected["cov_intercept_slope"], rtol=1e-8)
    for case in expected["inverse"]:
        back = result.read_back(case["y0"], n=case["m"] or math.inf)
        assert_allclose((back.lower, back.upper), case["ci95_fieller"], rtol=1e-8)


def test_cadmium_shows_its_lack_of_fit_and_reads_back_two_readings() -> None:
    """EURACHEM/CITAC, Quantifying Uncertainty in Analytical Measurement, example A5."""
    expected = reference("cal_linear_quam_cadmium")["expected"]
    result = of("cal_linear_quam_cadmium")
    lack = expected["ols"]["lack_of_fit"]
    assert_allclose(result.lack_of_fit.statistic, lack["F"], rtol=1e-8)
    assert_allclose(result.lack_of_fit.p_value, lack["p"], rtol=1e-8)
    for model, block in (("line", expected["ols"]), ("line_through_zero", expected["through_origin"])):
        case = block["inverse"][0]
        back = of("cal_linear_quam_cadmium", model).read_back([0.0712, 0.0716])
        assert_allclose(back.estimate, case["x"], rtol=1e-9)
        assert_allclose((back.lower, back.upper), case["ci95_fieller"], rtol=1e-8)


def test_weighted_line_reads_back_with_the_weight_of_the_unknown() -> None:
    """Miller & Miller, weighted regression example; their weights are scaled to mean 1, ours are 1/s²."""
    case = reference("cal_weighted_miller")
    data, expected = case["data"], case["expected"]["weighted"]
    result = fit("line", data["x"], data["y"], weights="1/sd^2", sd=data["sd"])
    scale = float(np.mean(1 / np.square(data["sd"])))
    for name in ("slope", "intercept"):
        assert_allclose(result.parameters[name].estimate, expected[name], rtol=1e-9)
        assert_allclose(result.parameters[name].standard_error, expected[f"se_{name}"], rtol=1e-9)
    assert_allclose(result.rmse / math.sqrt(scale), expected["residual_sd"], rtol=1e-9)
    assert_allclose(result.r_squared, expected["r_squared"], rtol=1e-9)
    for unknown in expected["inverse"]:
        back = result.read_back(unknown["y0"], n=unknown["m"], weight=unknown["w0"] * scale)
        assert_allclose(back.estimate, unknown["x"], rtol=1e-9)
        assert_allclose((back.lower, back.upper), unknown["ci95_fieller"], rtol=1e-8)


def test_line_through_zero_reads_back() -> None:
    """NIST NoInt1 with inverse predictions recomputed to 50 digits."""
    result = of("cal_origin_noint1_inverse", "line_through_zero")
    for case in reference("cal_origin_noint1_inverse")["expected"]["inverse"]:
        back = result.read_back(case["y0"], n=case["m"] or math.inf)
        assert_allclose((back.lower, back.upper), case["ci95_fieller"], rtol=1e-8)


@pytest.mark.parametrize("name", ["nist_univariate_michelso", "nist_univariate_numacc3"])
def test_replicates_have_the_certified_mean_and_sd(name: str) -> None:
    """NIST/ITL StRD, Univariate Summary Statistics: Michelso and NumAcc3, whose offset ruins one-pass variances."""
    case = reference(name)
    summary = replicates.summarize(case["data"]["y"])
    assert_allclose(summary.mean, case["expected"]["mean"], rtol=1e-12)
    assert_allclose(summary.sd, case["expected"]["sd"], rtol=1e-8)
