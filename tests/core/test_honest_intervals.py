"""What makes intervals cover what they say: shared errors, tests before pooling, weights by spread, robust variance."""

import math

import numpy as np
import pytest
import statsmodels.api as sm
from numpy.testing import assert_allclose
from scipy import optimize, special, stats
from statsmodels.tools.numdiff import approx_hess

from dosis.core import custom, fit, limits, potency, quantal
from dosis.core.expressions import parse
from dosis.core.expressions.affine import linear_names
from dosis.core.fitting.uneven import uneven_spread
from dosis.core.fitting.weights import Rising
from dosis.core.inference.common import CommonError
from dosis.core.inference.spread import Spread, apart, effective, pooled_or_own, together
from dosis.core.quantal.fitted import CHANCE, scatter_of
from dosis.core.quantal.potency import Controls, relative_potency
from dosis.core.replicates import MEDIAN_VARIANCE, summarize

X = np.repeat([1.0, 2.0, 4.0, 6.0, 8.0, 10.0], 2)
OFF = np.array([4, -3, -6, 7, 2, -5, 9, 1, -8, -2, 3, -2]) / 1000


def critical(p: float, one: int, other: int) -> float:
    """The ratio of variances with that p."""
    return float(stats.f.isf(p, one, other))


@pytest.mark.parametrize(("df", "p"), [(6, 0.25), (2, 0.40)])
def test_a_larger_variance_stands_alone_from_a_lenient_p(df: int, p: float) -> None:
    """Bancroft (1964), Biometrics 20, 427: a preliminary test at 25 %; with few degrees of freedom 40 % (simulated)."""
    other = Spread(1.0, 10)
    assert apart(Spread(critical(p, df, 10) * 1.001, df), other) == pytest.approx(p, rel=0.01)
    assert apart(Spread(critical(p, df, 10) * 0.999, df), other) is None
    part = critical(0.10, df, 10)
    assert apart(Spread(part * 1.001, df), other, part=True) is not None
    assert apart(Spread(part * 0.999, df), other, part=True) is None
    assert pooled_or_own(Spread(2.0, 2), other) == Spread(14 / 12, 12)


def test_a_variance_that_is_plainly_smaller_stands_alone() -> None:
    other = Spread(1.0, 10)
    edge = 1 / critical(0.05, 10, 6)
    assert apart(Spread(edge * 0.999, 6), other) is not None and apart(Spread(edge * 1.001, 6), other) is None
    assert apart(Spread(0.0, 6), other) is None and apart(Spread(1.0, 0), other) is None


def test_degrees_of_freedom_of_a_sum_are_those_of_satterthwaite() -> None:
    """Satterthwaite (1946), Biometrics Bull. 2, 110, equation 17; Welch's case by scipy."""
    one, other = np.array([4.1, 5.2, 6.9, 4.4]), np.array([1.0, 9.0, 3.0, 7.5, 2.2, 8.8])
    welch = stats.ttest_ind(one, other, equal_var=False)
    parts = [Spread(each.var(ddof=1) / each.size, each.size - 1) for each in (one, other)]
    assert effective(parts) == pytest.approx(welch.df)
    assert effective([Spread(2.0, 7)]) == 7 and effective([Spread(0.0, 3), Spread(1.0, 5)]) == 5
    assert math.isinf(effective([Spread(1.0, 0), Spread(1.0, 0)]))
    assert together([Spread(1.0, 2), Spread(4.0, 4), Spread(9.0, 0)]) == Spread(3.0, 6)


def test_the_median_is_worth_less_than_the_mean() -> None:
    """The variance of the median of 3 and 5 normal readings by quadrature of its density (Kendall & Stuart, 14.6)."""
    z = np.linspace(-9, 9, 20001)
    for n in (3, 5):
        k = (n - 1) // 2
        density = (
            math.factorial(n) / math.factorial(k) ** 2 * (special.ndtr(z) * special.ndtr(-z)) ** k * stats.norm.pdf(z)
        )
        variance = float(np.trapezoid(z * z * density, z))
        assert MEDIAN_VARIANCE[n - 1] == pytest.approx(n * variance, rel=1e-4)
        assert summarize([1.0, 2.0, 4.0, 8.0, 9.0][:n], "median").worth == pytest.approx(1 / variance, rel=1e-4)
    assert summarize([1.0, 2.0, 4.0]).worth == 3


