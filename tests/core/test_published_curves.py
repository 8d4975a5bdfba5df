"""Nonlinear curves against certified and published answers."""

import math

import pytest
from numpy.testing import assert_allclose

from dosis.core import Fit, custom, fit
from tests.conftest import reference

NIST = ["chwirut2", "danwood", "gauss1", "kirby2", "lanczos3", "mgh09", "misra1a", "rat42"]
SIX_DIGITS = 1e-6


def of(name: str, model, **options: object) -> Fit:
    data = reference(name)["data"]
    return fit(model, data["x"], data["y"], **options)


@pytest.mark.parametrize("start", [0, 1])
@pytest.mark.parametrize("name", NIST)
def test_nist_nonlinear_sets_from_both_starts(name: str, start: int) -> None:
    """NIST/ITL StRD, Nonlinear Regression: parameters and standard errors to at least six certified digits."""
    case = reference(f"nist_nls_{name}")
    begin = case["start"][start] if isinstance(case["start"], list) else list(case["start"].values())[start]
    if not isinstance(begin, dict):
        begin = dict(zip(case["parameters"], begin, strict=True))
    result = of(f"nist_nls_{name}", custom(case["formula"].split("=")[1]), start=begin)
    assert result.converged
    for parameter in case["parameters"]:
        assert_allclose(result.parameters[parameter].estimate, case["expected"][parameter], rtol=SIX_DIGITS)
        assert_allclose(
            result.parameters[parameter].standard_error, case["expected"][f"se_{parameter}"], rtol=SIX_DIGITS
        )
    assert_allclose(result.rmse, case["expected"]["residual_sd"], rtol=SIX_DIGITS)


FOUR = ["dnase_run6", "ryegrass", "salba_bentazone", "spinach_curve4", "spinach_curve5", "vinclozolin_10509"]


@pytest.mark.parametrize("name", FOUR)
def test_four_parameter_curves_as_recomputed(name: str) -> None:
    """Published dose–response sets (each file names its source), refitted to 50 digits: c, d, e, b are ours."""
    expected, result = reference(f"fpl_{name}")["expected"], of(f"fpl_{name}", "logistic4")
    assert_allclose(result.sse, expected["rss"], rtol=1e-10)
    for ours, theirs in {"lower": "c", "upper": "d", "midpoint": "e", "slope": "b"}.items():
        parameter = result.parameters[ours]
        assert_allclose(abs(parameter.estimate), abs(expected[theirs]), rtol=1e-7)
        assert_allclose(parameter.standard_error, expected[f"se_{theirs}"], rtol=1e-7)
    assert_allclose(result.parameters["midpoint"].interval(), expected["ci95_EC50_log"], rtol=1e-7)
    if "ci95_EC50_profile" in expected:
        assert_allclose(
            result.parameters["midpoint"].interval(method="profile"), expected["ci95_EC50_profile"], rtol=1e-6
        )
    # Theirs counts from the upper plateau down; ours from the plateau at no dose.
    rising = result.parameters["slope"].estimate > 0
    for percent in (10, 20, 90):
        share = 1 - percent / 100 if rising else percent / 100
        dose = result.dose_at(share)
        assert_allclose(dose.estimate, expected[f"EC{percent}"]["x"], rtol=1e-6)
        assert_allclose(dose.standard_error, expected[f"EC{percent}"]["se"], rtol=1e-6)


@pytest.mark.parametrize(
    ("name", "model", "other"),
    [
        ("ryegrass", "logistic5", "logistic5_mirrored"),
        ("spinach_curve4", "logistic5_mirrored", "logistic5"),
        ("spinach_curve5", "logistic5_mirrored", "logistic5"),
    ],
)
def test_five_parameter_curves_are_the_published_branch_under_its_own_name(name: str, model: str, other: str) -> None:
    """The two mirror images are different curves; SSE and EC50 say which was found. All three fall with dose."""
    expected, result = reference(f"fivepl_{name}")["expected"], of(f"fivepl_{name}", model)
    for curve in (result, of(f"fivepl_{name}", other)):
        assert curve.named["lower"] < curve.named["upper"] and curve.named["slope"] < 0
    assert of(f"fivepl_{name}", other).sse > result.sse * (1 + 1e-6)
    assert_allclose(result.sse, expected["rss"], rtol=1e-9)
    half = result.dose_at(0.5)
    assert_allclose(half.estimate, expected["EC50"], rtol=1e-7)
    assert_allclose(half.standard_error, expected["se_EC50"], rtol=1e-6)
    assert_allclose((half.lower, half.upper), expected["ci95_EC50_log"], rtol=1e-6)


