"""Normalizing, replicates, blanks, limits and ranges, areas and derived quantities against published data."""

import math

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import integrate

from dosis.core import blanks, fit, limits
from dosis.core.anova import one_way
from dosis.core.inference.areas import area_of_readings
from dosis.core.inference.doses import dose_between
from dosis.core.inference.read_back import Flag
from dosis.core.normalize import normalize
from dosis.core.replicates import summarize
from tests.conftest import reference

GRASS = reference("replicates_ryegrass")
CONC, LENGTH = np.array(GRASS["data"]["conc"]), np.array(GRASS["data"]["y"])


def test_replicates_of_every_level() -> None:
    """Inderjit, Streibig & Olofsdotter (2002), Physiol. Plant. 114, 422; recomputed."""
    for group in GRASS["expected"]["groups"]:
        found = summarize(LENGTH[group["conc"] == CONC].tolist())
        assert found.n == group["n"]
        assert_allclose((found.mean, found.sd, found.sem), (group["mean"], group["sd"], group["sem"]), rtol=1e-10)
        assert_allclose(100 * found.cv, group["cv_percent"], rtol=1e-10)


def test_percent_of_control_with_its_error() -> None:
    """The same data: percent of the zero dose, the error by first-order propagation."""
    found = normalize(CONC, LENGTH, zero=0.0, full="lowest_dose")
    for group, y, error in zip(GRASS["expected"]["groups"], found.y, found.standard_errors, strict=True):
        assert_allclose(y, group["percent_of_control"], rtol=1e-10)
        if group["se_percent_of_control"] is not None:
            assert_allclose(error, group["se_percent_of_control"], rtol=1e-10)


def test_percent_inhibition_between_two_controls() -> None:
    """The same data: the untreated control is 0 %, the highest dose 100 %."""
    found = normalize(CONC, LENGTH, zero="lowest_dose", full="highest_dose")
    assert_allclose(found.y, [g["percent_inhibition_two_control"] for g in GRASS["expected"]["groups"]], atol=1e-9)
    assert found.is_reference.tolist() == [True, *[False] * 5, True]
    assert found.without_references().x.tolist() == found.x[1:-1].tolist()


X, Y = [0, 0, 1, 1, 10, 10.0], [10.0, 12, 30, 34, 49, 51]


@pytest.mark.parametrize(
    ("zero", "full", "expected"),
    [
        ("least_level", "greatest_level", [0, 100 * 21 / 39, 100]),
        ("lowest_dose", "highest_dose", [0, 100 * 21 / 39, 100]),
        ("higher_end", "lower_end", [100, 100 * 18 / 39, 0]),
        (0.0, "total", [100 * 11 / 93, 100 * 32 / 93, 100 * 50 / 93]),
        (0.0, "average", [100 * 11 / 31, 100 * 32 / 31, 100 * 50 / 31]),
        ([9.0, 11.0], [110.0], [1, 22, 40]),
    ],
)
def test_every_choice_of_reference(zero: object, full: object, expected: list[float]) -> None:
    """Worked by hand: level means 11, 32 and 50."""
    assert_allclose(normalize(X, Y, zero=zero, full=full).y, expected, atol=1e-12)
    fraction = normalize(X, Y, zero=zero, full=full, scale="fraction", average_first=False)
    assert fraction.y.size == 6
    assert_allclose(fraction.y.reshape(3, 2).mean(axis=1), np.array(expected) / 100, atol=1e-12)


def test_references_of_each_series_or_of_the_whole_run() -> None:
    x, y, series = [0, 1, 0, 1.0], [1.0, 3, 10, 50], ["a", "a", "b", "b"]
    own = normalize(x, y, zero="lowest_dose", full="highest_dose", series=series)
    assert own.y.tolist() == [0, 100, 0, 100]
    run = normalize(x, y, zero="least_level", full="greatest_level", series=series, per_series=False)
    assert_allclose(run.y, [100 * (v - 5.5) / 21 for v in (1, 3, 10, 50)])
    assert run.full["a"] == run.full["b"]
    with pytest.raises(ValueError, match="0 % and 100 % are both"):
        normalize([1, 2], [5, 5], zero="lowest_dose", full="highest_dose")
    with pytest.raises(ValueError, match="no reference “total” for 0 %"):
        normalize([1, 2], [5, 6], zero="total", full="highest_dose")


def test_geometric_mean_and_its_refusal() -> None:
    assert_allclose(summarize([1.0, 10, 100], "geometric").value, 10)
    with pytest.raises(ValueError, match="above zero; here is 0"):
        summarize([0.0, 1], "geometric")
    low, high = summarize([1.0, 2, 3]).interval()
    assert_allclose((low, high), (2 - 4.302652729911275 / math.sqrt(3), 2 + 4.302652729911275 / math.sqrt(3)))


