"""Kinetics of many courses: against the single fits, general-purpose libraries, and what is known by construction."""

import numpy as np
import pytest
from numpy.testing import assert_allclose
from scipy import integrate, optimize, stats

from dosis.core import MODELS, fit, fit_many, kinetics
from dosis.core.kinetics import INHIBITIONS
from dosis.core.kinetics.windows import bend_scores, bends
from dosis.core.units import UnitError, combined

TIME = np.arange(0.0, 300.0, 10.0)
RNG = np.random.default_rng(22)


def gappy(courses: int = 4) -> np.ndarray:
    y = 0.1 + np.linspace(0.001, 0.004, courses)[:, None] * TIME + RNG.normal(0, 0.003, (courses, TIME.size))
    y[1, 3:6] = np.nan
    y[2, -1] = np.nan
    return y


def test_many_lines_are_those_of_a_general_purpose_library() -> None:
    """scipy.stats.linregress, course by course, gaps left out."""
    y = gappy()
    found = kinetics.straight_lines(TIME, y)
    lower, upper = found.interval()
    for i, row in enumerate(y):
        there = np.isfinite(row)
        theirs = stats.linregress(TIME[there], row[there])
        assert_allclose(found.slope[i], theirs.slope, rtol=1e-12)
        assert_allclose(found.intercept[i], theirs.intercept, rtol=1e-10)
        assert_allclose(found.slope_error[i], theirs.stderr, rtol=1e-10)
        assert_allclose(found.r_squared[i], theirs.rvalue**2, rtol=1e-12)
        half = stats.t.ppf(0.975, there.sum() - 2) * theirs.stderr
        assert_allclose((lower[i], upper[i]), (theirs.slope - half, theirs.slope + half), rtol=1e-9)


def test_a_course_of_one_point_has_no_slope_and_one_of_two_no_error() -> None:
    y = np.full((2, TIME.size), np.nan)
    y[0, 3], y[1, 3], y[1, 5] = 1.0, 1.0, 2.0
    found = kinetics.straight_lines(TIME, y)
    assert np.isnan(found.slope[0]) and np.isnan(found.slope_error[1])
    assert_allclose(found.slope[1], 1 / 20)


def test_the_test_for_a_bend_is_that_of_the_quadratic_term() -> None:
    """Its p is the one `fit("quadratic")` gives; its sign is that of the bend."""
    y = gappy()
    y[3] += 1e-6 * TIME**2
    p, scores = bends(TIME, y), bend_scores(TIME, y)
    for i, row in enumerate(y):
        there = np.isfinite(row)
        term = fit("quadratic", TIME[there], row[there]).parameters["c2"]
        assert_allclose(p[i], term.p_value, rtol=1e-8)
        assert np.sign(scores[i]) == np.sign(term.estimate)
    assert bends(TIME, 0.1 + 0.002 * TIME[None])[0] == 1.0  # a line through every point does not bend
    assert np.isnan(bends(TIME[:3], np.array([[1.0, 2.0, 4.0]]))[0])


def test_courses_that_bend_together_are_seen_to_bend_where_each_alone_is_not() -> None:
    """Stouffer's sum: twelve courses with the same small bend."""
    rng = np.random.default_rng(5)
    y = 0.002 * (TIME - TIME**2 / 20000) + rng.normal(0, 0.004, (12, TIME.size))
    alone = kinetics.widest_straight(TIME, y, together=1e-300)
    together = kinetics.widest_straight(TIME, y)
    assert alone.window == (0, 290)
    assert together.window is not None and together.window[1] < 290
    level = kinetics.widest_straight(TIME, 0.002 * TIME + rng.normal(0, 0.004, (12, TIME.size)))
    assert level.left_out == (0, 0)


def test_a_slope_at_the_start_is_that_of_the_parabola() -> None:
    y = gappy()
    slope, error, df = kinetics.start_slopes(TIME, y)
    for i, row in enumerate(y):
        there = np.isfinite(row)
        theirs = fit("quadratic", TIME[there], row[there])
        assert_allclose(slope[i], theirs.parameters["c1"].estimate, rtol=1e-8)
        assert_allclose(error[i], theirs.parameters["c1"].standard_error, rtol=1e-8)
        assert df[i] == theirs.degrees_of_freedom
    assert np.isnan(kinetics.start_slopes(TIME[:3], y[:1, :3])[0][0])