def test_an_error_that_is_in_everything_cancels_where_the_line_has_a_constant() -> None:
    straight = fit("line", X, 0.1 * X + 0.3 + OFF)
    shared = straight.judged((CommonError(Spread(0.02**2, 3), on=np.ones(X.size), carries=1.0),))
    plain, wide = straight.read_back([0.8, 0.82]), shared.read_back([0.8, 0.82])
    assert_allclose((wide.lower, wide.upper), (plain.lower, plain.upper), rtol=1e-9)


def test_a_blank_of_its_own_adds_its_variance_to_a_sample() -> None:
    """By hand: (s²/m + s_b²) + the line's part, over the slope squared; only the sample carries it."""
    straight = fit("line", X, 0.1 * X + 0.3 + OFF)
    blank = 0.02**2 / 3
    shared = straight.but(common=(CommonError(Spread(blank, 2), on=np.zeros(X.size), carries=1.0),))
    plain, wide = straight.read_back([0.8, 0.82]), shared.read_back([0.8, 0.82])
    slope = straight.named["slope"]
    assert wide.standard_error == pytest.approx(math.sqrt((plain.standard_error or 0) ** 2 + blank / slope**2))
    own = (plain.standard_error or 0) ** 2 * slope**2
    df = effective([Spread(own, 10), Spread(blank, 2)])
    half = float(stats.t.ppf(0.975, df)) * (wide.standard_error or 0)
    assert ((wide.upper or 0) - (wide.lower or 0)) / 2 == pytest.approx(half, rel=1e-3)


@pytest.mark.parametrize("model", ["line_through_zero", "hyperbola"])
def test_a_blank_off_everything_moves_a_curve_without_a_constant(model: str) -> None:
    """The numerical derivative: all readings and the sample moved together, fitted and read back anew."""
    truth = 0.1 * X if model == "line_through_zero" else 1.5 * X / (4 + X)
    curve, e, signal = fit(model, X, truth + OFF), 1e-5, 0.52
    moved = (
        fit(model, X, truth + OFF + e).read_back(signal + e).estimate
        - fit(model, X, truth + OFF - e).read_back(signal - e).estimate
    )
    spread = Spread(0.01**2, 4)
    shared = curve.but(common=(CommonError(spread, on=np.ones(X.size), carries=1.0),))
    plain, wide = (each.read_back(signal).standard_error or 0 for each in (curve, shared))
    # The curvature of a hyperbola, which the first order leaves out, is some hundredths of it.
    assert wide**2 - plain**2 == pytest.approx(spread.variance * (moved / (2 * e)) ** 2, rel=0.03)


def test_references_move_plateaus_and_so_an_absolute_dose_only() -> None:
    """By the general formula, from the readings, and by the shift known in advance."""
    dose = np.repeat(np.geomspace(0.01, 30, 9), 2)
    rng = np.random.default_rng(5)
    y = 100 / (1 + dose / 0.5) + rng.normal(0, 4, dose.size)
    curve = fit("logistic4", dose, y)
    fitted = (y - curve.residuals) / 100
    full, none = Spread(4.0**2 / 3, 2), Spread(4.0**2 / 3, 2)
    by_readings = curve.but(common=(CommonError(full, on=-(1 - fitted)), CommonError(none, on=-fitted)))
    names = curve.model.names
    shifts = []
    for end in (0, 1):
        shift = np.zeros(len(names))
        for plateau in ("lower", "upper"):
            s = curve.named[plateau] / 100
            shift[names.index(plateau)] = -(s if end else 1 - s)
        shifts.append(shift)
    known = curve.but(common=(CommonError(full, shift=shifts[0]), CommonError(none, shift=shifts[1])))
    for shared in (by_readings, known):
        assert shared.dose_at(0.5).standard_error == pytest.approx(curve.dose_at(0.5).standard_error, rel=1e-6)
    plain, wide, same = (each.dose_at(50.0, "response").standard_error or 0 for each in (curve, by_readings, known))
    slope = float(curve.model.gradient(np.array([curve.dose_at(50.0, "response").estimate]), curve.values)[0])
    assert wide == pytest.approx(same, rel=1e-6)
    assert wide**2 - plain**2 == pytest.approx(0.25 * (full.variance + none.variance) / slope**2, rel=1e-3)


def test_two_concentrations_of_one_curve_move_together() -> None:
    """The variance of their difference by hand: of a line, (x₁ − x₂)² times that of the slope, over its square."""
    straight = fit("line", X, 0.1 * X + 0.3 + OFF)
    one, other = 3.0, 7.0
    v = [straight.covariance_between(a, b) or 0 for a, b in ((one, one), (other, other), (one, other))]
    slope = straight.parameters["slope"]
    assert v[0] + v[1] - 2 * v[2] == pytest.approx(16 * (slope.standard_error or 0) ** 2 / slope.estimate**2)


