"""Tests against a control, each held against published tables, worked examples or scipy."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core.no_effect import cochran_armitage, dunnett, fisher, jonckheere, no_effect, no_effect_of_counts, williams
from dosis.core.no_effect.dunnett import _upper


@pytest.mark.parametrize(
    ("k", "df", "sides", "critical"),
    [(2, 10, 2, 2.57), (4, 20, 2, 2.65), (5, 60, 2, 2.58), (3, 15, 1, 2.24), (4, 20, 1, 2.30), (5, 60, 1, 2.28)],
)  # fmt: skip
def test_critical_values_of_dunnetts_tables(k: int, df: int, sides: int, critical: float) -> None:
    """Dunnett (1955), table 1b, and (1964), table 1a, at 5 %, to their two decimals – from memory."""
    loads = np.full(k, np.sqrt(0.5))
    assert _upper(critical + 0.006, loads, df, sides) < 0.05 < _upper(critical - 0.006, loads, df, sides)


def test_dunnetts_worked_example_and_scipy() -> None:
    """Blood counts of three groups of animals (Dunnett 1955, table 1, from memory), against scipy's own integration."""
    control = [7.40, 8.50, 7.20, 8.24, 9.84, 8.32]
    drugs = [9.76, 8.80, 7.68, 9.36], [12.80, 9.68, 12.16, 9.20, 10.55]
    for sides, alternative in ((2, "two-sided"), (1, "greater")):
        want = stats.dunnett(*drugs, control=control, alternative=alternative, random_state=np.random.default_rng(1))
        found = dunnett([control, *drugs], sides=sides)
        assert_allclose([t for t, _ in found], want.statistic, rtol=1e-9)
        assert_allclose([p for _, p in found], want.pvalue, atol=2e-3)


def test_one_treatment_is_students_t() -> None:
    rng = np.random.default_rng(3)
    for n in (3, 8, 40):
        a, b = rng.normal(0, 1, n), rng.normal(0.8, 1, n + 2)
        want = stats.ttest_ind(b, a)
        ((t, p),) = dunnett([a, b])
        assert_allclose((t, p), (want.statistic, want.pvalue), rtol=2e-6, atol=1e-9)
        assert_allclose(williams([a, b])[0][1], stats.ttest_ind(b, a, alternative="greater").pvalue, atol=3e-3)


