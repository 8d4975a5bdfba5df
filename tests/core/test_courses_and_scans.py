"""Kinetics and traces: against what is known by construction."""

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import fit, kinetics, traces

TIME = np.arange(0, 600, 30.0)


def courses(rates: list[float], curvature: float = 0.0, noise: float = 0.001) -> dict[str, np.ndarray]:
    """Progress curves that bend after their initial rate, as products build up."""
    rng = np.random.default_rng(4)
    bent = TIME - curvature * TIME**2
    return {f"S{i}": rate * bent + noise * rng.standard_normal(TIME.size) for i, rate in enumerate(rates)}


def test_rates_are_the_slopes_over_the_window() -> None:
    found = kinetics.rates(TIME, courses([0.001, 0.002]), (0, 300))
    for label, rate in (("S0", 0.001), ("S1", 0.002)):
        line = found.lines[label]
        assert line.n == 11
        assert abs(found.rate[label] - rate) < 4 * found.standard_error[label]


def test_the_widest_window_is_all_of_a_straight_course_and_the_start_of_a_bent_one() -> None:
    straight = kinetics.widest_linear_window(TIME, courses([0.001, 0.002, 0.004]))
    assert straight.window == (0, 570)
    bent = kinetics.widest_linear_window(TIME, courses([0.002, 0.004], curvature=1e-4))
    assert bent.window is not None
    assert bent.window[0] == 0 and bent.window[1] < 400
    assert bent.left_out[0] == 0
    limited = kinetics.widest_linear_window(TIME, courses([0.02], curvature=8e-4, noise=1e-4), most_left_out=(1, 2))
    assert limited.window is None and "bends" in limited.reason


def test_rates_become_readings_of_a_second_curve() -> None:
    """Michaelis–Menten with maximum 2e-3 and half 5, by way of noiseless courses."""
    doses = [1.0, 2, 5, 10, 20, 50]
    found = kinetics.rates(TIME, {s: 2e-3 * s / (5 + s) * TIME for s in doses})
    second = fit("hyperbola", list(found.rate), list(found.rate.values()))
    assert_allclose(second.values, [2e-3, 5], rtol=1e-8)


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (lambda: kinetics.rates([0, 1], {"a": [1, 2, 3]}), "3 readings for 2 times"),
        (lambda: kinetics.rates([0, 1, 2], {"a": [1, np.nan, np.nan]}), "Series “a”, 0 to 2: .* at least 2"),
        (lambda: kinetics.widest_linear_window([0, 1], {"a": [1, 2]}), "at least 4 different times"),
        (lambda: kinetics.rates([0, 1], {}), "no series"),
    ],
)
def test_courses_without_a_rate_are_refused_in_words(call: object, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        call()


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (lambda: traces.region([0, 1], [1, 2], 5, 6), "no reading between 5 and 6"),
        (lambda: traces.calibrate_with_sensitivity(traces.region([0], [1], 0, 1), 1, 0), "sensitivity of zero"),
    ],
)
def test_traces_that_say_nothing_are_refused(call: object, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        call()


def recording() -> tuple[np.ndarray, np.ndarray]:
    """An electrode that gives 0.4 V at 0 and 2.4 V at 100 %, held at 0, 100 and 60 % in turn."""
    t = np.arange(0, 90, 0.1)
    truth = np.select([t < 30, t < 60], [0.0, 100.0], 60.0)
    return t, 0.4 + 0.02 * truth + 0.001 * np.random.default_rng(2).standard_normal(t.size)


def test_a_channel_is_calibrated_from_two_regions_and_proves_it() -> None:
    t, volts = recording()
    ends = [traces.region(t, volts, 5, 25), traces.region(t, volts, 35, 55)]
    line = traces.calibrate(ends, [0, 100])
    assert_allclose(line.coefficients, [-20, 50], rtol=1e-3)
    assert_allclose(line.proof, 0, atol=1e-9)
    assert_allclose(line.apply(volts)[t > 65].mean(), 60, atol=0.05)
    by_slope = traces.calibrate_with_sensitivity(ends[0], 0, 0.02)
    assert_allclose(by_slope.apply(volts)[t > 65].mean(), 60, atol=0.05)
    curved = traces.calibrate([*ends, traces.region(t, volts, 65, 85)], [0, 100, 60], order=2)
    assert_allclose(curved.apply(0.4 + 0.02 * 30), 30, atol=0.3)
    with pytest.raises(ValueError, match="needs at least 3 regions"):
        traces.calibrate(ends, [0, 100], order=2)
    with pytest.raises(ValueError, match="must differ in signal"):
        traces.calibrate([ends[0], ends[0]], [0, 100])


def test_drift_between_two_calibrations() -> None:
    t, volts = recording()
    ends = [traces.region(t, volts, 5, 25), traces.region(t, volts, 35, 55)]
    before, after = traces.calibrate(ends, [0, 100]), traces.calibrate(ends, [0, 98])
    found = traces.drift(before, after, [each.signal.mean for each in ends])
    assert_allclose(found.differences, [0, -2], atol=1e-9)
    assert_allclose(found.largest_percent, 2, rtol=1e-9)
    values = traces.apply_drifting(before, after, [0.0, 50, 100], [2.4, 2.4, 2.4], 0, 100)
    assert_allclose(values, [100, 99, 98], atol=0.05)
