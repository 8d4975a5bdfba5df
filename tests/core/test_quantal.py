"""Counts of affected out of exposed against published answers, and what can be said when they say little."""

import numpy as np
import pytest
import statsmodels.api as sm
from numpy.testing import assert_allclose

from dosis.core import compare, fit, quantal
from dosis.core.quantal import QuantalFit
from tests.conftest import reference
from tests.core.test_curves import curve


def dose_of(data: dict) -> np.ndarray:
    logs = data.get("log10_dose") or data.get("log_dose") or data.get("neg_log10_dilution")
    return 10 ** np.array(logs) if logs else np.array(data.get("dose") or data["conc"], dtype=float)


CASES = [
    ("ld50_beetles_bliss", ("logit", "probit", "cloglog")),
    ("ld50_rotenone_finney", ("probit", "logit")),
    ("quantal_carrots_b1_decreasing", ("cloglog", "logit")),
    ("ed50_virus_titration", ("probit",)),
]


@pytest.mark.parametrize(("name", "link"), [(name, link) for name, links in CASES for link in links])
def test_lines_and_lethal_doses_as_published(name: str, link: str) -> None:
    """Bliss (1935), Finney (1971), Phelps (1982) and a virus titration; recomputed to many digits."""
    case = reference(name)
    data, expected = case["data"], case["expected"][link]
    result = quantal.fit(dose_of(data), data["affected"], data["total"], link=link)
    assert_allclose((result.intercept, result.slope), (expected["intercept"], expected["slope"]), rtol=1e-9)
    assert_allclose(result.standard_errors, (expected["se_intercept"], expected["se_slope"]), rtol=1e-8)
    assert_allclose(result.deviance, expected["deviance"], rtol=1e-9)
    assert_allclose(result.pearson, expected["pearson_chi2"], rtol=1e-8)
    assert_allclose(result.heterogeneity, expected["heterogeneity_h"], rtol=1e-8)
    for share, key in ((0.1, "LD10"), (0.5, "LD50"), (0.9, "LD90")):
        if key not in expected or result.widening > 1:
            continue
        block = expected[key]
        for method, place in (("delta", "delta_on_log"), ("fieller", "fieller"), ("profile", "profile")):
            if f"ci95_dose_{place}" in block:
                found = result.dose_for(share, method=method)
                assert_allclose(found.estimate, block["dose"], rtol=1e-8)
                assert_allclose((found.lower, found.upper), block[f"ci95_dose_{place}"], rtol=1e-7)


@pytest.mark.parametrize("sex", ["M", "F"])
def test_budworms_by_sex(sex: str) -> None:
    """Venables & Ripley, Modern Applied Statistics with S, 7.2."""
    case = reference("ld50_budworm_sexes")
    rows = [i for i, s in enumerate(case["data"]["sex"]) if s == sex]
    dose, affected, total = (np.array(case["data"][key])[rows] for key in ("dose", "affected", "total"))
    result, expected = quantal.fit(dose, affected, total, link="logit"), case["expected"][sex]["logit"]
    assert_allclose(result.slope, expected["slope"], rtol=1e-9)
    assert_allclose(result.dose_for(0.5).estimate, expected["LD50"]["dose"], rtol=1e-9)


@pytest.mark.parametrize("name", ["abbott_codling_gp5", "abbott_selenium_type4"])
@pytest.mark.parametrize("link", ["probit", "logit"])
def test_background_by_abbott_and_estimated(name: str, link: str) -> None:
    """Abbott (1925) and the natural response by maximum likelihood (Finney 1971); a poor fit widens the interval."""
    case = reference(name)
    data, expected = case["data"], case["expected"]
    control = (data["control_affected"], data["control_total"])
    args = (dose_of(data), data["affected"], data["total"])
    corrected = quantal.fit(*args, link=link, background="abbott", control=control)
    block = expected[f"abbott_then_{link}"]
    assert corrected.background == pytest.approx(expected["control_mortality"])
    assert_allclose(corrected.slope, block["slope"], rtol=1e-8)
    assert_allclose(corrected.deviance, block["deviance"], rtol=1e-8)
    if corrected.widening > 1 and block["LD50"].get("ci95_dose_fieller_h"):
        found = corrected.dose_for(0.5)
        assert_allclose((found.lower, found.upper), block["LD50"]["ci95_dose_fieller_h"], rtol=1e-7)
        assert "heterogeneity" in found.reason
    estimated = quantal.fit(*args, link=link, background="estimated", control=control)
    block = expected[f"natural_response_ml_{link}"]
    theirs = [block["intercept"], block["slope"], block["natural_response"]]
    assert_allclose(estimated.parameters, theirs, rtol=1e-6)
    assert_allclose(estimated.standard_errors[2], block["se_natural"], rtol=1e-5)
    assert_allclose(estimated.deviance, block["deviance"], rtol=1e-8)


