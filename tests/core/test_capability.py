"""Capability of detection and Mandel's test against their definitions, an exact noncentral t, and simulation."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core import fit
from dosis.core.limits import capability, mandel
from tests.conftest import reference


@pytest.mark.parametrize("readings", [1, 3])
def test_critical_and_detectable_values_follow_their_formulae(readings: int) -> None:
    """ISO 11843-2:2000, 5.1, on the cadmium line of EURACHEM/CITAC QUAM, example A5."""
    data = reference("cal_linear_quam_cadmium")["data"]
    x, y = np.array(data["x"], dtype=float), np.array(data["y"], dtype=float)
    found = capability(fit("line", x, y), readings)
    slope, intercept = np.polyfit(x, y, 1)
    df = x.size - 2
    s = math.sqrt(((y - intercept - slope * x) ** 2).sum() / df)
    root = math.sqrt(1 / readings + 1 / x.size + x.mean() ** 2 / ((x - x.mean()) ** 2).sum())
    t = stats.t.ppf(0.95, df)
    assert_allclose(found.critical, t * s / slope * root, rtol=1e-9)
    assert_allclose(found.signal, intercept + t * s * root, rtol=1e-9)
    assert stats.nct.cdf(t, df, found.delta) == pytest.approx(0.05, abs=1e-6)
    assert_allclose(found.detectable, found.delta * s / slope * root, rtol=1e-9)


def test_both_risks_are_what_they_are_said_to_be() -> None:
    """2,000 calibrations: nothing is found in 95 % of blanks, and something in 95 % of what is just detectable."""
    rng = np.random.default_rng(11843)
    x = np.repeat([0.0, 1, 2, 4, 6, 8], 2)
    s, missed, wrong, n = 0.05, 0, 0, 2000
    design = fit("line", x, 0.2 + 0.3 * x + np.where(np.arange(12) % 2, 0.05, -0.05))
    size = capability(design, 2)
    true = size.detectable * (s / design.rmse)
    for _ in range(n):
        line = fit("line", x, 0.2 + 0.3 * x + rng.normal(0, s, x.size))
        limit = capability(line, 2).signal
        wrong += 0.2 + rng.normal(0, s, 2).mean() > limit
        missed += 0.2 + 0.3 * true + rng.normal(0, s, 2).mean() <= limit
    assert wrong / n == pytest.approx(0.05, abs=0.015)
    assert missed / n == pytest.approx(0.05, abs=0.015)


def test_mandels_test_is_that_of_the_residual_variances() -> None:
    """ISO 8466-1:1990, 4.1.3: DS² = (N − 2)s₁² − (N − 3)s₂², F = DS²/s₂²."""
    x = np.arange(1.0, 11.0)
    y = 0.1 + 0.5 * x - 0.004 * x**2 + np.array([3, -4, 1, 5, -2, -3, 4, -1, 2, -5]) * 1e-3
    found = mandel(fit("line", x, y))
    one, two = (((y - np.polyval(np.polyfit(x, y, k), x)) ** 2).sum() / (10 - 1 - k) for k in (1, 2))
    assert_allclose(found.statistic, (8 * one - 7 * two) / two, rtol=1e-8)
    assert_allclose(found.p_value, stats.f.sf(found.statistic, 1, 7), rtol=1e-8)
    assert "4 different" in mandel(fit("line", [1.0, 2, 3, 3], [1.0, 2.1, 2.9, 3])).reason


def test_curves_weights_and_flat_lines_are_refused() -> None:
    x, y = [1.0, 2, 3, 4, 5], [1.1, 2.0, 3.2, 3.9, 5.1]
    with pytest.raises(ValueError, match="count alike"):
        capability(fit("quadratic", x, y))
    with pytest.raises(ValueError, match="count alike"):
        capability(fit("line", x, y, weights="1/x"))
    with pytest.raises(ValueError, match="slope and a spread"):
        capability(fit("line", x, [1.0] * 5))
