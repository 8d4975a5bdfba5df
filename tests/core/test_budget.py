"""Uncertainty budgets against the worked examples of EURACHEM/CITAC and the formulae of the GUM."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import stats

from dosis.core import fit
from dosis.core.budget import Part, budget, leaning_on_levels, standard_uncertainty
from tests.conftest import reference


def test_a_calibration_standard_is_uncertain_as_in_example_a1() -> None:
    """EURACHEM/CITAC QUAM (2012), A1, from memory: cadmium, 100.28 mg of 0.9999 in 100 mL, 1002.7 mg/L, u 0.9."""
    purity = standard_uncertainty(0.0001, "rectangular")
    flask, filling, temperature = (
        standard_uncertainty(0.1, "triangular"), 0.02, standard_uncertainty(100 * 2.1e-4 * 4, "rectangular"),
    )  # fmt: skip
    assert (round(purity, 6), round(flask, 2), round(temperature, 2)) == (5.8e-05, 0.04, 0.05)
    volume = math.sqrt(flask**2 + filling**2 + temperature**2)
    assert round(volume, 2) == 0.07
    c = 1000 * 100.28 * 0.9999 / 100
    assert round(c, 1) == 1002.7
    shares = {"purity": round(purity, 6), "mass": 0.0005, "volume": round(volume, 2) / 100}  # as the guide rounds them
    found = budget([Part(name, c * share) for name, share in shares.items()])
    assert round(found.combined, 1) == 0.9
    assert found.shares[2] > found.shares[1] > found.shares[0]


def test_cadmium_release_is_uncertain_as_in_example_a5() -> None:
    """EURACHEM/CITAC QUAM (2012), A5, from memory: r 0.036 mg/dm², u 0.0034, of c₀ 0.26 ± 0.018, area, temperature."""
    r = 0.26 * 0.332 / 2.37
    parts = {"c0": 0.018 / 0.26, "volume": 0.0018 / 0.332, "area": 0.06 / 2.37, "acid": 0.0008, "time": 0.001,
             "temperature": 0.06}  # fmt: skip
    found = budget([Part(name, r * u) for name, u in parts.items()])
    assert round(r, 3) == 0.036
    assert found.combined == pytest.approx(0.0034, abs=1e-4)
    assert found.expanded == pytest.approx(0.007, abs=3e-4)
    assert dict(zip(parts, found.shares, strict=True))["c0"] == max(found.shares)


def test_effective_degrees_of_freedom_are_those_of_welch_and_satterthwaite() -> None:
    """GUM (JCGM 100:2008), G.4.1 and the example of H.1: ν_eff 16 from 25, 5.8, 18 … – here by the formula alone."""
    found = budget([Part("a", 3.0, 5), Part("b", 4.0, 12), Part("c", 1.0)], factor=None)
    df = 26.0**2 / (81 / 5 + 256 / 12)
    assert_allclose(found.degrees_of_freedom, df)
    assert_allclose(found.factor, stats.t.ppf(0.975, df), rtol=1e-9)
    assert_allclose(found.expanded, found.factor * math.sqrt(26))
    assert budget([Part("a", 1.0)]).factor == 2
    with pytest.raises(ValueError, match="above zero"):
        budget([Part("a", 0.0)])


@pytest.mark.parametrize("model", ["line", "quadratic"])
def test_levels_that_are_uncertain_go_through_the_curve(model: str) -> None:
    """QUAM A5's cadmium line: against 6,000 curves whose levels are drawn anew, each by itself."""
    data = reference("cal_linear_quam_cadmium")["data"]
    x, y = np.array(data["x"], dtype=float), np.array(data["y"], dtype=float)
    curve, u, signal = fit(model, x, y), 0.01, 0.071
    found = u * leaning_on_levels(curve)(signal)
    rng = np.random.default_rng(55)
    levels, place = np.unique(x, return_inverse=True)
    drawn = []
    for _ in range(6_000):
        moved = (levels * (1 + u * rng.standard_normal(levels.size)))[place]
        p = np.polyfit(moved, y, 1 if model == "line" else 2)
        p[-1] -= signal
        drawn.append(min((root.real for root in np.roots(p) if abs(root.imag) < 1e-12), key=lambda r: abs(r - 0.26)))
    assert found == pytest.approx(np.std(drawn), rel=0.05)