@pytest.mark.parametrize(
    ("name", "trims"),
    [("spearman_karber_rotenone", ("0.15", "0.2")), ("spearman_karber_budworm_m", ("0.05", "0.1", "0.2"))],
)
def test_trimmed_spearman_karber(name: str, trims: tuple[str, ...]) -> None:
    """Hamilton, Russo & Thurston (1977); recomputed."""
    case = reference(name)
    for trim in trims:
        expected = case["expected"][f"trim_{trim}"]
        found = quantal.spearman_karber(*(case["data"][k] for k in ("dose", "affected", "total")), trim=float(trim))
        assert_allclose(found.estimate, expected["LD50"], rtol=1e-10)
        assert_allclose(found.log_standard_error, expected["se_log10"], rtol=1e-6)
        assert_allclose((found.lower, found.upper), expected["ci95_z"], rtol=1e-6)
        assert_allclose(found.monotone, expected["monotone_p"], rtol=1e-12)


@pytest.mark.parametrize("link", ["probit", "logit", "cloglog"])
def test_agrees_with_statsmodels_glm(link: str) -> None:
    """statsmodels GLM, binomial, as an independent reference on generated counts."""
    rng = np.random.default_rng(8)
    links = {"probit": sm.families.links.Probit(), "logit": sm.families.links.Logit(),
             "cloglog": sm.families.links.CLogLog()}  # fmt: skip
    for _ in range(20):
        dose = np.geomspace(1, 64, 6)
        exposed = rng.integers(8, 60, 6)
        share = 1 / (1 + (rng.uniform(4, 12) / dose) ** rng.uniform(1, 3))
        affected = rng.binomial(exposed, share)
        ours = quantal.fit(dose, affected, exposed, link=link)
        if not ours.converged:
            continue
        data = np.column_stack((affected, exposed - affected))
        theirs = sm.GLM(data, sm.add_constant(np.log10(dose)), family=sm.families.Binomial(links[link])).fit(tol=1e-13)
        assert ours.deviance <= theirs.deviance * (1 + 1e-9)
        assert_allclose(ours.parameters, theirs.params, rtol=1e-5, atol=1e-6)


def ld50(affected: list[int], **options: object) -> tuple[QuantalFit, object]:
    result = quantal.fit([1, 2, 4, 8], affected, [10] * 4, **options)
    return result, result.dose_for(0.5)


@pytest.mark.parametrize(
    ("affected", "lower", "upper", "said"),
    [
        ([0, 0, 10, 10], 2, 4, "Fewer than two doses"),
        ([0, 0, 0, 0], 8, None, "It lies above 8: 0 of 10 at 8"),
        ([10, 10, 10, 10], None, 1, "It lies below 1: 10 of 10 at 1"),
        ([0, 0, 1, 10], 4, 8, "Fewer than two doses"),
    ],
)
def test_without_partial_kills_the_doses_between_are_named(affected, lower, upper, said) -> None:
    result, found = ld50(affected)
    assert not result.converged
    assert (found.estimate, found.lower, found.upper) == (None, lower, upper)
    assert said in found.reason


