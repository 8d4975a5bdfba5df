"""A five-parameter curve keeps its way round: lower below upper, and the slope's sign tells rising from falling."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from dosis.core import fit, fit_many

DOSES = np.geomspace(0.05, 200, 10)
FIVE = ["logistic5", "logistic5_mirrored"]


def curve(model: str, lower: float, upper: float, midpoint: float, slope: float, asymmetry: float) -> np.ndarray:
    share = (1 + (DOSES / midpoint) ** (-slope if model == "logistic5" else slope)) ** -asymmetry
    return lower + (upper - lower) * share if model == "logistic5" else upper - (upper - lower) * share


@given(
    st.sampled_from(FIVE), st.floats(0.5, 20), st.floats(0.6, 3), st.sampled_from([1, -1]), st.floats(0.2, 5),
    st.integers(0, 2**32 - 1),
)  # fmt: skip
def test_lower_is_below_upper_whatever_the_readings(model, midpoint, steep, way, asymmetry, seed) -> None:
    noise = 0.03 * np.random.default_rng(seed).standard_normal(2 * DOSES.size)
    y = np.repeat(curve(model, 0.1, 2.0, midpoint, way * steep, asymmetry), 2) + noise
    for fitted in FIVE:
        found = fit(fitted, np.repeat(DOSES, 2), y).named
        assert found["lower"] <= found["upper"]
        assert np.sign(found["slope"]) == way


@pytest.mark.parametrize("model", FIVE)
@pytest.mark.parametrize("slope", [1.3, -1.3])
def test_each_recovers_a_curve_of_its_own_kind_and_the_other_does_not(model: str, slope: float) -> None:
    true = (0.1, 2.0, 3.0, slope, 0.35)
    y = curve(model, *true)
    found = fit(model, DOSES, y)
    assert_allclose(found.values, true, rtol=1e-5)
    other = fit(FIVE[1 - FIVE.index(model)], DOSES, y)
    assert other.sse > 1e-5 > found.sse
    assert_allclose(fit_many(model, DOSES, [y, 2 * y]).values, [true, (0.2, 4.0, 3.0, slope, 0.35)], rtol=1e-5)


@pytest.mark.parametrize("model", FIVE)
def test_from_given_starts_held_parameters_and_weights_the_way_stays(model: str) -> None:
    y = np.repeat(curve("logistic5", 0.1, 2.0, 3.0, -1.3, 0.35), 2) + np.tile([0.02, -0.02], DOSES.size)
    x, start = np.repeat(DOSES, 2), {"lower": 2.0, "upper": 0.1, "midpoint": 3.0, "slope": 1.3, "asymmetry": 1.0}
    for options in ({"start": start}, {"fixed": {"asymmetry": 0.5}}, {"weights": "1/yhat^2"}, {"robust": "huber"}):
        found = fit(model, x, y, **options)
        assert found.named["lower"] < found.named["upper"] and found.named["slope"] < 0, options


def test_the_mirror_image_is_known_as_well_as_the_curve_of_the_other_sign() -> None:
    """y and −y: the same standard errors, with the plateaus changed over; the same read-back and half-effect dose."""
    y = np.repeat(curve("logistic5", 0.1, 2.0, 3.0, -1.3, 0.35), 2) + np.tile([0.02, -0.02], DOSES.size)
    one, other = fit("logistic5", np.repeat(DOSES, 2), y), fit("logistic5_mirrored", np.repeat(DOSES, 2), -y)
    for name, mirrored in (("lower", "upper"), ("upper", "lower"), ("midpoint", "midpoint"), ("slope", "slope")):
        assert one.parameters[name].standard_error == pytest.approx(other.parameters[mirrored].standard_error, rel=1e-6)
    assert one.dose_at(0.5).estimate == pytest.approx(other.dose_at(0.5).estimate, rel=1e-9)
    assert one.derived["half_dose"].estimate == pytest.approx(other.derived["half_dose"].estimate, rel=1e-9)
    back, turned = one.read_back([1.0]), other.read_back([-1.0])
    assert (back.estimate, back.lower, back.upper) == pytest.approx(
        (turned.estimate, turned.lower, turned.upper), rel=1e-6
    )
