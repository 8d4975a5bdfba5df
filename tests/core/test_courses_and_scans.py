"""Kinetics, spectra and traces: against general-purpose libraries and what is known by construction."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import signal as scipy_signal

from dosis.core import fit, kinetics, spectra, traces

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


NM = np.arange(400, 701, 2.0)


def band(center: float, height: float, width: float = 25) -> np.ndarray:
    return height * np.exp(-(((NM - center) / width) ** 2) / 2)


def test_maxima_lie_between_the_points_and_the_highest_comes_first() -> None:
    scan = band(470.7, 0.8) + band(601.2, 1.1)
    found = spectra.maxima(NM, scan)
    assert_allclose([peak.wavelength for peak in found], [601.2, 470.7], atol=0.05)
    assert_allclose([peak.value for peak in found], [1.1, 0.8], rtol=1e-3)
    indices, _ = scipy_signal.find_peaks(scan)
    assert len(found) == len(indices)
    assert_allclose(
        sorted(p.prominence for p in found), sorted(scipy_signal.peak_prominences(scan, indices)[0]), rtol=5e-3
    )
    assert spectra.maxima(NM, scan, least_prominence=1.0)[0].wavelength == pytest.approx(601.2, abs=0.05)
    assert spectra.highest(NM, NM / 700).wavelength == 700


def test_a_parabola_is_found_exactly_even_on_uneven_points() -> None:
    x = np.array([1.0, 2, 4, 7, 8])
    peak = spectra.highest(x, 5 - (x - 4.4) ** 2)
    assert_allclose((peak.wavelength, peak.value), (4.4, 5), rtol=1e-12)


@pytest.mark.parametrize(("window", "degree", "derivative"), [(5, 2, 0), (11, 3, 0), (9, 2, 1), (7, 4, 2)])
def test_smoothing_is_that_of_an_independent_library(window: int, degree: int, derivative: int) -> None:
    """scipy.signal.savgol_filter, its ends by interpolation too."""
    scan = band(500, 1) + 0.01 * np.random.default_rng(1).standard_normal(NM.size)
    ours = spectra.smooth(scan, window, degree, derivative, spacing=2.0)
    theirs = scipy_signal.savgol_filter(scan, window, degree, derivative, delta=2.0, mode="interp")
    assert_allclose(ours, theirs, atol=1e-12)


def test_area_value_and_corrections() -> None:
    scan = band(550, 1.0)
    assert_allclose(spectra.area(NM, scan), 25 * np.sqrt(2 * np.pi), rtol=1e-6)
    assert_allclose(spectra.area([0, 1, 2], [0, 1, 2], 0.5, 1.5), 1.0)
    assert_allclose(spectra.value_at(NM, [scan, 2 * scan], 551), np.interp(551, NM, scan) * np.array([1, 2]))
    tilted = scan + 0.1 + 0.001 * (NM - 400)
    _, flat = spectra.baseline(NM, tilted, 400, 700)
    assert_allclose(flat, scan, atol=1e-7)
    muddy = band(450, 0.5, 15) + 3e8 * NM**-3.5
    cleaned = spectra.scatter(NM, muddy, 600, 700)
    assert_allclose(cleaned.exponent, 3.5, rtol=1e-6)
    assert_allclose(cleaned.corrected, band(450, 0.5, 15), atol=1e-6)
    assert_allclose(spectra.percent_change([2.0, 3, 1]), [0, 50, -50])


def test_first_order_change_and_its_half_life() -> None:
    t = np.linspace(0, 50, 26)
    found = spectra.first_order(t, 0.2 + 0.9 * np.exp(-0.08 * t) + 0.001 * np.sin(7 * t))
    assert_allclose(found.rate, 0.08, rtol=5e-3)
    assert_allclose(found.half_life, np.log(2) / found.rate)
    assert found.half_life_interval[0] < np.log(2) / 0.08 < found.half_life_interval[1]
    assert_allclose(spectra.first_order(t, 3 * np.exp(-0.1 * t), to_zero=True).rate, 0.1, rtol=1e-8)


def test_where_two_forms_absorb_alike_all_scans_meet() -> None:
    one, other = band(470, 1.0), band(560, 0.8)
    scans = np.stack([share * one + (1 - share) * other for share in (1, 0.7, 0.4, 0.1)])
    found = spectra.isosbestic_points(NM, scans)
    inside = [at for at in found if 480 < at < 550]
    assert len(inside) == 1
    assert_allclose(np.interp(inside[0], NM, one), np.interp(inside[0], NM, other), atol=1e-3)
    scans[2] += 0.05
    assert not [at for at in spectra.isosbestic_points(NM, scans) if 480 < at < 550]


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (lambda: spectra.maxima([1, 2], [1, 2]), "At least 3 points"),
        (lambda: spectra.value_at([1, 2], [1, 2], 3), "outside the scan"),
        (lambda: spectra.area([1, 2, 2], [1, 2, 3]), "stands in the scan twice"),
        (lambda: spectra.smooth([1, 2, 3], 4), "odd number"),
        (lambda: spectra.smooth([1, 2, 3], 5), "longer than the scan"),
        (lambda: spectra.scatter([1, 2, 3], [0, 0, 0], 1, 3), "at least 3 points"),
        (lambda: spectra.isosbestic_points([1, 2], [[1, 2]]), "at least 2 scans"),
        (lambda: spectra.percent_change([0, 1]), "not zero"),
        (lambda: spectra.baseline([1, 2], [1, 2], 1, 1), "two different wavelengths"),
        (lambda: traces.region([0, 1], [1, 2], 5, 6), "no reading between 5 and 6"),
        (lambda: traces.calibrate_with_sensitivity(traces.region([0], [1], 0, 1), 1, 0), "sensitivity of zero"),
    ],
)
def test_scans_and_traces_that_say_nothing_are_refused(call: object, said: str) -> None:
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
