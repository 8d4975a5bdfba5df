"""Whatever the data, a result is flagged with its reason or refused in words: no warning, no made-up number."""

import math

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from dosis.core import MODELS, fit, fit_many, potency, quantal
from dosis.core.inference.result import Fit

# pytest turns every warning into an error, so these tests also say that nothing is printed on the console.
NASTY = [0.0, 1.0, -1.0, 1e-300, -1e-300, 1e300, -1e300, 1e150, 5e-324, math.inf, -math.inf, math.nan, 0.1, 2.0, 1e3]
numbers = st.one_of(st.sampled_from(NASTY), st.floats(-1e6, 1e6))
doses = st.one_of(st.sampled_from([0.0, 1.0, 2.0, 1e-300, 1e300, 1e-6, -1.0, math.nan]), st.floats(0, 1e6))
rows = st.lists(st.tuples(doses, numbers), min_size=0, max_size=14)


def sane(result: Fit) -> None:
    """Every number of a fit is finite, or None."""
    for parameter in result.parameters.values():
        assert math.isfinite(parameter.estimate)
        assert parameter.standard_error is None or math.isfinite(parameter.standard_error)
        for end in parameter.interval() or ():
            assert end is None or not math.isnan(end)
    for number in (result.sse, result.rmse, result.r_squared, result.adjusted_r_squared, result.aicc, result.bic):
        assert number is None or math.isfinite(number)
    assert result.message
    if not result.converged:
        assert result.warnings


@settings(max_examples=60)
@given(st.sampled_from(sorted(MODELS)), rows)
def test_any_readings_give_a_sane_fit_or_a_sentence(model: str, readings: list[tuple[float, float]]) -> None:
    x, y = [row[0] for row in readings], [row[1] for row in readings]
    try:
        result = fit(model, x, y)
    except ValueError as error:
        assert len(str(error)) > 20 and str(error).endswith((".", "…}", ")"))
        return
    sane(result)
    back = result.read_back(float(result.y.mean()))
    assert back.estimate is None or math.isfinite(back.estimate)
    assert back.estimate is not None or back.reason
    if result.model.shape in ("sigmoid", "saturating"):
        dose = result.dose_at(0.5)
        assert dose.estimate is None or math.isfinite(dose.estimate)
        assert dose.estimate is not None or dose.reason


@settings(max_examples=40)
@given(st.lists(st.lists(numbers, min_size=8, max_size=8), min_size=1, max_size=6))
def test_any_curves_at_once_come_through(curves: list[list[float]]) -> None:
    x = [0.0, 0.1, 0.3, 1, 3, 10, 30, 30]
    many = fit_many("logistic4", x, np.where(np.abs(curves) == np.inf, np.nan, curves))
    good = many.converged
    assert np.isfinite(many.values[good]).all()
    assert np.isfinite(many.sse[good]).all()


counts = st.lists(st.tuples(doses, st.integers(-1, 12), st.integers(0, 12)), min_size=0, max_size=7)


@settings(max_examples=100)
@example([(1.0, 0, 1), (1.0, 1, 1), (2.5230211434433143e-64, 1, 3)], "probit", None)  # an interval of 130 decades
@given(counts, st.sampled_from(["probit", "logit", "cloglog"]), st.sampled_from([None, "abbott", "estimated"]))
def test_any_counts_give_a_dose_a_bound_or_a_sentence(
    groups: list[tuple[float, int, int]], link: str, background: str | None
) -> None:
    dose, affected, exposed = ([group[i] for group in groups] for i in range(3))
    try:
        found = quantal.fit(dose, affected, exposed, link=link, background=background)
    except ValueError as error:
        assert len(str(error)) > 20
        return
    for method in ("delta", "fieller", "profile"):
        ld50 = found.dose_for(0.5, method=method)
        for number in (ld50.estimate, ld50.lower, ld50.upper):
            assert number is None or math.isfinite(number)
        assert (ld50.estimate is not None and ld50.lower is not None and ld50.upper is not None) or ld50.reason


