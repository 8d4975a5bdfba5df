"""Plans against designs known from theory, the fit's own intervals, and simulation."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import fit
from dosis.core.plan import Design, Wanted, best_design, half_width, simulated


def line(n: int = 5) -> object:
    rng = np.random.default_rng(2)
    x = np.repeat(np.linspace(1, 9, n), 3)
    return fit("line", x, 0.1 + 0.3 * x + rng.normal(0, 0.02, x.size))


def sigmoid(sd: float = 2.0) -> object:
    rng = np.random.default_rng(4)
    x = np.repeat(np.geomspace(0.1, 100, 8), 3)
    return fit("logistic4", x, 5 + 90 / (1 + (x / 3) ** -1.2) + rng.normal(0, sd, x.size))


def test_the_d_optimal_line_and_parabola_are_the_textbooks() -> None:
    """Atkinson, Donev & Tobias (2007), 11.2: half of the readings at each end; a parabola takes the middle, too."""
    found = best_design(line(), Wanted(level=5.0), "D", 1.0, 9.0)
    assert_allclose(found.levels, (1, 9), rtol=1e-3)
    assert_allclose(found.shares, (0.5, 0.5), atol=0.01)
    x = np.repeat([1.0, 3, 5, 7, 9], 3)
    bent = fit("quadratic", x, 1 + x + 0.1 * x**2 + np.tile([0.1, 0, -0.1], 5))
    found = best_design(bent, Wanted(level=5.0), "D", 1.0, 9.0)
    assert_allclose(found.levels, (1, 5, 9), rtol=0.02)
    assert_allclose(found.shares, (1 / 3, 1 / 3, 1 / 3), atol=0.01)


def test_a_four_parameter_curve_takes_four_levels_one_at_each_end() -> None:
    """Li & Majumdar (2008), J. Stat. Plan. Inference 138, 190: D-optimal logistic designs have p points."""
    curve = sigmoid()
    found = best_design(curve, Wanted(parameter="midpoint"), "D", 0.1, 100.0)
    assert len(found.levels) == 4
    assert_allclose(found.shares, [0.25] * 4, atol=0.03)
    assert found.levels[0] == pytest.approx(0.1) and found.levels[-1] == pytest.approx(100)


def test_a_width_is_that_of_the_fit_itself() -> None:
    """At the levels and numbers of now it is what the fit's own interval says: t times the error of ln midpoint."""
    curve = sigmoid()
    levels, counts = np.unique(curve.x, return_counts=True)
    midpoint = curve.parameters["midpoint"]
    want = curve.t(0.95) * midpoint.standard_error / midpoint.estimate
    assert_allclose(half_width(curve, Wanted(parameter="midpoint"), levels, counts), want, rtol=1e-6)
    straight = line()
    levels, counts = np.unique(straight.x, return_counts=True)
    signal = float(straight.predict([4.0])[0])
    back = straight.read_back(signal, n=3)
    got = half_width(straight, Wanted(level=4.0, readings=3), levels, counts)
    assert_allclose(got, straight.t(0.95) * back.standard_error / 4.0, rtol=1e-6)


def test_a_better_design_is_better_and_more_readings_are_too() -> None:
    curve = sigmoid()
    wanted = Wanted(parameter="midpoint")
    levels, counts = np.unique(curve.x, return_counts=True)
    now = half_width(curve, wanted, levels, counts)
    for criterion in ("D", "c"):
        best = best_design(curve, wanted, criterion, 0.1, 100.0)
        assert half_width(curve, wanted, best.levels, best.counts(24)) < now
        assert half_width(curve, wanted, best.levels, best.counts(96)) < half_width(
            curve, wanted, best.levels, best.counts(24)
        )
    c, d = (best_design(curve, wanted, each, 0.1, 100.0) for each in ("c", "D"))
    assert half_width(curve, wanted, c.levels, c.counts(2000)) <= half_width(curve, wanted, d.levels, d.counts(2000))


def test_what_is_planned_comes_true_in_simulation() -> None:
    curve = sigmoid()
    wanted = Wanted(parameter="midpoint")
    best = best_design(curve, wanted, "D", 0.1, 100.0)
    planned = half_width(curve, wanted, best.levels, best.counts(48))
    found, good = simulated(curve, wanted, best.levels, best.counts(48), runs=600)
    assert good == 600
    assert found == pytest.approx(planned, rel=0.15)
    straight = line()
    planned = half_width(straight, Wanted(level=4.0, readings=2), (1.0, 9.0), (10, 10))
    found, _ = simulated(straight, Wanted(level=4.0, readings=2), (1.0, 9.0), (10, 10), runs=600)
    assert found == pytest.approx(planned, rel=0.15)


def test_readings_are_shared_out_whole() -> None:
    design = Design((1.0, 2.0, 3.0), (0.5, 0.3, 0.2))
    assert design.counts(10) == (5, 3, 2)
    assert sum(design.counts(11)) == 11 and min(design.counts(3)) == 1
    assert design.counts(1) == (1, 1, 1)
    for n in range(3, 40):
        assert sum(design.counts(n)) == n


def test_too_few_levels_determine_nothing() -> None:
    curve = sigmoid()
    assert math.isinf(half_width(curve, Wanted(parameter="midpoint"), (1.0, 10.0), (20, 20)))
    assert math.isinf(half_width(curve, Wanted(parameter="midpoint"), (0.1, 1.0, 10.0, 100.0), (1, 1, 1, 1)))