def test_a_spread_that_rises_is_seen_and_weighted_and_a_bend_is_not_taken_for_one() -> None:
    levels = np.repeat([1.0, 2.0, 4.0, 8.0, 16.0, 32.0], 3)
    pattern = np.tile([-1.0, 0.2, 0.8], 6)
    rising = uneven_spread(levels, levels * (1 + 0.06 * pattern))
    assert rising is not None and rising.p < 0.001 and rising.highest > 10 * rising.lowest
    weights = rising.weights.at(np.array([1.0, 32.0]))
    assert weights[0] / weights[1] == pytest.approx((rising.highest / rising.lowest) ** 2, rel=0.1)
    bent = uneven_spread(levels, np.sqrt(levels) + 0.05 * pattern)  # a straight line through it misses it by far
    assert bent is None or bent.p > 0.2
    assert uneven_spread(levels[::3], levels[::3]) is None  # no replicates
    assert uneven_spread(np.repeat([1.0, 2.0], 4), np.array([1, 1.1, 0.9, 1, 2, 4, 1, 3])) is None  # two levels


def test_weights_by_a_rising_spread_are_those_of_their_rule() -> None:
    y = 0.1 * X * (1 + OFF * 10)
    weighted = fit("line", X, y, weights=Rising(0.3))
    means = np.repeat(y.reshape(-1, 2).mean(axis=1), 2)
    by_hand = sm.WLS(y, sm.add_constant(X), weights=1 / (1 + (means / 0.3) ** 2)).fit()
    assert_allclose([weighted.named["intercept"], weighted.named["slope"]], by_hand.params, rtol=1e-7)
    assert weighted.variance_factor(np.array([0.6]), np.array([6.0]))[0] == pytest.approx(5.0)


def test_a_weighted_interval_is_asked_of_every_concentration() -> None:
    """With SD in proportion to the signal the ends of the interval are where the line leaves Y by t of *its* SD."""
    y = 0.1 * X * (1 + OFF * 10)
    weighted = fit("line", X, y, weights="1/yhat^2")
    found = weighted.read_back(0.5)
    t = weighted.t(0.95)
    for end in (found.lower, found.upper):
        value, variance = weighted.mean_at(np.array([end]))
        sd = math.sqrt((weighted.rmse or 0) ** 2 * value[0] ** 2 + variance[0])
        assert abs(0.5 - value[0]) == pytest.approx(t * sd, rel=1e-9)


@pytest.mark.parametrize("function", ["huber", "bisquare"])
def test_robust_standard_errors_are_hubers(function: str) -> None:
    """Huber & Ronchetti (2009), 7.6, as statsmodels has it (RLM, covariance H1), at the weights both come to."""
    rng = np.random.default_rng(8)
    x = np.linspace(1, 10, 40)
    y = 2 + 0.5 * x + rng.normal(0, 0.1, 40)
    y[[3, 17]] += 2
    mine = fit("line", x, y, robust=function)
    norm = sm.robust.norms.HuberT(1.345) if function == "huber" else sm.robust.norms.TukeyBiweight(4.685)
    theirs = sm.RLM(y, sm.add_constant(x), M=norm).fit(cov="H1", maxiter=200, tol=1e-12)
    errors = [mine.parameters[name].standard_error for name in ("intercept", "slope")]
    # Their MAD is over all residuals and mine leaves out as many as parameters; JᵀWJ stands for its mean.
    assert_allclose(errors, theirs.bse, rtol=0.12)


def test_limits_of_a_weighted_line_do_not_hang_on_the_unit() -> None:
    """In µM or nM, in absorbance or a thousandth of it, the same amount is detected."""
    y = 0.1 * X * (1 + OFF * 10) + 0.01
    one = limits.detection_limits(fit("line", X, y, weights="1/x^2"))
    other = limits.detection_limits(fit("line", 1000 * X, y, weights="1/x^2"))
    third = limits.detection_limits(fit("line", X, 1000 * y, weights="1/y^2"))
    assert other.lod == pytest.approx(1000 * one.lod) and one.at == 1.0 and other.at == 1000.0
    assert third.lod == pytest.approx(limits.detection_limits(fit("line", X, y, weights="1/y^2")).lod)


