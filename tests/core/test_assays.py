"""Assays in blocks, their analysis of variance, equivalence of shapes, and one potency from several assays."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core import potency
from dosis.core.distributions import f_noncentrality
from tests.conftest import reference

# Corticotrophin in rats, Ph. Eur. 5.3, 5.1.1 (from memory; the means of the groups are as printed there).
ADRENAL = {
    ("S", 0.25): (300, 310, 330, 290, 364, 328, 390, 360, 342, 306),
    ("S", 1.0): (289, 221, 267, 236, 250, 231, 229, 269, 233, 259),
    ("T", 0.25): (310, 290, 360, 341, 321, 370, 303, 334, 295, 315),
    ("T", 1.0): (230, 210, 280, 261, 241, 290, 223, 254, 216, 235),
    ("U", 0.25): (250, 268, 273, 240, 307, 270, 317, 312, 320, 265),
    ("U", 1.0): (236, 213, 283, 269, 251, 294, 223, 250, 216, 265),
}


def flat(cells: dict[tuple[str, float], tuple[int, ...]], without: str = "") -> tuple[list, list, list]:
    rows = [(dose, y, name) for (name, dose), values in cells.items() if name != without for y in values]
    return [r[0] for r in rows], [r[1] for r in rows], [r[2] for r in rows]


def test_the_pharmacopoeias_completely_randomized_assay() -> None:
    """Ph. Eur. 5.3, 5.1.1: sums of squares 6256.6 and 8218.2, potency of T 1.11 (0.82 to 1.51) – from memory."""
    table = potency.analysis_of_variance(*flat(ADRENAL))
    assert [row.name for row in table.sources] == [
        "Preparations", "Regression", "Non-parallelism", "Treatments", "Residual error", "Total"
    ]  # fmt: skip
    assert round(table["Preparations"].sum_of_squares, 1) == 6256.6
    assert round(table["Non-parallelism"].sum_of_squares, 1) == 8218.2
    assert (table["Non-parallelism"].degrees_of_freedom, table.error.degrees_of_freedom) == (2, 54)
    assert table["Non-parallelism"].p_value is not None and table["Non-parallelism"].p_value < 0.05
    found = potency.parallel_lines(*flat(ADRENAL, without="U"), error="pure")["T"]
    assert round(found.estimate, 2) == 1.11
    assert (round(found.lower or 0, 2), round(found.upper or 0, 2)) == (0.82, 1.51)


def blocked_assay(rng: np.random.Generator, blocks: int = 5) -> dict[str, np.ndarray]:
    """Two preparations at 4 doses, once in each block; the sample is 1.4 times as strong."""
    prep, level, block = (each.ravel() for each in np.meshgrid([0, 1], [1.0, 2, 4, 8], range(blocks), indexing="ij"))
    shift = rng.normal(0, 8, blocks)
    y = 40 + 12 * np.log(level * np.where(prep == 1, 1.4, 1.0)) + shift[block] + rng.normal(0, 1, prep.size)
    return {"dose": level, "y": y, "prep": prep, "block": block}


def test_sums_of_squares_of_a_balanced_assay_in_blocks_follow_the_tabulated_formulae() -> None:
    """Ph. Eur. 5.3, 3.2.3: with totals P and linear contrasts L of equally spaced log doses, d = 4 doses, n blocks."""
    rng = np.random.default_rng(31)
    a = blocked_assay(rng)
    table = potency.analysis_of_variance(a["dose"], a["y"], list(a["prep"]), blocks=[a["block"]])
    y = a["y"].reshape(2, 4, 5)
    n, d, h = 5, 4, 2
    mean = y.sum() ** 2 / (n * d * h)
    totals, contrasts = y.sum(axis=(1, 2)), (y.sum(axis=2) * np.array([-1.5, -0.5, 0.5, 1.5])).sum(axis=1)
    scale = 12 / (n * (d**3 - d))
    prep = (totals**2).sum() / (n * d) - mean
    regression = scale * contrasts.sum() ** 2 / h
    parallel = scale * (contrasts**2).sum() - regression
    treatments = (y.sum(axis=2) ** 2).sum() / n - mean
    blocks = (y.sum(axis=(0, 1)) ** 2).sum() / (d * h) - mean
    total = ((y - y.mean()) ** 2).sum()
    want = {
        "Blocks": (blocks, 4), "Preparations": (prep, 1), "Regression": (regression, 1),
        "Non-parallelism": (parallel, 1),
        "Non-linearity": (treatments - prep - regression - parallel, 4), "Treatments": (treatments, 7),
        "Residual error": (total - blocks - treatments, 28), "Total": (total, 39),
    }  # fmt: skip
    assert {row.name for row in table.sources} == set(want)
    for name, (squares, df) in want.items():
        assert_allclose(table[name].sum_of_squares, squares, rtol=1e-9, atol=1e-9)
        assert table[name].degrees_of_freedom == df
    row = table["Regression"]
    assert_allclose(row.p_value, stats.f.sf(row.f, 1, 28), rtol=1e-9)


def test_blocks_are_taken_off_the_error_of_lines_and_curves() -> None:
    rng = np.random.default_rng(32)
    a = blocked_assay(rng)
    without = potency.parallel_lines(a["dose"], a["y"], list(a["prep"]))[1]
    found = potency.parallel_lines(a["dose"], a["y"], list(a["prep"]), blocks=[a["block"]])[1]
    assert_allclose(found.estimate, without.estimate, rtol=1e-9)  # balanced: the blocks are orthogonal to all else
    assert found.degrees_of_freedom == without.degrees_of_freedom - 4
    assert found.variance < 3 < without.variance
    assert found.lower < 1.4 < found.upper
    table = potency.analysis_of_variance(a["dose"], a["y"], list(a["prep"]), blocks=[a["block"]])
    pure = potency.parallel_lines(a["dose"], a["y"], list(a["prep"]), blocks=[a["block"]], error="pure")[1]
    assert_allclose(pure.variance, table.error.mean_square, rtol=1e-9)
    assert_allclose(pure.parallel.p_value, table["Non-parallelism"].p_value, rtol=1e-8)
    assert_allclose(pure.own_parallel.p_value, pure.parallel.p_value, rtol=1e-8)  # of two preparations the same

    dose = np.tile(np.geomspace(0.1, 100, 8), 6)
    block, prep = np.repeat([0, 1, 2], 16), np.tile(np.repeat([0, 1], 8), 3)
    y = 5 + 90 / (1 + (dose * np.where(prep == 1, 2.0, 1.0) / 3) ** -1.2) + 10.0 * block + rng.normal(0, 1, 48)
    curves = potency.parallel_curves(dose, y, list(prep), blocks=[block])
    plain = potency.parallel_curves(dose, y - 10.0 * block, list(prep))
    assert_allclose(curves.potencies[1].estimate, plain.potencies[1].estimate, rtol=0.02)
    assert curves.potencies[1].lower < 2 < curves.potencies[1].upper
    assert curves.potencies[1].parallel.degrees_of_freedom[1] == plain.potencies[1].parallel.degrees_of_freedom[1] - 2


def test_doses_that_stand_each_in_a_block_of_its_own_are_refused() -> None:
    dose, y = [1, 2, 4, 1, 2, 4], [1, 2, 3, 2, 3, 4.1]
    with pytest.raises(ValueError, match="cannot be told apart"):
        potency.parallel_lines(dose, y, list("SSSTTT"), blocks=[np.array([0, 1, 2, 3, 4, 5])])
    with pytest.raises(ValueError, match="cannot be told apart"):
        potency.parallel_lines(dose, y, list("SSSTTT"), blocks=[np.array([0, 0, 0, 1, 1, 1])])


def test_a_slope_ratio_assay_tests_blanks_and_intersection() -> None:
    """Ph. Eur. 5.3, 3.3.3, by the same sums from scratch; Kratzer & Littell (2006) has one reading a dose."""
    rng = np.random.default_rng(33)
    prep = np.repeat(["S", "T"], 8).tolist() + ["S"] * 4
    dose = np.concatenate((np.tile(np.repeat([1.0, 2, 3, 4], 2), 2), np.zeros(4)))
    slope = np.where(np.array(prep) == "T", 3.0, 2.0)
    y = 10 + slope * dose + rng.normal(0, 0.3, 20)
    table = potency.analysis_of_variance(dose, y, prep, kind="slopes")
    assert {row.name: row.degrees_of_freedom for row in table.sources} == {
        "Regression": 2, "Blanks": 1, "Intersection": 1, "Non-linearity": 4, "Treatments": 8, "Residual error": 11,
        "Total": 19,
    }  # fmt: skip
    assert table["Blanks"].p_value > 0.01
    high = potency.analysis_of_variance(dose, y + 3 * (dose == 0), prep, kind="slopes")
    assert high["Blanks"].p_value < 0.001  # a blank that the lines do not come from
    assert_allclose(high.error.sum_of_squares, table.error.sum_of_squares, rtol=1e-9)
    one = reference("slope_ratio_methionine")["data"]
    single = potency.analysis_of_variance(one["dose"], one["y"], one["product"], kind="slopes")
    assert single.error.degrees_of_freedom == 0 and single["Regression"].p_value is None


def test_plateaus_and_the_whole_shape_are_held_against_margins() -> None:
    rng = np.random.default_rng(34)
    dose = np.tile(np.repeat(np.geomspace(0.05, 50, 9), 4), 2)
    prep = ["S"] * 36 + ["T"] * 36
    shape = 5 + 90 / (1 + (dose * np.repeat([1, 1.5], 36) / 2) ** -1.3)
    same = potency.parallel_curves(dose, shape + rng.normal(0, 2, 72), prep).potencies["T"].alike
    assert [each.of for each in same] == ["slope", "lower", "upper", "composite"]
    assert all(each.passed for each in same)
    lower = np.repeat([0.0, 1.0], 36) * 30 * (1 - (shape - 5) / 90)
    bad = {each.of: each for each in potency.parallel_curves(dose, shape + lower + rng.normal(0, 2, 72), prep)
           .potencies["T"].alike}  # fmt: skip
    assert not bad["lower"].passed and not bad["composite"].passed
    assert bad["upper"].passed
    assert bad["lower"].estimate == pytest.approx(30 / 90, abs=0.06)


@pytest.mark.parametrize("probability", [0.05, 0.95])
def test_the_noncentrality_of_an_f_is_that_of_the_distribution(probability: float) -> None:
    found = f_noncentrality(3.4, 3, 40, probability)
    assert stats.ncf.cdf(3.4, 3, 40, found) == pytest.approx(probability, abs=1e-8)
    least = float(stats.f.ppf(probability, 3, 40))  # the smallest F that speaks for any noncentrality at all
    assert (
        f_noncentrality(0.999 * least, 3, 40, probability) == 0.0 < f_noncentrality(1.001 * least, 3, 40, probability)
    )


def test_weighted_assays_have_the_variance_of_their_weights() -> None:
    """Ph. Eur. 5.3, 6.2."""
    m, s = [0.10, 0.20, 0.16], [0.05, 0.10, 0.08]
    found = potency.combine(m, s, [20, 15, 18], way="weighted")
    w = 1 / np.square(s)
    assert_allclose(math.log(found.estimate), np.average(m, weights=w), rtol=1e-12)
    assert_allclose(found.log_standard_error, w.sum() ** -0.5, rtol=1e-12)
    half = stats.t.ppf(0.975, 53) * found.log_standard_error
    assert_allclose(found.upper / found.estimate, math.exp(half), rtol=1e-9)
    assert_allclose(found.p_value, stats.chi2.sf((w * (m - np.average(m, weights=w)) ** 2).sum(), 2), rtol=1e-9)


def test_semi_weighted_assays_have_the_variance_between_them() -> None:
    """Cochran's semi-weighted mean (Ph. Eur. 5.3, 6.3) with the variance of Hartung and Knapp (2001)."""
    m, s = [0.0, 0.5, 0.1, 0.6], [0.05, 0.06, 0.10, 0.05]
    found = potency.combine(m, s, [20, 15, 18, 16])
    between = np.var(m, ddof=1) - np.mean(np.square(s))
    w = 1 / (np.square(s) + between)
    mean = np.average(m, weights=w)
    error = math.sqrt((w * (np.array(m) - mean) ** 2).sum() / 3 / w.sum())
    assert found.way == "semi-weighted"
    assert_allclose(found.between**2, between, rtol=1e-12)
    assert_allclose((math.log(found.estimate), found.log_standard_error), (mean, error), rtol=1e-12)
    assert_allclose(np.log(found.upper / found.estimate), stats.t.ppf(0.975, 3) * error, rtol=1e-9)
    plain = potency.combine(m, s, [20, 15, 18, 16], way="unweighted")
    assert_allclose(math.log(plain.estimate), np.mean(m), rtol=1e-12)
    assert_allclose(plain.log_standard_error, stats.sem(m), rtol=1e-12)
    exact = potency.combine([0.1, 0.1], [0.1, 0.1], [9, 9])
    assert exact.between == 0 and exact.log_standard_error == pytest.approx(0.1 / math.sqrt(2))
    with pytest.raises(ValueError, match="at least 2"):
        potency.combine([0.1], [0.1], [5])
    with pytest.raises(ValueError, match="no standard error"):
        potency.combine([0.1, 0.2], [0.1, math.inf], [5, 5])


@pytest.mark.parametrize(("between", "assays"), [(0.0, 3), (0.05, 3), (0.15, 2), (0.15, 6)])
def test_what_is_done_by_itself_covers_what_it_says_and_a_weighted_mean_need_not(between: float, assays: int) -> None:
    """2,000 means of assays with an error of 0.075 each, known on 24 degrees of freedom."""
    rng, inside, weighted, n = np.random.default_rng(63), 0, 0, 2000
    for _ in range(n):
        m = rng.normal(0, between, assays) + rng.normal(0, 0.075, assays)
        s = 0.075 * np.sqrt(rng.chisquare(24, assays) / 24)
        found = potency.combine(m.tolist(), s.tolist(), [24] * assays)
        inside += found.lower <= 1 <= found.upper
        other = potency.combine(m.tolist(), s.tolist(), [24] * assays, way="weighted")
        weighted += other.lower <= 1 <= other.upper
    assert 0.935 <= inside / n <= 0.965
    assert (weighted / n < 0.75) is (between == 0.15)
