"""Every curve model: its derivative, its start values, reading back; robust, fixed and bounded fits; own equations."""

import lmfit
import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core import MODELS, Flag, by_shape, custom, fit
from dosis.core.expressions import ExpressionError, parse

# One set of plausible parameters for each model, and the x on which it is tried.
DOSES = np.array([0.0, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0])
TIMES = np.linspace(0, 12, 25)
CASES = {
    "line": ((0.4, 1.5), TIMES), "line_through_zero": ((0.4,), TIMES), "quadratic": ((1.0, 0.5, -0.02), TIMES),
    "cubic": ((1.0, 0.5, -0.1, 0.006), TIMES), "power": ((2.0, 0.7), TIMES[1:]),
    "hyperbola": ((9.0, 1.4), DOSES), "hyperbola_offset": ((9.0, 1.4, 0.6), DOSES), "hill": ((9.0, 1.4, 1.8), DOSES),
    "substrate_inhibition": ((9.0, 0.8, 12.0), DOSES), "logistic4": ((0.2, 2.1, 1.6, -1.2), DOSES),
    "logistic5": ((0.2, 2.1, 1.6, 1.4, 0.5), DOSES),
    "logistic5_mirrored": ((0.2, 2.1, 1.6, 1.4, 0.5), DOSES), "logistic3": ((2.1, 1.6, 1.2), DOSES),
    "logistic2": ((1.6, -1.2), DOSES), "logistic2_fraction": ((1.6, 1.2), DOSES),
    "weibull": ((0.2, 2.1, 1.6, 1.2), DOSES), "gompertz_dose": ((0.2, 2.1, 5.0, 0.8), TIMES),
    "hormesis": ((0.1, 2.0, 1.5, 1.2, 2.6), DOSES),
    "bell": ((0.2, 2.4, 0.3, 1.5, 20.0, 1.7), np.geomspace(0.01, 300, 30)),
    "boltzmann": ((0.2, 2.1, 5.0, 0.9), TIMES), "growth_logistic": ((0.1, 1.6, 0.5, 2.0), TIMES),
    "growth_gompertz": ((0.1, 1.6, 0.5, 2.0), TIMES), "exponential_growth": ((0.2, 0.21), TIMES),
    "growth_baranyi": ((0.1, 1.6, 0.5, 2.0), TIMES), "arrhenius": ((2.0, 52.0), 3 * TIMES),
    "exponential_decay": ((3.0, 0.3), TIMES), "exponential_decay_plateau": ((3.0, 0.5, 0.4), TIMES),
    "exponential_decay_2": ((3.0, 2.0, 1.5, 0.15), TIMES), "exponential_rise": ((3.0, 0.4), TIMES),
    "exponential_rise_offset": ((0.5, 2.0, 0.4), TIMES), "gaussian": ((0.1, 2.0, 5.0, 1.3), TIMES),
    "threshold_decline": ((2.0, 0.6, 0.2), DOSES), "optimum": ((2.0, 7.0, 6.5, 4.0), TIMES + 0.03),
}  # fmt: skip