def test_scatter_of_counts_is_fletchers() -> None:
    """Fletcher (2012), Biometrika 99, 230: Pearson over its degrees of freedom, over 1 + the mean of V′(y − µ)/V."""
    p, r, n = np.array([0.1, 0.4, 0.8]), np.array([0.0, 9.0, 17.0]), np.full(3, 20.0)
    mean, variance = n * p, n * p * (1 - p)
    pearson = float(((r - mean) ** 2 / variance).sum()) / 1
    s = float(((1 - 2 * p) * (r - mean) / variance).mean())
    assert s < 0 and scatter_of(p, r, n, 1) == pytest.approx(pearson / (1 + s))
    more = np.array([5.0, 9.0, 17.0])
    assert scatter_of(p, more, n, 1) == pytest.approx(float(((more - mean) ** 2 / variance).sum()))


def test_variances_are_multiplied_from_a_factor_of_1_2() -> None:
    dose, n = [1.0, 2.0, 4.0, 8.0, 16.0], [40] * 5
    for killed in ([4, 9, 23, 30, 38], [2, 13, 16, 35, 36], [5, 8, 24, 29, 39]):
        found = quantal.fit(dose, killed, n, widened="always")
        assert found.scatter is not None
        assert found.widening == (found.scatter if found.scatter > CHANCE else 1.0)
        assert (found.quantile(0.95) > 2) is (found.widening > 1)
        assert quantal.fit(dose, killed, n, widened="never").widening == 1


def test_a_beta_binomial_line_is_the_one_of_greatest_likelihood() -> None:
    """Williams (1975), Biometrics 31, 949; the likelihood by scipy's beta-binomial distribution."""
    dose, n = np.repeat([1.0, 2.0, 4.0, 8.0], 4), np.full(16, 20)
    killed = np.array([0, 3, 1, 6, 2, 9, 5, 4, 12, 6, 15, 9, 19, 13, 17, 20])
    found = quantal.fit(dose, killed, n, link="logit", widened="beta-binomial")
    assert found.correlation is not None

    def minus(q: np.ndarray) -> float:
        p, rho = special.expit(q[0] + q[1] * np.log10(dose)), special.expit(q[2])
        a, b = p * (1 - rho) / rho, (1 - p) * (1 - rho) / rho
        return -float(stats.betabinom.logpmf(killed, n, a, b).sum())

    best = optimize.minimize(minus, [-2.0, 4.0, -2.0], method="BFGS", options={"gtol": 1e-8})
    assert_allclose(found.parameters, best.x[:2], rtol=1e-4)
    assert found.correlation == pytest.approx(special.expit(best.x[2]), rel=1e-3)
    errors = np.sqrt(np.diag(np.linalg.inv(approx_hess(best.x, minus))))
    assert_allclose(errors[:2], found.standard_errors, rtol=2e-3)
    chance = quantal.fit(dose, killed, n, link="logit", widened="never")
    wide, narrow = (each.dose_for(0.5) for each in (found, chance))
    assert (wide.upper or 0) / (wide.lower or 1) > (narrow.upper or 0) / (narrow.lower or 1)
    even = quantal.fit([1.0, 2.0, 4.0, 8.0] * 2, [2, 6, 12, 18] * 2, [20] * 8, widened="beta-binomial")
    assert even.correlation is None  # vessels that agree better than chance


def test_the_profile_fits_the_background_anew_at_every_dose() -> None:
    """The end of a profile interval by an independent minimizer, of slope and background, controls among the counts."""
    dose, killed = [1.0, 2.0, 4.0, 8.0, 16.0, 0.0], [5, 8, 17, 31, 39, 2]
    n = [40] * 5 + [20]
    found = quantal.fit(dose, killed, n, background="estimated", widened="never")
    end = math.log10(found.dose_for(0.1, method="profile").upper or 0)
    x, r, of = np.log10(dose[:5]), np.array(killed, dtype=float), np.array(n, dtype=float)

    def deviance(theta: np.ndarray) -> float:
        c = 1 / (1 + math.exp(-theta[1]))
        p = np.append(c + (1 - c) * special.ndtr(special.ndtri(0.1) + theta[0] * (x - end)), c)
        return float(2 * (special.xlogy(r, r / (of * p)) + special.xlogy(of - r, (of - r) / (of * (1 - p)))).sum())

    best = min(optimize.minimize(deviance, [s, -2.0], method="Nelder-Mead", options={"xatol": 1e-9, "fatol": 1e-11}).fun
               for s in (2.0, 4.0))  # fmt: skip
    assert best - found.deviance == pytest.approx(stats.chi2.isf(0.05, 1), abs=1e-5)


