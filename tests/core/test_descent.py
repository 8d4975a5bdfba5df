"""The derivatives behind the descent of sigmoids (docs/fitting.md) against numeric ones of the sum of squares."""

import math
from collections.abc import Callable

import numpy as np
import pytest
from numpy.testing import assert_allclose

from dosis.core.fitting.sigmoids.asymmetry import half_point, moved, moved_at, turned, turned_at
from dosis.core.fitting.sigmoids.look import ROWS, look, slopes
from dosis.core.fitting.sigmoids.shape import FORMS, POWERED

T = np.linspace(-1, 1, 9)
W = np.array([1.0, 2, 1, 0.5, 1, 3, 1, 1, 2])
READINGS = np.array([0.02, 0.01, 0.06, 0.2, 0.55, 0.7, 1.08, 0.94, 1.02])
Y = READINGS - (W @ READINGS) / W.sum()
Step = tuple[float, float, float]


def half_sse(form: int, theta: Step) -> float:
    states = np.empty((2, ROWS, T.size))
    return look.py_func(form, T, Y, W, W.sum(), theta, math.exp(theta[2]), states, 0)[0]


def analytic(form: int, theta: Step) -> tuple[Step, tuple[float, ...]]:
    states = np.empty((2, ROWS, T.size))
    _, rise, size, _ = look.py_func(form, T, Y, W, W.sum(), theta, math.exp(theta[2]), states, 0)
    gradient, matrix, _ = slopes.py_func(form, T, W, W.sum(), rise, size, 1.0, states, 0)
    return gradient, matrix


def numeric(f: Callable[[Step], float], unknowns: int) -> tuple[np.ndarray, np.ndarray]:
    """Gradient and Hessian at zero by central differences, extrapolated once (Richardson)."""

    def at(h: float) -> tuple[np.ndarray, np.ndarray]:
        e = h * np.eye(3)
        first = [(f(tuple(e[i])) - f(tuple(-e[i]))) / (2 * h) for i in range(unknowns)]
        second = [
            [
                (f(tuple(e[i] + e[j])) - f(tuple(e[i] - e[j])) - f(tuple(e[j] - e[i])) + f(tuple(-e[i] - e[j])))
                / (4 * h * h)
                for j in range(i + 1)
            ]
            for i in range(unknowns)
        ]
        return np.array(first), np.array([value for row in second for value in row])

    (g1, h1), (g2, h2) = at(2e-3), at(1e-3)
    return (4 * g2 - g1) / 3, (4 * h2 - h1) / 3


def agree(found: tuple[Step, tuple[float, ...]], expected: tuple[np.ndarray, np.ndarray]) -> None:
    for ours, theirs in zip(found, expected, strict=True):
        assert_allclose(ours[: theirs.size], theirs, rtol=1e-5, atol=1e-6 * np.abs(theirs).max())


@pytest.mark.parametrize("form", FORMS)
def test_with_the_plateaus_eliminated_gradient_and_hessian_are_those_of_the_sum_of_squares(form: str) -> None:
    unknowns = 3 if form == "powered" else 2
    for theta in ((0.4, 3.0, 0.3), (-2.0, 4.0, -0.8), (2.0, 1.5, 1.2)):
        at = theta if form == "powered" else (*theta[:2], 0.0)
        moves = numeric(lambda s, at=at: half_sse(FORMS[form], (at[0] + s[0], at[1] + s[1], at[2] + s[2])), unknowns)
        agree(analytic(FORMS[form], at), moves)


@pytest.mark.parametrize("theta", [(0.4, 3.0, 0.3), (-1.5, 4.0, -1.2), (2.0, 2.5, 2.0)])
def test_half_point_slope_and_power_are_coordinates_of_the_same_curve(theta: Step) -> None:
    before = half_point.py_func(theta[2], math.exp(theta[2]))

    def along(step: Step) -> float:
        after = half_point.py_func(theta[2] + step[2], math.exp(theta[2] + step[2]))
        return half_sse(POWERED, moved.py_func(theta, step, before, after))

    agree(turned.py_func(theta, before, 1.0, *analytic(POWERED, theta)), numeric(along, 3))


@pytest.mark.parametrize("theta", [(-2.0, 40.0, -3.0), (1.0, 60.0, -2.0), (0.5, 3.0, 0.2)])
def test_next_to_a_kink_the_height_at_its_place_is_a_coordinate(theta: Step) -> None:
    place = T[4]

    def along(step: Step) -> float:
        return half_sse(POWERED, moved_at.py_func(place, theta, step))

    agree(turned_at.py_func(place, theta, 1.0, *analytic(POWERED, theta)), numeric(along, 3))


@pytest.mark.parametrize("power", [-3.0, 0.0, 4.0])
def test_a_curve_keeps_its_half_point_and_slope_along_the_valley(power: float) -> None:
    """At the half point h is ½, and its slope there b·ρ, whatever the power: h = (1 + e^−u)^−g by hand."""
    g = math.exp(power)
    kappa, *_, ln_two_rho, _, _ = half_point.py_func(power, g)

    def height(u: float) -> float:
        return (1 + math.exp(-u)) ** -g

    assert height(kappa) == pytest.approx(0.5, rel=1e-12)
    slope = (height(kappa + 1e-5) - height(kappa - 1e-5)) / 2e-5
    assert slope == pytest.approx(math.exp(ln_two_rho) / 2, rel=1e-6)
