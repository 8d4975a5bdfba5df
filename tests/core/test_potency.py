"""Relative potency against published assays: parallel lines, slope ratio, parallel curves."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import optimize, special

from dosis.core import potency, quantal
from tests.conftest import reference

LINES = ("parallel_line_auxins_3_7", "parallel_line_toothgrowth")


@pytest.mark.parametrize("name", LINES)
@pytest.mark.parametrize("error", ["residual", "pure"])
def test_parallel_line_potency_and_its_tests(name: str, error: str) -> None:
    """Streibig (1987), Weed Research 27, 337; Crampton (1947), J. Nutrition 33, 491; recomputed with exact Fieller."""
    case = reference(name)
    data, expected = case["data"], case["expected"]
    found = potency.parallel_lines(data["dose"], data["y"], data["group"], error=error)[2]
    key = "potency_pure_error" if error == "pure" else "potency_residual_of_parallel_model"
    assert_allclose(found.estimate, expected[key]["potency"], rtol=1e-10)
    assert_allclose(found.log_standard_error, expected[key]["se_ln_potency"], rtol=1e-9)
    assert_allclose((found.lower, found.upper), expected[key]["ci95_potency_fieller"], rtol=1e-9)
    assert_allclose(found.g, expected[key]["g"], rtol=1e-9)
    assert found.degrees_of_freedom == expected[key]["df"]
    tests = expected["parallelism_F_pure_error" if error == "pure" else "parallelism_F_vs_separate_lines"]
    assert_allclose((found.parallel.statistic, found.parallel.p_value), (tests["F"], tests["p"]), rtol=1e-8)
    bent = expected["nonlinearity_F_pure_error"]
    assert_allclose((found.linear.statistic, found.linear.p_value), (bent["F"], bent["p"]), rtol=1e-8)
    assert found.equivalent is not None
    assert_allclose(found.equivalent.estimate, expected["slope_test"] / expected["slope_standard"], rtol=1e-10)


def test_slopes_that_differ_are_not_equivalent_and_close_ones_need_not_be_proven() -> None:
    """Crampton (1947): the slopes differ by the F test, so their ratio cannot be within 0.8 to 1.25 for sure."""
    data = reference(LINES[1])["data"]
    found = potency.parallel_lines(data["dose"], data["y"], data["group"])[2]
    assert found.equivalent is not None
    assert found.parallel.p_value < 0.05
    assert not found.equivalent.passed
    rng = np.random.default_rng(5)
    dose = np.tile(np.repeat([1.0, 2, 4, 8], 6), 2)
    group = ["S"] * 24 + ["T"] * 24
    y = 10 + 5 * np.log(dose * np.repeat([1, 1.5], 24)) + 0.1 * rng.standard_normal(48)
    close = potency.parallel_lines(dose, y, group)["T"]
    assert close.equivalent.passed
    assert close.lower < 1.5 < close.upper


def test_slope_ratio_with_a_common_control() -> None:
    """Kratzer & Littell (2006), Poultry Science 85, 947; recomputed."""
    case = reference("slope_ratio_methionine")
    data, expected = case["data"], case["expected"]
    found = potency.slope_ratio(data["dose"], data["y"], data["product"], reference="DLM")
    assert set(found) == {"MHA"}
    assert_allclose(found["MHA"].estimate, expected["ratio"], rtol=1e-8)
    assert_allclose(found["MHA"].standard_error, expected["se_ratio"], rtol=1e-8)
    assert_allclose((found["MHA"].lower, found["MHA"].upper), expected["ci95_fieller"], rtol=1e-8)
    assert_allclose(found["MHA"].variance * 4, expected["rss"], rtol=1e-8)


def test_parallel_logistic_curves() -> None:
    """Streibig (1998), Pesticide Science 55, 137; recomputed: potency of assay 5 relative to assay 4."""
    case = reference("ftest_spinach_diuron_assays")
    data, expected = case["data"], case["expected"]
    wald = potency.parallel_curves(data["x"], data["y"], data["group"])
    found, want = wald.potencies[2], expected["relative_potency_parallel"]
    assert_allclose(found.estimate, want["value"], rtol=1e-7)
    assert_allclose((found.lower, found.upper), want["ci95_log"], rtol=1e-6)
    assert_allclose(found.parallel.statistic, expected["F_parallel_vs_all_separate"]["F"], rtol=1e-7)
    profile = potency.parallel_curves(data["x"], data["y"], data["group"], method="profile").potencies[2]
    assert_allclose((profile.lower, profile.upper), want["ci95_profile"], rtol=1e-6)


def test_a_diluted_reference_has_the_potency_of_its_dilution() -> None:
    rng = np.random.default_rng(2)
    dose = np.repeat(np.geomspace(0.1, 100, 7), 3)
    y = 5 + 90 / (1 + (dose / 3) ** -1.2) + rng.standard_normal(21)
    both = potency.parallel_curves([*dose, *(4 * dose)], [*y, *y], ["S"] * 21 + ["T"] * 21)
    assert_allclose(both.potencies["T"].estimate, 0.25, rtol=1e-6)
    assert both.potencies["T"].parallel.statistic == pytest.approx(0, abs=1e-6)


def test_parallel_logit_lines_of_counts() -> None:
    """Venables & Ripley (2002), MASS, 7.2: tobacco budworms; recomputed, there on log2 dose."""
    case = reference("ld50_budworm_sexes")
    data, expected = case["data"], case["expected"]["parallel_logit_log2_dose"]
    found = quantal.relative_potency(data["dose"], data["affected"], data["total"], data["sex"], reference="F")["M"]
    two = np.log10(2)
    assert_allclose(found.log_estimate, expected["log_potency"] * two, rtol=1e-7)
    assert_allclose(found.log_standard_error, expected["se_log_potency"] * two, rtol=1e-6)
    assert_allclose((found.lower, found.upper), expected["ci95_potency_fieller"], rtol=1e-6)
    assert_allclose(found.slope, expected["slope"] / two, rtol=1e-7)
    assert_allclose((found.deviance, found.degrees_of_freedom), (expected["deviance"], expected["df"]), rtol=1e-7)
    assert_allclose((found.likelihood_ratio, found.p_value),
                    (expected["parallelism_lr_chi2"], expected["parallelism_p"]), rtol=1e-6)  # fmt: skip


def test_a_known_background_is_in_the_likelihood_of_parallel_lines() -> None:
    """Against scipy's minimizer of the same likelihood, p = b + (1 − b)·Φ(line), Finney (1971), Probit Analysis, ch. 7.

    The counts are those of Venables & Ripley's budworms with a tenth of the survivors added to the affected.
    """
    data = reference("ld50_budworm_sexes")["data"]
    dose, n, sex = np.array(data["dose"], dtype=float), np.array(data["total"], dtype=float), list(data["sex"])
    r = np.array(data["affected"], dtype=float)
    r = r + 0.1 * (n - r)
    base = np.where(np.array(sex) == "F", 0.1, 0.05)
    found = quantal.relative_potency(dose, r, n, sex, reference="F", link="probit", background=base)["M"]
    female = (np.array(sex) == "F").astype(float)

    def unlikely(p: np.ndarray) -> float:
        share = base + (1 - base) * special.ndtr(p[0] * female + p[1] * (1 - female) + p[2] * np.log10(dose))
        return -float((special.xlogy(r, share) + special.xlogy(n - r, 1 - share)).sum())

    best = optimize.minimize(unlikely, [-1.0, -1.0, 1.0], method="Nelder-Mead", options={"xatol": 1e-10, "fatol": 1e-12,
                             "maxiter": 4000, "maxfev": 8000}).x  # fmt: skip
    assert_allclose(found.log_estimate, (best[1] - best[0]) / best[2], rtol=1e-5)
    assert_allclose(found.slope, best[2], rtol=1e-5)
    with pytest.raises(ValueError, match="from 0 to below 1"):
        quantal.relative_potency(dose, r, n, sex, background=1.0)


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (lambda: potency.parallel_lines([1, 2], [1, 2], ["a", "a"]), "needs 2 preparations"),
        (lambda: potency.parallel_lines([0, 2, 1, 2], [1, 2, 3, 4], [*"aabb"]), "above zero here; there is 0"),
        (lambda: potency.parallel_lines([1, 2, 1, 1], [1, 2, 3, 4], [*"aabb"]), "at least 2 different doses"),
        (lambda: potency.slope_ratio([0, 1, 2, 3], [1, 2, 3, 4], [*"caaa"]), "at least 2 preparations with a dose"),
        (lambda: potency.parallel_curves([1, 2], [1, 2], ["a", "b"]), "needs at least 4 readings"),
    ],
)
def test_assays_that_say_nothing_are_refused_in_words(call: object, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        call()