def test_a_response_that_does_not_move_has_no_dose() -> None:
    assert "does not change" in ld50([5, 5, 5, 5])[1].reason
    assert "no end" in ld50([4, 5, 5, 6])[1].reason


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (([1, 2], [1, 2], [10]), "entries"), (([1, 2], [11, 2], [10, 10]), "Group 1 has 11 affected of 10"),
        (([1, -2], [1, 2], [10, 10]), "not below zero"), (([0, 2], [1, 2], [10, 10]), "2 different doses above zero"),
        (([1, 2], [1, np.nan], [10, 10]), "finite"),
    ],
)  # fmt: skip
def test_counts_that_make_no_sense_are_refused_in_words(args: tuple, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        quantal.fit(*args)


def test_a_trim_too_small_names_the_one_needed() -> None:
    with pytest.raises(ValueError, match=r"at least 0\.2 is needed"):
        quantal.spearman_karber([1, 2, 4], [2, 5, 9], [10, 10, 10])


def test_curves_compared_name_the_best_and_test_the_nested() -> None:
    """Quadratic against line: F and p of the published curvature example, recomputed."""
    case = reference("cal_quadratic_curvature")
    found = compare(["line", "quadratic"], case["data"]["x"], case["data"]["y"])
    test, expected = found.nested["line", "quadratic"], case["expected"]["f_test_vs_linear"]
    assert_allclose((test.statistic, test.p_value), (expected["F"], expected["p"]), rtol=1e-9)
    x, y, _ = curve("logistic4", noise=0.02)
    found = compare(["line", "logistic4", "logistic5", "power"], x, y)
    assert found.best == "logistic4"
    assert found.nested["logistic4", "logistic5"].p_value > 0.01
    with pytest.raises(ValueError, match="at least"):
        compare(["logistic4"], [1, 2], [1, 2])
    assert fit("line", x, y).aicc > found.fits["logistic4"].aicc


@pytest.mark.parametrize("link", ["probit", "logit", "cloglog"])
def test_many_lines_at_once_are_those_one_by_one(link: str) -> None:
    rng = np.random.default_rng(8)
    dose, exposed = np.array([1.0, 2, 4, 8, 16, 32]), np.array([20.0, 20, 18, 20, 19, 20])
    middle, slope = rng.uniform(0.4, 1.1, 300), rng.uniform(1.5, 6, 300)
    p = 1 / (1 + 10 ** (-slope[:, None] * (np.log10(dose) - middle[:, None])))
    affected = rng.binomial(exposed.astype(int), p)
    affected[0], affected[1] = 0, exposed
    affected[2] = [0, 0, 0, 20, 19, 20]
    many = quantal.fit_many(dose, affected, exposed, link=link)
    doses, lower, upper = many.dose_for(0.5)
    for i in range(300):
        alone = quantal.fit(dose, affected[i], exposed, link=link)
        assert many.converged[i] == alone.converged
        if alone.converged:
            assert_allclose((many.intercept[i], many.slope[i]), alone.parameters, rtol=1e-8, atol=1e-8)
            assert_allclose(np.sqrt(many.variances[:2, i]), alone.standard_errors, rtol=1e-7)
            assert_allclose((many.deviance[i], many.pearson[i]), (alone.deviance, alone.pearson), rtol=1e-7, atol=1e-9)
            ld50 = alone.dose_for(0.5)
            if not ld50.reason:
                assert_allclose((doses[i], lower[i], upper[i]), (ld50.estimate, ld50.lower, ld50.upper), rtol=1e-7)
        else:
            assert np.isnan(many.slope[i])
    assert not many.converged[:3].any()
    assert many.converged.mean() > 0.9


@pytest.mark.parametrize(
    ("dose", "affected", "exposed", "said"),
    [
        ([1, 2], [[1, 2, 3]], [5, 5], "they do not fit"),
        ([1, 2], [[1, 6]], [5, 5], "no more than exposed"),
        ([0, 2], [[1, 2]], [5, 5], "above zero"),
        ([2, 2], [[1, 2]], [5, 5], "2 different doses"),
    ],
)
def test_many_counts_that_make_no_sense_are_refused(dose: list, affected: list, exposed: list, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        quantal.fit_many(dose, affected, exposed)


@pytest.mark.parametrize("link", ["probit", "logit", "cloglog"])
def test_agrees_with_an_independent_generalized_linear_model(link: str) -> None:
    """statsmodels GLM, expected information, on generated counts."""
    links = {
        "probit": sm.families.links.Probit(), "logit": sm.families.links.Logit(), "cloglog": sm.families.links.CLogLog()
    }  # fmt: skip
    rng = np.random.default_rng(14)
    dose, exposed = np.array([1.0, 2, 3, 5, 8, 13]), np.array([25, 30, 28, 30, 22, 30])
    for _ in range(5):
        affected = rng.binomial(exposed, 1 / (1 + (4 / dose) ** 2.2))
        ours = quantal.fit(dose, affected, exposed, link=link)
        counts = np.column_stack((affected, exposed - affected))
        theirs = sm.GLM(counts, sm.add_constant(np.log10(dose)), family=sm.families.Binomial(links[link])).fit(
            tol=1e-14
        )
        assert_allclose(ours.parameters, theirs.params, rtol=1e-6)
        assert_allclose(ours.standard_errors, theirs.bse, rtol=1e-5)
        assert_allclose((ours.deviance, ours.pearson), (theirs.deviance, theirs.pearson_chi2), rtol=1e-6)


def test_the_correction_for_controls_that_die_too() -> None:
    """Abbott (1925), J. Econ. Entomol. 18, 265."""
    case = reference("abbott_formula_a")
    assert_allclose(quantal.abbott(case["data"]["observed"], case["data"]["control"]), case["expected"]["clamped"])
    with pytest.raises(ValueError, match="All of the controls were affected"):
        quantal.fit([1, 2, 4], [3, 4, 5], [5, 5, 5], background="abbott", control=(5, 5))