def test_half_of_a_window_is_taken_only_where_it_was_cut() -> None:
    whole = kinetics.LinearWindow((0.0, 290.0), 0.4, (0, 0))
    cut = kinetics.LinearWindow((0.0, 190.0), 0.4, (0, 10))
    short = kinetics.LinearWindow((0.0, 60.0), 0.4, (0, 23))
    assert kinetics.early_half(TIME, whole) == (0, 290)
    assert kinetics.early_half(TIME, cut) == (0, 90)
    assert kinetics.early_half(TIME, short) == (0, 50)  # six points at least
    assert kinetics.early_half(TIME, kinetics.LinearWindow(None, None, (0, 0))) is None


def test_the_steepest_slope_is_the_greatest_of_all_sliding_lines() -> None:
    """numpy.polyfit over every run of neighbors."""
    y = MODELS["growth_gompertz"].value(TIME, np.array([-3.0, 3.0, 0.03, 60.0])) + RNG.normal(0, 0.01, TIME.size)
    found = kinetics.steepest(TIME, y[None], 7)
    lines = [np.polyfit(TIME[i : i + 7], y[i : i + 7], 1) for i in range(TIME.size - 6)]
    best = max(range(len(lines)), key=lambda i: lines[i][0])
    assert_allclose(found.slope[0], lines[best][0], rtol=1e-9)
    assert_allclose(found.at[0], TIME[best : best + 7].mean())
    assert_allclose(found.lag[0], found.at[0] + (y[:3].mean() - y[best : best + 7].mean()) / lines[best][0], rtol=1e-9)
    falling = kinetics.steepest(TIME, -y[None], 7, falling=True)
    assert_allclose(falling.slope, -found.slope)
    with pytest.raises(ValueError, match="at least 3"):
        kinetics.steepest(TIME, y[None], 2)
    assert np.isnan(kinetics.steepest(TIME[:4], y[None, :4], 7).slope[0])


@pytest.mark.parametrize("id", ["growth_logistic", "growth_gompertz"])
def test_rate_and_lag_are_those_of_the_tangent_at_the_inflection(id: str) -> None:
    """Zwietering et al. (1990), Appl. Environ. Microbiol. 56, 1875: the definitions of µm and λ; from memory."""
    p = np.array([-3.0, 4.0, 0.35, 6.0])
    t = np.linspace(0, 60, 60_001)
    slope = MODELS[id].gradient(t, p)
    at = int(np.argmax(slope))
    assert_allclose(slope[at], 0.35, rtol=1e-6)
    y = MODELS[id].value(t, p)
    assert_allclose(t[at] + (p[0] - y[at]) / slope[at], 6.0, rtol=1e-6)
    assert_allclose(MODELS[id].value(np.array([1e6]), p), p[0] + p[1], rtol=1e-12)


def test_the_growth_of_baranyi_and_roberts_solves_their_differential_equations() -> None:
    """Baranyi & Roberts (1994), Int. J. Food Microbiol. 23, 277, equations from memory: dq/dt = µq,
    dx/dt = µ·q/(1 + q)·(1 − x/xmax)·x with q0 = 1/(e^(µλ) − 1); scipy.integrate.
    """
    start, amplitude, rate, lag = -3.0, 4.2, 0.35, 6.0
    top = np.exp(start + amplitude)
    q0 = 1 / np.expm1(rate * lag)

    def grow(_: float, state: np.ndarray) -> list[float]:
        q, x = state
        return [rate * q, rate * q / (1 + q) * (1 - x / top) * x]

    t = np.linspace(0, 40, 41)
    solved = integrate.solve_ivp(grow, (0, 40), [q0, np.exp(start)], t_eval=t, rtol=1e-10, atol=1e-14)
    ours = MODELS["growth_baranyi"].value(t, np.array([start, amplitude, rate, lag]))
    assert_allclose(ours, np.log(solved.y[1]), atol=1e-6)
    late = MODELS["growth_baranyi"].value(np.array([1e4, 1e6]), np.array([start, amplitude, rate, lag]))
    assert_allclose(late, start + amplitude)