@pytest.mark.parametrize(("k", "critical"), [(1, 1.645), (2, 1.716), (3, 1.739), (4, 1.750), (5, 1.756), (6, 1.760)])
def test_critical_values_of_williams_table(k: int, critical: float) -> None:
    """Williams (1971), table 1, α 0.05, infinite degrees of freedom – from memory. Unit spread by 4,000 readings."""
    n = 4000
    base = np.tile([-1.0, 1.0], n // 2)
    top = critical * np.sqrt(2 / n)
    groups = [base, *(base + top * (0 if i < k - 1 else 1) for i in range(k))]
    t, p = williams(groups)[-1]
    assert t == pytest.approx(critical, rel=2e-3)
    assert p == pytest.approx(0.05, abs=0.0025)


def test_means_that_fall_back_are_made_to_rise() -> None:
    """Amalgamated by hand: 12 and 10 of equal size become 11 each."""
    groups = [[9.0, 11.0], [11.0, 13.0], [9.0, 11.0], [14.0, 16.0]]
    s = np.sqrt(2.0)
    assert_allclose([t for t, _ in williams(groups)], [1 / s, 1 / s, 5 / s], rtol=1e-12)


def test_jonckheere_on_a_published_example() -> None:
    """Hollander & Wolfe, example 6.2, piecework and information: J 79, J* 2.02 without ties – from memory."""
    groups = [[40, 35, 38, 43, 44, 41], [38, 40, 47, 44, 40, 42], [48, 40, 45, 43, 46, 44]]
    j, z, p = jonckheere(groups)
    assert j == 79
    assert (j - 54) / np.sqrt((18 * 17 * 41 - 3 * 6 * 5 * 17) / 72) == pytest.approx(2.02, abs=0.005)
    assert z > 2.02 and p == pytest.approx(stats.norm.sf(z))
    turned = jonckheere(groups[::-1])
    assert turned[1] == pytest.approx(-z)
    rng = np.random.default_rng(6)  # the variance with ties, against all orders of the readings
    pool = np.array([1, 1, 2, 2, 2, 3, 4, 4, 5.0])
    drawn = [jonckheere(np.split(rng.permutation(pool), [3, 6]))[:2] for _ in range(4000)]
    assert np.std([z for _, z in drawn]) == pytest.approx(1.0, abs=0.03)


def test_fishers_exact_test_and_the_trend_of_shares() -> None:
    rng = np.random.default_rng(8)
    for _ in range(40):
        n1, n0 = rng.integers(1, 30, 2)
        r1, r0 = rng.integers(0, n1 + 1), rng.integers(0, n0 + 1)
        want = stats.fisher_exact([[r1, n1 - r1], [r0, n0 - r0]], alternative="greater").pvalue
        assert_allclose(fisher(int(r1), int(n1), int(r0), int(n0)), want, rtol=1e-9)
    r, n = np.array([1, 3, 5, 12]), np.array([20, 20, 18, 20])
    x = np.arange(4)
    hits = np.concatenate([np.r_[np.ones(a), np.zeros(b - a)] for a, b in zip(r, n, strict=True)])
    z, p = cochran_armitage(r, n)
    corr = np.corrcoef(hits, np.repeat(x, n))[0, 1]
    assert_allclose(z**2, corr**2 * n.sum(), rtol=1e-9)  # Armitage (1955): chi-square is N r²
    assert_allclose(p, stats.norm.sf(z), rtol=1e-9)


RISE = [[10.1, 9.9, 10.0, 10.2], [10.0, 10.1, 9.9, 10.2], [10.3, 10.1, 10.2, 10.4], [11.0, 11.2, 11.1, 10.9],
        [12.0, 12.2, 11.9, 12.1]]  # fmt: skip


@pytest.mark.parametrize("test", ["dunnett", "williams", "jonckheere"])
def test_noec_and_loec_lie_next_to_each_other(test: str) -> None:
    doses = [0.0, 1, 2, 4, 8]
    found = no_effect(doses, RISE, test)
    assert doses.index(found.loec) == doses.index(found.noec) + 1
    assert found.loec in (2, 4)
    assert [each.shown for each in found.tested][-2:] == [True, True]
    falling = no_effect(doses, [[-y for y in group] for group in RISE], test, falling=True)
    assert (falling.noec, falling.loec) == (found.noec, found.loec)
    none = no_effect(doses[:2], RISE[:2], test)
    assert (none.noec, none.loec) == (1, None)
    strong = no_effect([0.0, 4, 8], [RISE[0], *RISE[3:]], test)
    assert (strong.noec, strong.loec) == (None, 4)


def test_an_effect_that_goes_away_again_is_named_and_not_the_loec() -> None:
    broken = [RISE[0], RISE[4], RISE[1], RISE[3]]
    found = no_effect([0.0, 1, 2, 4], broken, "dunnett")
    assert (found.noec, found.loec, found.broken) == (2, 4, (1,))


def test_counts_by_both_tests_and_on_both_sides_of_the_risk() -> None:
    counts = [(1, 40), (2, 40), (3, 40), (14, 40), (33, 40)]
    doses = [0.0, 1, 2, 4, 8]
    exact = no_effect_of_counts(doses, counts, "fisher")
    assert (exact.noec, exact.loec) == (2, 4)
    trend = no_effect_of_counts(doses, counts, "cochran_armitage")
    assert trend.loec == 4 and trend.tested[0].p_value is None  # it had ended before
    p = exact.tested[2].p_value
    assert no_effect_of_counts(doses, counts, "fisher", alpha=p * 1.01).loec == 4
    assert no_effect_of_counts(doses, counts, "fisher", alpha=p * 0.99).loec == 8
    with pytest.raises(ValueError, match="must rise"):
        no_effect_of_counts([0.0, 2, 1], counts[:3], "fisher")