def test_each_reading_loses_the_blank_of_its_own_group() -> None:
    found = blanks.subtract([1.0, 2, 3], ["row A", "row B", "row A"], {"row A": [0.1, 0.3], "row B": [0.5]})
    assert_allclose(found.values, [0.8, 1.5, 2.8])
    assert found.blanks["row B"].sd is None
    with pytest.raises(ValueError, match="no blank for row C"):
        blanks.subtract([1.0], ["row C"], {"row A": [0.1]})


def test_a_drift_of_the_blanks_shows() -> None:
    steady = blanks.drift(range(6), [0.05, 0.052, 0.049, 0.051, 0.05, 0.05])
    rising = blanks.drift(range(6), [0.05, 0.06, 0.07, 0.081, 0.09, 0.1])
    assert steady.p_value > 0.05 > rising.p_value
    with pytest.raises(ValueError, match="at least 3 blanks"):
        blanks.drift([1, 2], [1, 2])


def test_limits_from_blanks_by_currie() -> None:
    """Currie (1968), Anal. Chem. 40, 586; the factors 2.33, 4.65 and 14.1, and 1.64, 3.29 and 10."""
    case = reference("currie_blank_a")
    data, expected = case["data"], case["expected"]
    for paired, key in ((True, "paired"), (False, "well_known")):
        found = limits.currie(data["blank_sd"], data["slope"], paired=paired)
        want = expected[key]
        assert_allclose(
            (found.critical, found.detection, found.quantification, *found.concentrations),
            [want[name] for name in ("LC", "LD", "LQ", "xC", "xD", "xQ")], rtol=1e-10,
        )  # fmt: skip
    by_t = limits.currie(data["blank_sd"], data["slope"], n_blanks=data["n_blanks"])
    assert_allclose(by_t.critical, expected["t_based"]["LC_single_sample"], rtol=1e-10)
    assert_allclose(by_t.concentrations[0], expected["t_based"]["xC_single_sample"], rtol=1e-10)


def test_blank_and_three_standard_deviations_through_a_curve() -> None:
    """On a line it is 3 SD over the slope above the blank's own concentration, rising or falling."""
    x = np.repeat([0.0, 1, 2, 4, 8], 2)
    for slope in (0.5, -0.5):
        line = fit("line", x, 1 + slope * x + np.tile([0.01, -0.01], 5))
        found = limits.blank_through_curve(line, [0.98, 1.0, 1.02])
        shift = (1.0 - line.named["intercept"]) / line.named["slope"]
        assert_allclose(found.estimate, 3 * 0.02 / abs(line.named["slope"]) + shift, rtol=1e-9)


def test_working_range_of_a_line_with_even_noise_ends_below() -> None:
    rng = np.random.default_rng(1)
    x = np.repeat([0.5, 1, 2, 4, 8, 16], 3)
    line = fit("line", x, 0.1 + 0.5 * x + 0.05 * rng.standard_normal(18))
    found = limits.working_range(line, 0.1)
    assert found.low is not None
    assert 0.5 < found.low < 4
    assert found.high == pytest.approx(16)
    at = line.read_back(float(line.predict(found.low)[0]), n=1)
    assert_allclose(at.standard_error / at.estimate, 0.1, rtol=1e-6)
    assert limits.working_range(line, 1e-6).low is None


def test_standards_read_back_from_their_own_curve() -> None:
    x = np.repeat([1.0, 2, 4, 8], 2)
    found = limits.back_calculated(fit("line", x, 3 * x))
    assert [standard.nominal for standard in found] == [1, 2, 4, 8]
    assert_allclose([standard.recovery for standard in found], 1, rtol=1e-9)


@pytest.mark.parametrize("logarithmic", [False, True])
def test_area_under_a_curve_is_its_integral(logarithmic: bool) -> None:
    """Against scipy's adaptive quadrature."""
    rng = np.random.default_rng(3)
    x = np.repeat(np.geomspace(0.1, 100, 8), 2)
    curve = fit("logistic4", x, 5 + 90 / (1 + (x / 3) ** -1.2) + rng.standard_normal(16))
    found = curve.area(0.1, 100, logarithmic=logarithmic)

    def height(t: float) -> float:
        return float(curve.predict(10**t if logarithmic else t)[0])

    ends = (-1, 2) if logarithmic else (0.1, 100)
    assert_allclose(found.estimate, integrate.quad(height, *ends, epsabs=1e-10, limit=200)[0], rtol=1e-8)
    assert found.lower < found.estimate < found.upper
    with pytest.raises(ValueError, match="from a lower to a higher"):
        curve.area(2, 1)