def curve(id: str, noise: float = 0.0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The model's x in duplicate, y with some noise, and the true parameters."""
    truth, x = np.array(CASES[id][0]), np.repeat(CASES[id][1], 2)
    y = MODELS[id].value(x, truth)
    return x, y + noise * np.ptp(y) * np.random.default_rng(5).standard_normal(x.size), truth


def test_every_model_is_tried_here_and_has_a_shape_and_words() -> None:
    assert set(CASES) == set(MODELS)
    assert set(by_shape()) == {"straight", "saturating", "sigmoid", "threshold", "growing", "decaying", "peaked"}
    for model in MODELS.values():
        assert all(parameter.meaning and parameter.name for parameter in model.parameters)
        assert len({parameter.name for parameter in model.parameters}) == len(model.parameters)


@pytest.mark.parametrize("id", CASES)
def test_derivatives_are_those_of_the_equation(id: str) -> None:
    """Against central differences of the value; zero dose included, where the limit is meant."""
    model, truth, x = MODELS[id], np.array(CASES[id][0]), CASES[id][1]
    found = model.derivative(x, truth)
    assert np.isfinite(found).all()
    for i in range(truth.size):
        step = np.zeros_like(truth)
        step[i] = 1e-6 * max(abs(truth[i]), 1e-3)
        slope = (model.value(x, truth + step) - model.value(x, truth - step)) / (2 * step[i])
        assert_allclose(found[:, i], slope, rtol=1e-6, atol=1e-7 * (1 + np.abs(slope).max()))


@pytest.mark.parametrize("id", CASES)
def test_parameters_come_back_from_exact_readings_without_start_values(id: str) -> None:
    x, y, truth = curve(id)
    result = fit(id, x, y)
    assert result.converged
    assert_allclose(result.predict(x), y, atol=1e-7 * np.ptp(y))
    if id not in ("bell",):  # a far plateau is not determined by where the readings stand
        assert_allclose(result.values, truth, rtol=1e-4)


@pytest.mark.parametrize("id", [id for id in CASES if id != "optimum"])
def test_no_other_program_finds_a_better_minimum(id: str) -> None:
    """lmfit (leastsq) from the true parameters as an independent reference: SSE and standard errors."""
    x, y, truth = curve(id, noise=0.03)
    model = MODELS[id]
    parameters = lmfit.Parameters()
    for name, value in zip(model.names, truth, strict=True):
        parameters.add(name, value=value, min=1e-9 if model.parameters[model.names.index(name)].positive else -np.inf)
    theirs = lmfit.minimize(
        lambda p: y - model.value(x, np.array([p[name].value for name in model.names])), parameters,
        ftol=1e-14, xtol=1e-14, gtol=1e-14,
    )  # fmt: skip
    ours = fit(id, x, y)
    assert ours.converged
    assert ours.sse <= theirs.chisqr * (1 + 1e-8)


def test_reading_back_what_was_predicted() -> None:
    for id in ("logistic4", "logistic5", "hyperbola", "hill", "exponential_rise", "quadratic", "boltzmann"):
        x, y, _ = curve(id, noise=0.005)
        result = fit(id, x, y)
        for at in (0.5, 2.0, 7.0):
            back = result.read_back(float(result.predict(at)[0]))
            if back.flag is None:
                assert back.estimate == pytest.approx(at, rel=1e-8)
                assert (back.lower or -np.inf) < at < (back.upper or np.inf)


def test_signals_beyond_the_curve_are_flagged_by_their_side() -> None:
    x, y, _ = curve("logistic4", noise=0.01)  # falling
    result = fit("logistic4", x, y)
    assert result.read_back(5.0).flag is Flag.BELOW_RANGE
    assert result.read_back(-1.0).flag is Flag.ABOVE_RANGE
    assert result.read_back(-1.0).estimate is None
    bell = fit("gaussian", *curve("gaussian", noise=0.01)[:2])
    assert bell.read_back(1.0).flag is Flag.AMBIGUOUS


def test_robust_fits_shrug_at_an_outlier() -> None:
    x, y, truth = curve("logistic4", noise=0.01)
    y[7] += 3.0
    plain = fit("logistic4", x, y)
    for function in ("huber", "bisquare"):
        robust = fit("logistic4", x, y, robust=function)
        assert robust.converged
        assert abs(np.log(robust.values[2] / truth[2])) < 0.5 * abs(np.log(plain.values[2] / truth[2]))


def test_fixed_and_bounded_parameters_stay_where_they_are_told() -> None:
    x, y, _ = curve("logistic4", noise=0.02)
    held = fit("logistic4", x, y, fixed={"lower": 0.0})
    assert held.values[0] == 0.0 and held.parameters["lower"].standard_error is None
    assert held.degrees_of_freedom == x.size - 3
    assert held.sse >= fit("logistic4", x, y).sse
    bounded = fit("logistic4", x, y, bounds={"lower": (0.5, None)})
    assert bounded.named["lower"] == pytest.approx(0.5)
    assert bounded.named["lower"] < bounded.named["upper"] and bounded.named["slope"] < 0


def test_reweighting_by_the_fitted_signal_settles() -> None:
    x, y, truth = curve("exponential_decay", noise=0.0)
    y = y * (1 + 0.05 * np.random.default_rng(3).standard_normal(y.size))
    result = fit("exponential_decay", x, y, weights="1/yhat^2")
    assert result.converged
    assert_allclose(result.weights, 1 / np.square(result.predict(x)), rtol=1e-6)
    assert result.values[1] == pytest.approx(truth[1], rel=0.05)


def test_bootstrap_interval_is_near_the_profile() -> None:
    x, y, _ = curve("hyperbola", noise=0.03)
    half = fit("hyperbola", x, y).parameters["half"]
    assert_allclose(half.interval(method="bootstrap"), half.interval(method="profile"), rtol=0.12)


@pytest.mark.parametrize(
    ("y", "said"),
    [([1.0] * 9, "does not change"), ([1, 2], "at least 4 readings"), ([5, 1, 4, 1, 5, 9, 2, 6, 5], "")],
)
def test_what_the_data_cannot_support_is_a_result_with_its_reason(y: list, said: str) -> None:
    x = [0, 0.1, 0.3, 1, 3, 10, 30, 100, 300][: len(y)]
    try:
        result = fit("logistic4", x, y)
    except ValueError as error:
        assert said in str(error)
    else:
        assert any(said in warning for warning in result.warnings) or not said
        assert np.isfinite(result.values).all()


def test_what_cannot_be_fitted_is_refused_and_says_why() -> None:
    with pytest.raises(ValueError, match="cannot be below zero"):
        fit("logistic4", [-1, 1, 2, 3, 4], [1, 2, 3, 4, 5])
    with pytest.raises(ValueError, match="start values for a, b"):
        fit(custom("log10(a - 1e30*x^2) + b"), [1, 2, 3], [3, 2, 1])  # no value at any start that is looked at
    with pytest.raises(ValueError, match="no parameter “top”"):
        fit("logistic4", DOSES, DOSES, fixed={"top": 1})


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("-2^2", -4), ("2^3^2", 512), ("1-2-3", -4), ("-log10(T/100)", 1), ("{A 880} / 2", 3), ("2 × 3 ÷ 4 − 1", 0.5),
        ("if(T > 5, 1, 0)", 1), ("max(T, 20) + min(1, 2)", 21), ("arctan(1)*4 - pi", 0), ("1e-3*1000", 1),
    ],
)  # fmt: skip
def test_expressions_mean_what_mathematics_means(text: str, value: float) -> None:
    assert parse(text).value({"T": 10.0, "A 880": 6.0}) == pytest.approx(value)


@pytest.mark.parametrize(
    ("text", "position", "said"),
    [
        ("1 +", 3, "expected"), ("(1 + 2", 0, "not closed"), ("2 3", 2, "operator missing"),
        ("foo(1)", 0, "no function “foo”"), ("min(1)", 0, "takes 2 values"), ("a $ b", 2, "no meaning"),
        ("__import__('os')", 11, "no meaning"), ("(" * 80 + "1" + ")" * 80, None, "nested too deeply"), ("", 0, "ends"),
    ],
)  # fmt: skip
def test_expressions_that_make_no_sense_say_where(text: str, position: int | None, said: str) -> None:
    with pytest.raises(ExpressionError, match=said) as error:
        parse(text)
    assert position is None or error.value.position == position