@pytest.mark.parametrize(
    ("name", "model", "names"),
    [
        ("mm_puromycin_treated", "hyperbola", {"maximum": "Vmax", "half": "Km"}),
        ("decay_mono_indometh_3", "exponential_decay", {"start": "A", "rate": "k"}),
        ("rise_bod", "exponential_rise", {"plateau": "A", "rate": "k"}),
        ("decay_biexp_indometh_1", "exponential_decay_2",
         {"fast": "A1", "fast_rate": "k1", "slow": "A2", "slow_rate": "k2"}),
        ("decay_wtloss", "exponential_decay_plateau", {"plateau": "b0", "amplitude": "b1"}),
        ("cal_quadratic_curvature", "quadratic", {"c0": "b0", "c1": "b1", "c2": "b2"}),
        ("cal_quadratic_dnase_run2", "quadratic", {"c0": "b0", "c1": "b1", "c2": "b2"}),
        ("cal_quadratic_women", "quadratic", {"c0": "b0", "c1": "b1", "c2": "b2"}),
    ],
)  # fmt: skip
def test_library_models_find_their_published_fit_without_start_values(name: str, model: str, names: dict) -> None:
    """Each file names its source (Bates & Watts; Venables & Ripley; Draper & Smith and others)."""
    expected, result = reference(name)["expected"], of(name, model)
    assert_allclose(result.sse, expected["rss"], rtol=1e-9)
    for ours, theirs in names.items():
        assert_allclose(result.parameters[ours].estimate, expected[theirs], rtol=2e-7)
        assert_allclose(result.parameters[ours].standard_error, expected[f"se_{theirs}"], rtol=2e-6)


@pytest.mark.parametrize(
    ("name", "model", "names"),
    [
        ("mm_puromycin_treated", "hyperbola", {"maximum": "Vmax", "half": "Km"}),
        ("decay_mono_indometh_3", "exponential_decay", {"start": "A", "rate": "k"}),
        ("rise_bod", "exponential_rise", {"plateau": "A"}),
    ],
)
def test_profile_intervals_as_recomputed(name: str, model: str, names: dict) -> None:
    result = of(name, model)
    for ours, theirs in names.items():
        found = result.parameters[ours].interval(method="profile")
        assert_allclose(found, reference(name)["expected"]["ci95_profile"][theirs], rtol=1e-6)


def test_profile_interval_without_end_is_open() -> None:
    """BOD data (Bates & Watts 1988): at 98 % even an endless rate is not excluded, SSE(∞) − SSE < s²·t²."""
    rate = of("rise_bod", "exponential_rise").parameters["rate"]
    _, upper = rate.interval(method="profile", level=0.98)
    assert upper is None


@pytest.mark.parametrize(
    ("name", "formula"),
    [
        ("asymptotic_offset_co2_qn1", "Asym*(1 - exp(-exp(lrc)*(x - c0)))"),
        ("growth_gompertz_orange_tree2", "A*exp(-exp(-k*(x - ti)))"),
        ("growth_logistic_orange_tree3", "Asym/(1 + exp((xmid - x)/scal))"),
        ("growth_logistic_orange_pooled", "Asym/(1 + exp((xmid - x)/scal))"),
        ("logistic_log_dnase_run1", "Asym/(1 + exp((xmid - ln(x))/scal))"),
        ("pk_theophylline_1", "4.02*exp(lKe+lKa-lCl)*(exp(-exp(lKe)*x) - exp(-exp(lKa)*x))/(exp(lKa)-exp(lKe))"),
    ],
)
def test_own_equations_reach_their_published_fit(name: str, formula: str) -> None:
    """From start values ten percent off; each file names its source."""
    expected, model = reference(name)["expected"], custom(formula)
    result = of(name, model, start={parameter: 1.1 * expected[parameter] for parameter in model.names})
    assert_allclose(result.sse, expected["rss"], rtol=1e-9)
    for parameter in model.names:
        assert_allclose(result.parameters[parameter].standard_error, expected[f"se_{parameter}"], rtol=1e-5)


def test_reading_back_through_a_parabola_inverts_its_band() -> None:
    """Curvature example: inverse predictions recomputed to 50 digits, m readings or an exact signal."""
    result = of("cal_quadratic_curvature", "quadratic")
    for case in reference("cal_quadratic_curvature")["expected"]["inverse"]:
        back = result.read_back(case["y0"], n=case["m"] or math.inf)
        assert_allclose(back.estimate, case["x"], rtol=1e-9)
        assert_allclose(back.standard_error, case["se_delta"], rtol=1e-7)
        assert_allclose((back.lower, back.upper), case["ci95_inversion"], rtol=1e-7)


def test_reading_back_through_a_hyperbola_has_both_variances() -> None:
    """Puromycin (Bates & Watts 1988): the delta-method error with the reading's own variance."""
    result = of("mm_puromycin_treated", "hyperbola")
    for case in reference("mm_puromycin_treated")["expected"]["inverse"]:
        back = result.read_back([case["y0"]] * case["m"])
        assert_allclose(back.estimate, case["x"], rtol=1e-8)
        assert_allclose(back.standard_error, case["se_total"], rtol=1e-6)
        assert back.lower < back.estimate < back.upper


def test_shares_of_a_span_are_where_the_curve_has_them() -> None:
    result = of("fpl_ryegrass", "logistic4")
    start, end = result.predict([0.0, 1e9])
    for share in (0.1, 0.5, 0.9):
        dose = result.dose_at(share)
        assert_allclose(result.predict(dose.estimate), start + share * (end - start), rtol=1e-9)
    assert_allclose(result.predict(result.dose_at(4.0, of="response").estimate), 4.0, rtol=1e-9)
    assert "not reached" in result.dose_at(1e6, of="response").reason