def test_area_of_readings_by_trapezoids() -> None:
    assert area_of_readings(np.array([0.0, 1, 1, 3]), np.array([0.0, 1, 3, 2])) == pytest.approx(1 + 4)


def test_quantities_that_follow_from_the_parameters() -> None:
    """Half-life has the rate's relative error; the half dose of five parameters is where half the effect is."""
    t = np.linspace(0, 10, 12)
    decay = fit("exponential_decay", t, 5 * np.exp(-0.3 * t) + 0.02 * np.sin(9 * t))
    rate, half = decay.parameters["rate"], decay.derived["half_life"]
    assert_allclose(half.estimate, math.log(2) / rate.estimate)
    assert_allclose(half.standard_error / half.estimate, rate.standard_error / rate.estimate)
    with pytest.raises(ValueError, match="Wald interval only"):
        half.interval(method="profile")
    x = np.repeat(np.geomspace(0.01, 100, 10), 2)
    five = fit("logistic5", x, 10 + 80 / (1 + (x / 2) ** -1.5) ** 0.4 + 0.5 * np.sin(np.arange(20)))
    assert_allclose(five.derived["half_dose"].estimate, five.dose_at(0.5).estimate, rtol=1e-6)
    assert_allclose(five.derived["half_dose"].standard_error, five.dose_at(0.5).standard_error, rtol=1e-4)
    four = fit("logistic4", x, 10 + 80 / (1 + (x / 2) ** -1.5) + 0.5 * np.sin(np.arange(20)))
    assert_allclose(four.derived["minus_log10_midpoint"].estimate, -math.log10(four.named["midpoint"]))


def test_the_dose_between_two_doses() -> None:
    found = dose_between(np.array([1.0, 10, 100]), np.array([0.0, 40, 60]), 50)
    assert_allclose(found.estimate, 10**1.5)
    assert_allclose(dose_between(np.array([0.0, 10]), np.array([0.0, 40]), 20).estimate, 5)
    assert dose_between(np.array([1.0, 10]), np.array([0.0, 40]), 50).flag is Flag.NOT_REACHED
    assert dose_between(np.array([1.0, 10, 100]), np.array([0.0, 40, 0]), 20).flag is Flag.AMBIGUOUS


def test_linearized_hyperbolas_as_recomputed() -> None:
    """Bates & Watts (1988), A1.3, Puromycin: double reciprocal, x/y on x, and y on y/x, as lines on derived columns."""
    case = reference("mm_linearised_puromycin_treated")
    s, v = np.array(case["data"]["x"]), np.array(case["data"]["y"], dtype=float)
    for key, a, b in (
        ("lineweaver_burk", 1 / s, 1 / v), ("hanes_woolf", s, s / v), ("eadie_hofstee", v / s, v),
    ):  # fmt: skip
        line = fit("line", a, b)
        assert_allclose(line.named["slope"], case["expected"][key]["slope"], rtol=1e-9)
        assert_allclose(line.named["intercept"], case["expected"][key]["intercept"], rtol=1e-9)


def test_a_window_by_count_and_a_fit_to_means() -> None:
    x = np.repeat([1.0, 2, 3, 4, 5], 3)
    y = 2 * x + np.tile([0.1, -0.1, 0.3], 5)
    y[-3:] = 0
    inner = fit("line", x, y, leave_out=(1, 1))
    assert inner.range == (2, 4)
    to_means = fit("line", x, y, leave_out=(0, 1), means=True)
    to_readings = fit("line", x, y, leave_out=(0, 1))
    assert_allclose(to_means.values, to_readings.values, rtol=1e-12)
    assert (to_means.n, to_means.weights.tolist()) == (4, [3, 3, 3, 3])


def test_analysis_of_variance_to_the_certified_digits() -> None:
    """NIST StRD, AtmWtAg: two instruments that agree to seven digits."""
    case = reference("nist_anova_atmwtag")
    groups = [[y for g, y in zip(case["data"]["group"], case["data"]["y"], strict=True) if g == i] for i in (1, 2)]
    found, expected = one_way(groups), case["expected"]
    assert (found.df_between, found.df_within) == (expected["df_between"], expected["df_within"])
    for ours, key in (
        (found.ss_between, "ss_between"), (found.ss_within, "ss_within"), (found.f, "F"), (found.p_value, "p_value"),
        (found.repeatability_sd, "repeatability_sd"),
    ):  # fmt: skip
        assert_allclose(ours, expected[key], rtol=1e-7)  # the readings themselves carry no more digits
    assert one_way([[1.0, 1], [2.0, 2]]).f is None
    with pytest.raises(ValueError, match="at least 2 groups; there is 1"):
        one_way([[1.0, 2]])