def test_controls_of_which_none_died_leave_the_line_as_it_is_without_them() -> None:
    dose, killed = [1.0, 2.0, 4.0, 8.0, 16.0], [0, 3, 12, 18, 20]
    alone = quantal.fit(dose, killed, [20] * 5)
    found = quantal.fit([0.0, *dose], [0, *killed], [40, *[20] * 5], background="estimated")
    assert found.background == 0 and found.slope == pytest.approx(alone.slope, rel=1e-6)
    assert found.standard_errors[1] == pytest.approx(alone.standard_errors[1], rel=1e-6)


def test_abbotts_correction_carries_the_controls() -> None:
    """With ever more controls their part goes to nothing; with few it is most of what LC10 leaves open."""
    dose, killed = [1.0, 2.0, 4.0, 8.0, 16.0], [7, 12, 22, 33, 39]
    errors = [
        quantal.fit(dose, killed, [40] * 5, background="abbott", control=(n / 10, n), known_controls=False)
        .dose_for(0.1, method="delta").log_standard_error or 0
        for n in (20, 200, 200_000)
    ]  # fmt: skip
    assert errors[0] > 1.2 * errors[1] > 1.2 * errors[2]


def test_a_dose_below_zero_is_none() -> None:
    """On a linear dose, a line that has a tenth affected at less than no dose."""
    found = quantal.fit([0.5, 2, 3, 4, 5], [7, 8, 12, 15, 16], [20] * 5, log_dose=False).dose_for(0.1)
    assert found.estimate is None and "below zero dose" in found.reason
    assert (quantal.fit([0.5, 2, 3, 4, 5], [3, 6, 12, 15, 16], [20] * 5, log_dose=False).dose_for(0.1).lower or 0) >= 0


def test_potency_with_a_common_background_and_on_the_dose_itself() -> None:
    """The likelihood is that of a generalized linear model: statsmodels, binomial with a logit link."""
    dose = np.tile([1.0, 2.0, 3.0, 4.0, 5.0], 2)
    killed, n = np.array([2, 5, 9, 14, 17, 1, 3, 6, 10, 14]), np.full(10, 20)
    labels = ["A"] * 5 + ["B"] * 5
    found = relative_potency(dose, killed, n, labels, link="logit", log_dose=False)["B"]
    member = np.array([[1.0, 0.0]] * 5 + [[0.0, 1.0]] * 5)
    design = np.column_stack((np.ones(10), member * dose[:, None]))
    theirs = sm.GLM(np.column_stack((killed, n - killed)), design, family=sm.families.Binomial()).fit()
    assert found.estimate == pytest.approx(theirs.params[2] / theirs.params[1], rel=1e-6)
    assert found.deviance == pytest.approx(theirs.deviance, rel=1e-8)
    both = Controls(3, 40)
    with_c = relative_potency(dose, killed, n, labels, link="logit", controls={"A": both, "B": both})["B"]
    t, r, of = np.log10(dose), np.append(killed, 3.0), np.append(n, 40.0)

    def minus(theta: np.ndarray) -> float:
        c = 1 / (1 + math.exp(-theta[3]))
        p = np.append(c + (1 - c) * special.expit(member @ theta[:2] + theta[2] * t), c)
        return -float((special.xlogy(r, p) + special.xlogy(of - r, 1 - p)).sum())

    best = optimize.minimize(minus, [-3.0, -3.5, 6.0, -3.0], method="BFGS", options={"gtol": 1e-9}).x
    assert with_c.log_estimate == pytest.approx((best[1] - best[0]) / best[2], rel=1e-4)


def test_a_potency_is_widened_by_the_root_of_the_scatter_once() -> None:
    """Delta standard errors of log potency, with the scatter and without: their ratio squared is the factor."""
    dose = np.tile(np.repeat([1.0, 2.0, 4.0, 8.0], 2), 2)
    killed = np.array([0, 4, 2, 8, 7, 14, 13, 20, 0, 2, 1, 5, 3, 11, 9, 17])
    labels, n = ["A"] * 8 + ["B"] * 8, np.full(16, 20)
    wide, narrow = (relative_potency(dose, killed, n, labels, widened=widened)["B"] for widened in (True, False))
    member = np.repeat(np.eye(2), 8, axis=0)
    design = np.column_stack((member, np.log10(dose)))
    theirs = sm.GLM(np.column_stack((killed, n - killed)), design, family=sm.families.Binomial()).fit()
    factor = scatter_of(theirs.fittedvalues, killed, n, 13)
    assert factor > 1.5
    assert ((wide.log_standard_error or 0) / (narrow.log_standard_error or 1)) ** 2 == pytest.approx(factor, rel=1e-6)


