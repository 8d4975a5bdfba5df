"""What counts bound, by themselves and through a line with an estimated background, against exact answers."""

import math

import numpy as np
import pytest
from scipy import optimize, special, stats

from dosis.core import quantal
from dosis.core.quantal.shares import same_share


@pytest.mark.parametrize(
    ("share", "lower", "upper"), [(0.5, 3.2, 6.4), (0.1, None, 6.4), (0.9, 3.2, None), (0.2, 3.2, 6.4)]
)  # fmt: skip
def test_how_far_a_share_is_bounded_depends_on_the_share(
    share: float, lower: float | None, upper: float | None
) -> None:
    """0 of 20 have an upper limit of 1 − 0.025^(1/20) = 16.8 % (Clopper & Pearson 1934): no bound for a tenth."""
    found = quantal.fit([1.6, 3.2, 6.4], [0, 0, 20], [20, 20, 20]).dose_for(share)
    assert (found.estimate, found.lower, found.upper) == (None, lower, upper)
    assert "97.5 % confidence" in found.reason and "exact binomial" in found.reason
    few = quantal.fit([1, 2, 4], [0, 0, 3], [3, 3, 3]).dose_for(0.5)
    assert (few.lower, few.upper) == (None, None) and "Too few were exposed" in few.reason


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
def test_the_profile_with_an_estimated_background_is_that_of_the_whole_model(share: float) -> None:
    """Against the likelihood maximized by scipy over slope and background, with the line held through the end."""
    dose, dead, n = np.array([0, 1, 2, 4, 8, 16.0]), np.array([4, 5, 9, 17, 26, 30]), np.array([40.0] + [30.0] * 5)
    fit = quantal.fit(dose, dead, n, background="estimated")
    found = fit.dose_for(share, 0.95, "profile")
    target = float(stats.norm.ppf(share))

    def least(at: float) -> float:
        def deviance(theta: np.ndarray) -> float:
            c = 1 / (1 + np.exp(-theta[1]))
            with np.errstate(divide="ignore"):
                p = c + (1 - c) * stats.norm.cdf(target + theta[0] * (np.log10(dose) - at))
            p = np.clip(p, 1e-12, 1 - 1e-12)
            return -2 * float((special.xlogy(dead, p) + special.xlogy(n - dead, 1 - p)).sum())

        exactly = {"xatol": 1e-9, "fatol": 1e-10, "maxiter": 4000}
        return float(optimize.minimize(deviance, [2.5, -2.0], method="Nelder-Mead", options=exactly).fun)

    floor = least(float(found.log_estimate or 0))
    assert found.lower is not None and found.upper is not None
    for end in (found.lower, found.upper):
        assert least(math.log10(end)) - floor == pytest.approx(3.841459, abs=2e-4)


@pytest.mark.parametrize(
    ("one", "other"), [((3, 20), (9, 20)), ((0, 20), (5, 30)), ((1, 12), (1, 12)), ((4, 10), (0, 40))]
)  # fmt: skip
def test_same_share_is_fishers_exact_test(one: tuple[int, int], other: tuple[int, int]) -> None:
    table = [[one[0], one[1] - one[0]], [other[0], other[1] - other[0]]]
    assert same_share(one, other) == pytest.approx(stats.fisher_exact(table).pvalue, rel=1e-9)
    with pytest.raises(ValueError, match="not whole counts"):
        same_share((1.5, 20), other)
