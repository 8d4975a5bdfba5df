"""Scans: against a general-purpose library, published tables and what is known by construction."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import optimize
from scipy import signal as scipy_signal

from dosis.core import spectra
from dosis.core.prominence import half_way, standing_out

NM = np.arange(400, 701, 2.0)


def band(center: float, height: float, width: float = 25) -> np.ndarray:
    return height * np.exp(-(((NM - center) / width) ** 2) / 2)


def test_peaks_lie_between_the_points_with_their_widths_and_areas() -> None:
    scan = band(470.7, 0.8, 20) + band(601.2, 1.1, 25)
    found = spectra.peaks_of(NM, scan, 0.01)
    assert_allclose([peak.wavelength for peak in found], [470.7, 601.2], atol=0.05)
    assert_allclose([peak.value for peak in found], [0.8, 1.1], rtol=1e-3)
    indices, _ = scipy_signal.find_peaks(scan)
    assert_allclose([p.prominence for p in found], scipy_signal.peak_prominences(scan, indices)[0])
    # Of a Gaussian: width at half height 2·√(2 ln 2)·s, area √(2π)·s·height; the valley between takes a little of it.
    assert_allclose([p.width for p in found], 2.3548 * np.array([20, 25]), rtol=0.03)
    assert_allclose([p.area for p in found], np.sqrt(2 * np.pi) * np.array([20 * 0.8, 25 * 1.1]), rtol=0.06)


def test_a_peak_is_listed_from_its_prominence_on_and_in_its_window() -> None:
    scan = band(470.7, 0.8) + band(601.2, 1.1)
    least = spectra.peaks_of(NM, scan, 0.0)[0].prominence
    assert len(spectra.peaks_of(NM, scan, least)) == 2
    assert len(spectra.peaks_of(NM, scan, np.nextafter(least, 1))) == 1
    assert [round(p.wavelength) for p in spectra.peaks_of(NM, scan, 0.0, 400, 500)] == [471]
    whole, part = spectra.peaks_of(NM, scan, 0.01)[1], spectra.peaks_of(NM, scan, 0.01, 590, 620)[0]
    assert whole == part  # a window says which are listed, not what they are


def test_the_top_of_a_flat_peak_is_its_middle_and_an_end_is_the_highest_where_it_is() -> None:
    assert spectra.peaks_of([0, 1, 2, 3, 4], [0, 1, 1, 0, 0], 0.1)[0].wavelength == 1.5
    assert spectra.highest(NM, NM / 700).wavelength == 700


def test_a_parabola_is_found_exactly_even_on_uneven_points() -> None:
    x = np.array([1.0, 2, 4, 7, 8])
    peak = spectra.highest(x, 5 - (x - 4.4) ** 2)
    assert_allclose((peak.wavelength, peak.value), (4.4, 5), rtol=1e-12)
    assert_allclose(spectra.peaks_of(x, 5 - (x - 4.4) ** 2, 0.0)[0].wavelength, 4.4, rtol=1e-12)


@pytest.mark.parametrize(("window", "degree", "derivative"), [(5, 2, 0), (11, 3, 0), (9, 2, 1), (7, 4, 2)])
def test_smoothing_is_that_of_an_independent_library(window: int, degree: int, derivative: int) -> None:
    """scipy.signal.savgol_filter, its ends by interpolation too."""
    scans = band(500, 1) + 0.01 * np.random.default_rng(1).standard_normal((3, NM.size))
    ours = spectra.smoothed(NM, scans, window, degree, derivative)
    theirs = scipy_signal.savgol_filter(scans, window, degree, derivative, delta=2.0, mode="interp")
    assert_allclose(ours, theirs, atol=1e-12)


@pytest.mark.parametrize(
    ("degree", "derivative", "whole", "norm"),
    [
        (2, 0, [-3, 12, 17, 12, -3], 35),
        (2, 0, [-2, 3, 6, 7, 6, 3, -2], 21),
        (2, 0, [-21, 14, 39, 54, 59, 54, 39, 14, -21], 231),
        (4, 0, [5, -30, 75, 131, 75, -30, 5], 231),
        (2, 1, [-2, -1, 0, 1, 2], 10),
        (2, 1, [-3, -2, -1, 0, 1, 2, 3], 28),
        (2, 2, [2, -1, -2, -1, 2], 7),
        (2, 2, [5, 0, -3, -4, -3, 0, 5], 42),
    ],
)
def test_smoothing_has_the_weights_of_the_published_tables(
    degree: int, derivative: int, whole: list[int], norm: int
) -> None:
    """Savitzky & Golay 1964, tables I to VII, as corrected by Steinier, Termonia & Deltour 1972; from memory."""
    size = len(whole)
    x = np.arange(float(size))
    weights = [spectra.smoothed(x, unit, size, degree, derivative)[size // 2] for unit in np.eye(size)]
    assert_allclose(weights, np.array(whole) / norm, atol=1e-12)


def test_smoothing_leaves_a_parabola_alone_however_its_points_lie() -> None:
    x = np.array([0.0, 1, 3, 4, 7, 8, 9, 12])
    y = 2 - 3 * x + 0.5 * x**2
    assert_allclose(spectra.smoothed(x, y, 5, 2), y, atol=1e-10)
    assert_allclose(spectra.smoothed(x, y, 5, 2, 1), -3 + x, atol=1e-10)
    assert_allclose(spectra.smoothed(x, y, 7, 2, 2), np.ones(8), atol=1e-10)


def test_area_value_and_corrections() -> None:
    scan = band(550, 1.0)
    assert_allclose(spectra.area(NM, scan), 25 * np.sqrt(2 * np.pi), rtol=1e-6)
    assert_allclose(spectra.area([0, 1, 2], [0, 1, 2], 0.5, 1.5), 1.0)
    assert_allclose(spectra.value_at(NM, [scan, 2 * scan], 551), np.interp(551, NM, scan) * np.array([1, 2]))
    muddy = band(450, 0.5, 15) + 3e8 * NM**-3.5
    cleaned = spectra.scatter(NM, muddy, 600, 700)
    assert_allclose(cleaned.exponent, 3.5, rtol=1e-6)
    assert_allclose(cleaned.corrected, band(450, 0.5, 15), atol=1e-6)
    assert_allclose(spectra.percent_change([2.0, 3, 1]), [0, 50, -50])


@pytest.mark.parametrize("degree", [0, 1, 2, 3])
def test_a_baseline_of_a_polynomial_is_taken_off_whole(degree: int) -> None:
    scan = band(550, 1.0, 15)
    under = np.polynomial.Polynomial([0.1, 1e-3, -4e-6, 9e-9][: degree + 1])(NM - 400)
    flat, found = spectra.polynomial_baseline(NM, [scan + under, scan], [(400, 460), (700, 640)], degree)
    assert_allclose(flat, [scan, scan], atol=1e-6)
    assert_allclose(found[0], under, atol=1e-6)


def test_noise_is_told_apart_from_what_a_scan_shows() -> None:
    noise = np.random.default_rng(3).standard_normal((200, NM.size))
    found = spectra.noise_of(band(550, 1.0) + 0.01 * noise)
    assert_allclose(np.median(found), 0.01, rtol=0.05)
    assert float(spectra.noise_of(band(550, 1.0))[0]) < 1e-4
    assert np.isnan(spectra.noise_of(np.zeros(7))[0]) and spectra.noise_of(np.zeros(8))[0] == 0


def references() -> np.ndarray:
    return np.stack([band(470, 0.9), band(520, 1.2), band(610, 0.7, 40)])


def test_a_mixture_is_solved_as_a_general_library_solves_it() -> None:
    """numpy.linalg.lstsq, and the covariance s²·(AᵀA)⁻¹; scipy.optimize.nnls where none may be below zero."""
    rng = np.random.default_rng(5)
    known = np.array([2.0, 1.0, 4.0])
    scan = np.array([0.5, 0.2, 0.0]) @ (references() / known[:, None]) + 0.002 * rng.standard_normal(NM.size)
    design = (references() / known[:, None]).T
    theirs, squares, *_ = np.linalg.lstsq(design, scan, rcond=None)
    found = spectra.components(scan, references(), known)
    assert_allclose(found.amounts, theirs, rtol=1e-10)
    error = np.sqrt(squares[0] / (NM.size - 3) * np.diag(np.linalg.inv(design.T @ design)))
    assert_allclose(found.standard_errors, error, rtol=1e-9)
    held = spectra.components(scan - 0.05 * design[:, 2], references(), known, not_negative=True)
    assert_allclose(held.amounts, optimize.nnls(design, scan - 0.05 * design[:, 2])[0], atol=1e-12)
    assert held.amounts[2] == 0 and held.interval()[2] is None and held.interval()[0] is not None
    level = spectra.components(scan + 0.03, references(), known, constant=True)
    assert_allclose(level.amounts[:2], [0.5, 0.2], atol=0.01)


def test_intervals_of_a_mixture_hold_the_true_amounts_as_often_as_they_say() -> None:
    rng = np.random.default_rng(6)
    inside = 0
    for _ in range(400):
        scan = np.array([0.3, 0.5, 0.1]) @ references() + 0.01 * rng.standard_normal(NM.size)
        low, high = spectra.components(scan, references()).interval()[0]
        inside += low <= 0.3 <= high
    assert 0.92 < inside / 400 < 0.98


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


def test_noise_where_nothing_absorbs_makes_no_isosbestic_points() -> None:
    rng = np.random.default_rng(8)
    one, other = band(470, 1.0, 15), band(520, 0.8, 15)
    scans = np.stack([share * one + (1 - share) * other for share in (1, 0.7, 0.4, 0.1)])
    found = spectra.isosbestic_points(NM, scans + 0.002 * rng.standard_normal(scans.shape))
    assert len(found) == 1
    crossing = optimize.brentq(lambda at: np.interp(at, NM, one) - np.interp(at, NM, other), 480, 510)
    assert_allclose(found, [crossing], atol=1.0)


@pytest.mark.parametrize(
    ("call", "said"),
    [
        (lambda: spectra.peaks_of([1, 2], [1, 2], 0), "At least 3 points"),
        (lambda: spectra.value_at([1, 2], [1, 2], 3), "outside the scan"),
        (lambda: spectra.area([1, 2, 2], [1, 2, 3]), "stands in the scan twice"),
        (lambda: spectra.smoothed([0, 1, 2], [1, 2, 3], 4), "odd number"),
        (lambda: spectra.smoothed([0, 1, 2], [1, 2, 3], 5), "longer than the scan"),
        (lambda: spectra.scatter([1, 2, 3], [0, 0, 0], 1, 3), "at least 3 points"),
        (lambda: spectra.isosbestic_points([1, 2], [[1, 2]]), "at least 2 scans"),
        (lambda: spectra.percent_change([0, 1]), "not zero"),
        (lambda: spectra.polynomial_baseline([1, 2, 3], [1, 2, 3], [(1, 2)], 2), "at least 3 points"),
        (lambda: spectra.components([1, 2, 3], [[1, 0, 0], [2, 0, 0]]), "cannot be told apart"),
        (lambda: spectra.components([1, 2], [[1, 0], [0, 1]]), "more points"),
        (lambda: spectra.components([1, 2, 3], [[1, 0, 0]], [0.0]), "not zero"),
    ],
)
def test_scans_that_say_nothing_are_refused(call: object, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        call()


@pytest.mark.parametrize("seed", range(20))
@pytest.mark.parametrize("least", [0.0, 0.5, 2.0])
def test_prominences_and_widths_are_those_of_an_independent_library(seed: int, least: float) -> None:
    """scipy.signal.find_peaks, on walks of whole numbers, which have flat tops and ties in plenty."""
    y = np.cumsum(np.random.default_rng(seed).integers(-2, 3, 400)).astype(float)
    theirs, more = scipy_signal.find_peaks(y, prominence=max(least, 1e-9), width=0, rel_height=0.5)
    tops, heights = standing_out(y, least)
    assert tops.tolist() == theirs.tolist()
    assert_allclose(heights, more["prominences"])
    halves = np.array([half_way(y, int(top), float(height)) for top, height in zip(tops, heights, strict=True)])
    if len(halves):
        assert_allclose(halves[:, 1] - halves[:, 0], more["widths"], atol=1e-9)