def test_flat_responses_have_no_potency_and_say_so() -> None:
    for value in (0.0, 1.0):
        flat = potency.slope_ratio([0, 0, 1, 2, 3, 1, 2, 3], [value] * 8, ["S"] * 5 + ["T"] * 3)["T"]
        assert flat.lower is None and flat.reason
    lines = potency.parallel_lines([1, 2, 4] * 4, [0.0] * 12, ["S"] * 6 + ["T"] * 6)["T"]
    assert math.isnan(lines.estimate) and "does not change" in lines.reason


@pytest.mark.parametrize(
    ("text", "linear"),
    [
        ("b1*(1-exp(-b2*x))", ("b1",)),
        ("b1 + b2*exp(-x*b4) + b3*exp(-x*b5)", ("b1", "b2", "b3")),
        ("a*b*x + c", ("a", "c")),
        ("a/(b + x)", ("a",)),
        ("x/(a*x + b)", ()),
        ("if(x < 2, a*x, b)", ("a", "b")),
        ("if(x < c, a, b)", ("a", "b")),
        ("a^2*x + abs(b)", ()),
        ("(a + b*x)/x^2 - 3", ("a", "b")),
    ],
)
def test_what_an_equation_is_linear_in_is_read_off_its_tree(text: str, linear: tuple[str, ...]) -> None:
    names = tuple(sorted(parse(text).names - {"x"}))
    assert linear_names(parse(text), names) == linear


BOXBOD = ([1, 2, 3, 5, 7, 10], [109, 149, 149, 191, 213, 224])
MGH10 = (
    [50 + 5 * i for i in range(16)],
    [34780, 28610, 23650, 19630, 16370, 13720, 11540, 9744, 8261, 7030, 6005, 5147, 4427, 3820, 3307, 2872],
)
MGH17 = (
    [10 * i for i in range(33)],
    [0.844, 0.908, 0.932, 0.936, 0.925, 0.908, 0.881, 0.850, 0.818, 0.784, 0.751, 0.718, 0.685, 0.658, 0.628, 0.603,
     0.580, 0.558, 0.538, 0.522, 0.506, 0.490, 0.478, 0.467, 0.457, 0.448, 0.438, 0.431, 0.424, 0.420, 0.414, 0.411,
     0.406],
)  # fmt: skip


@pytest.mark.parametrize(
    ("data", "equation", "start", "certified"),
    [
        (BOXBOD, "b1*(1-exp(-b2*x))", (1, 1), (2.1380940889e2, 5.4723748542e-1)),
        (MGH10, "b1*exp(b2/(x+b3))", (2, 400000, 25000), (5.6096364710e-3, 6.1813463463e3, 3.4522363462e2)),
        (MGH17, "b1+b2*exp(-x*b4)+b3*exp(-x*b5)", (50, 150, -100, 1, 2),
         (3.7541005211e-1, 1.9358469127, -1.4646871366, 1.2867534640e-2, 2.2122699662e-2)),
    ],
    ids=["boxbod", "mgh10", "mgh17"],
)  # fmt: skip
def test_own_equations_reach_the_certified_minimum_from_the_first_start(data, equation, start, certified) -> None:
    """NIST StRD, nonlinear regression: BoxBOD, MGH10, MGH17, start 1 (data and certified values from memory)."""
    found = fit(custom(equation), *data, start={f"b{i}": value for i, value in enumerate(start, 1)})
    assert found.converged
    assert_allclose([found.named[f"b{i}"] for i in range(1, len(certified) + 1)], certified, rtol=2e-8)


def test_an_own_equation_linear_in_everything_is_solved_directly() -> None:
    """NIST StRD Wampler5 is a polynomial of which QR finds all but the last digits; here without its noise."""
    x = np.arange(21.0)
    found = fit(custom("b0 + b1*x + b2*x^2 + b3*x^3 + b4*x^4 + b5*x^5"), x, sum(x**k for k in range(6)))
    assert "directly" in found.message
    assert_allclose(list(found.named.values()), 1.0, rtol=1e-9)
    assert fit(custom("3 + b1*x"), [1, 2, 3, 4], [5, 7, 9, 11]).named["b1"] == pytest.approx(2.0)