@pytest.mark.parametrize(
    ("y", "flagged"),
    [
        ([5.0] * 8, "does not change"),
        ([0.0] * 8, "does not change"),
        ([0.0] * 4 + [1.0] * 4, "do not determine"),
    ],
)
def test_flat_and_all_or_nothing_readings_are_flagged(y: list[float], flagged: str) -> None:
    result = fit("logistic4", [0.1, 0.2, 0.5, 1, 2, 5, 10, 20], y)
    sane(result)
    assert any(flagged in warning for warning in result.warnings)


def test_no_crossing_is_not_reached() -> None:
    result = fit("logistic4", [0.1, 1, 10, 100, 1000], [100.0, 98, 90, 82, 80])
    found = result.dose_at(50, of="response")
    assert found.estimate is None
    assert "not reached" in found.reason


def test_two_points_are_too_few_for_a_curve_and_just_enough_for_a_line() -> None:
    with pytest.raises(ValueError, match="needs at least 4 readings; there are 2"):
        fit("logistic4", [1, 2], [1, 2])
    line = fit("line", [1, 2], [1, 2])
    assert line.rmse is None and "exactly" in line.warnings[0]


@pytest.mark.parametrize("size", [1e-300, 1e300])
def test_numbers_beyond_squaring_are_refused_with_what_to_do(size: float) -> None:
    for model in ("line", "logistic4"):
        with pytest.raises(ValueError, match="in other units"):
            fit(model, [1, 2, 3, 4, 5], np.array([1, 2, 2.5, 4, 4.2]) * size)


@given(st.floats(1e-100, 1e100), st.floats(1e-100, 1e100))
def test_a_fit_does_not_depend_on_the_units(x_unit: float, y_unit: float) -> None:
    x = np.array([0.1, 0.1, 1, 1, 3, 3, 10, 10, 100, 100])
    y = np.array([9.8, 10.1, 8.2, 8.5, 5.9, 6.3, 3.2, 3.4, 1.1, 0.9])
    one, other = fit("logistic4", x, y), fit("logistic4", x * x_unit, y * y_unit)
    np.testing.assert_allclose(other.values, one.values * [y_unit, y_unit, x_unit, 1], rtol=1e-6)
    np.testing.assert_allclose(other.r_squared, one.r_squared, rtol=1e-9)


def test_potency_of_preparations_that_do_nothing_is_open_not_made_up() -> None:
    rng = np.random.default_rng(1)
    found = potency.parallel_lines(np.tile([1.0, 2, 4, 8], 4), rng.standard_normal(16), ["S"] * 8 + ["T"] * 8)["T"]
    assert found.lower is None and found.upper is None
    assert "slope" in found.reason
    nothing = quantal.relative_potency([1, 2, 1, 2], [0, 0, 0, 0], [5, 5, 5, 5], [*"aabb"])["b"]
    assert nothing.estimate is None and nothing.reason


@pytest.mark.parametrize("model", ["logistic4", "logistic5", "gompertz_dose", "bell", "exponential_decay_plateau"])
@pytest.mark.parametrize("rule", [{"weights": "1/yhat^2"}, {"weights": "1/yhat^2", "robust": "bisquare"}])
def test_weights_by_a_curve_that_crosses_zero_do_not_lose_the_numbers(model: str, rule: dict) -> None:
    """Where the fitted signal comes to zero its weight would be endless, and the fit runs away."""
    x = np.repeat([1, 1.5, 2.25, 3.375, 3.79688, 5.0625, 7.59375, 11.3906], 2)
    y = [
        0.824,
        0.810,
        0.805,
        0.838,
        0.745,
        0.757,
        0.653,
        0.672,
        -0.235,
        0.506,
        0.496,
        0.530,
        0.270,
        0.272,
        -0.084,
        -0.045,
    ]
    for means in (False, True):
        found = fit(model, x, y, means=means, **rule)
        assert np.isfinite(found.weights).all()
        sane(found)


def test_a_dose_next_to_zero_is_still_a_dose() -> None:
    """The lowest x there is, a third of which is none."""
    for model in ("logistic2", "logistic4", "hyperbola", "hill"):
        try:
            sane(fit(model, [5e-324, 1, 2, 4, 1e300], [1.0, 2, 3, 4, 4.5]))
        except ValueError as error:
            assert "Geometric" not in str(error)