def test_what_follows_from_many_curves_is_what_follows_from_each() -> None:
    t = np.arange(0, 48, 1.5)
    y = np.array([
        MODELS["growth_logistic"].value(t, np.array([-3.0, 3.5, rate, 8.0])) + RNG.normal(0, 0.03, t.size)
        for rate in (0.2, 0.3, 0.45)
    ])  # fmt: skip
    many = fit_many("growth_logistic", t, y)
    for name in ("plateau", "doubling_time"):
        values, errors = many.derived(name)
        for i, row in enumerate(y):
            one = fit("growth_logistic", t, row).derived[name]
            assert_allclose(values[i], one.estimate, rtol=1e-6)
            assert_allclose(errors[i], one.standard_error, rtol=1e-5)


def test_activation_energy_is_the_slope_of_the_arrhenius_line() -> None:
    """Exact rates of 52 kJ/mol: −slope·R of ln(rate) on 1/T, R = 8.31446261815324 J/(mol K) (CODATA 2018)."""
    c = np.arange(5.0, 40, 5)
    rate = 2.0 * np.exp(52_000 / 8.31446261815324 * (1 / 298.15 - 1 / (c + 273.15)))
    found = fit("arrhenius", c, rate)
    line = stats.linregress(1 / (c + 273.15), np.log(rate))
    assert_allclose(found.parameters["energy"].estimate, 52.0, rtol=1e-8)
    assert_allclose(-line.slope * 8.31446261815324e-3, found.parameters["energy"].estimate, rtol=1e-8)
    assert_allclose(found.parameters["rate_25"].estimate, 2.0, rtol=1e-8)


def test_the_interval_of_an_optimum_stays_in_the_valley_of_the_best_fit() -> None:
    """Held at some places, the search falls where the highest temperature has no rate, in a valley ten times higher."""
    c = np.repeat([8.0, 12, 16, 20, 24, 28, 32, 36], 2)
    rate = np.array([9.83, 9.43, 12.70, 12.72, 16.71, 16.66, 21.61, 21.79, 27.89, 27.81, 32.89, 33.20, 28.49, 28.14,
                     11.11, 11.06])  # fmt: skip
    found = fit("optimum", c, rate)
    limit = found.sse + found.rmse**2 * found.t(0.95) ** 2
    best = found.parameters["optimum"].estimate
    for end in found.parameters["optimum"].interval(0.95, "profile"):
        assert abs(end - best) > 0.3

        def sse(free: np.ndarray, end: float = end) -> float:
            highest, below, above = free
            low, high = end - below, end + above
            top = highest * (c - high) * (c - low) ** 2
            y = top / (below * (below * (c - end) + above * (2 * end - below - 2 * c)))
            return float(((rate - np.where((c > low) & (c < high), y, 0)) ** 2).sum())

        start = [found.named[name] for name in ("highest", "below", "above")]
        held = optimize.minimize(
            sse, start, method="Nelder-Mead", options={"xatol": 1e-8, "fatol": 1e-12, "maxiter": 9000}
        )
        assert_allclose(held.fun, limit, rtol=1e-5)


SUBSTRATE = np.tile([1, 2, 5, 10, 20, 50.0], 4)
INHIBITOR = np.repeat([0, 1, 3, 10.0], 6)
TRUTH = {
    "competitive": (10.0, 5.0, 2.0), "uncompetitive": (10.0, 5.0, 2.0), "noncompetitive": (10.0, 5.0, 2.0),
    "mixed": (10.0, 5.0, 1.5, 6.0),
}  # fmt: skip


def rates_of(kind: str) -> np.ndarray:
    """By the textbook's equations, written out."""
    maximum, half, *ki = TRUTH[kind]
    s, i = SUBSTRATE, INHIBITOR
    return {
        "competitive": lambda: maximum * s / (half * (1 + i / ki[0]) + s),
        "uncompetitive": lambda: maximum * s / (half + s * (1 + i / ki[0])),
        "noncompetitive": lambda: maximum * s / ((half + s) * (1 + i / ki[0])),
        "mixed": lambda: maximum * s / (half * (1 + i / ki[0]) + s * (1 + i / ki[-1])),
    }[kind]()


@pytest.mark.parametrize("kind", INHIBITIONS)
def test_the_constants_of_inhibition_come_back_and_the_kind_is_told(kind: str) -> None:
    """Simulation with known constants: exact ones come back, noisy ones lie in their intervals, AICc names the kind."""
    exact = kinetics.inhibition(kind, SUBSTRATE, INHIBITOR, rates_of(kind))
    assert_allclose(exact.values, TRUTH[kind], rtol=1e-6)
    noisy = rates_of(kind) + np.random.default_rng(8).normal(0, 0.1, SUBSTRATE.size)
    tried = {each: kinetics.inhibition(each, SUBSTRATE, INHIBITOR, noisy) for each in INHIBITIONS}
    best = min(tried.values(), key=lambda each: each.aicc or 0.0)
    assert best.kind.id == kind
    for name, truth in zip(best.names, TRUTH[kind], strict=True):
        lower, upper = best.interval(name, 0.99) or (0.0, 0.0)
        assert lower < truth < upper
    theirs = optimize.least_squares(
        lambda p: noisy - kinetics.InhibitionFit(
            INHIBITIONS[kind], SUBSTRATE, INHIBITOR, noisy, np.exp(p), 0, None, True, ""
        ).predict(SUBSTRATE, INHIBITOR), np.log(TRUTH[kind]), xtol=1e-14, ftol=1e-14, gtol=1e-14,
    )  # fmt: skip
    assert_allclose(best.sse, 2 * theirs.cost, rtol=1e-9)


def test_a_constant_that_the_rates_leave_open_has_no_interval() -> None:
    noisy = rates_of("competitive") + np.random.default_rng(1).normal(0, 0.15, SUBSTRATE.size)
    assert kinetics.inhibition("mixed", SUBSTRATE, INHIBITOR, noisy).interval("ki_bound") is None
    with pytest.raises(ValueError, match="two inhibitor levels"):
        kinetics.inhibition("competitive", SUBSTRATE, np.zeros(24), noisy)
    with pytest.raises(ValueError, match="24 substrate levels, 24 inhibitor levels and 3 rates"):
        kinetics.inhibition("competitive", SUBSTRATE, INHIBITOR, [1, 2, 3])


def test_what_replicates_disagree_by_is_split_from_their_own_error() -> None:
    """By hand: two groups whose variances are exactly their own error and a tenth of the rate squared."""
    found = kinetics.between([1.0, 10.0], [0.01 + 0.04, 1.0 + 0.04], [0.04, 0.04], [3, 3])
    assert_allclose(found.share, 0.01, rtol=1e-9)
    assert (found.df >= 2).all()
    none = kinetics.between([1.0, 10.0], [0.001, 0.002], [0.04, 0.04], [2, 2])
    assert none.share == 0 and (none.df >= 1).all()
    assert kinetics.between([], [], [], []).share == 0


@pytest.mark.parametrize(
    ("unit", "terms", "to", "factor", "found"),
    [
        # 1 AU/min over 6.22 /mM/cm and 1 cm is 160.77 µM/min (NADH at 340 nm, common practice, no source).
        ("AU/min", [(6220, "L/mol/cm", -1), (1, "cm", -1)], "", 1e6 / 6220, "µmol/L/min"),
        ("AU/min", [(18000, "L/mol/cm", -1), (1, "cm", -1), (1, "mL", 1), (0.42, "mg", -1)], "nmol/min/mg",
         1e6 / 18000 / 0.42, "nmol/min/mg"),
        ("1/s", [(18, "L/mmol/cm", -1), (0.5, "cm", -1)], "mM/min", 60 / 9, "mM/min"),
        ("mAU/s", [(1, "L/mol/cm", -1), (1, "cm", -1)], "mol/L/s", 1e-3, "mol/L/s"),
        ("RFU/s", [(250, "RFU/µM", -1)], "nM/s", 4.0, "nM/s"),
    ],
)  # fmt: skip
def test_rates_in_real_units(unit: str, terms: list, to: str, factor: float, found: str) -> None:
    assert combined(unit, terms, to) == (pytest.approx(factor, rel=1e-9), found)


@pytest.mark.parametrize(
    ("terms", "to", "said"),
    [
        ([(6220, "L/mol/cm", -1)], "µmol/L/min", "not in µmol/L/min"),  # the path is missing
        ([(1, "blubs", -1)], "", "“blubs” is no unit"),
        ([], "m", "not in m"),
    ],
)
def test_units_that_do_not_come_to_what_is_asked_are_named(terms: list, to: str, said: str) -> None:
    with pytest.raises(UnitError, match=said):
        combined("AU/min", terms, to)
