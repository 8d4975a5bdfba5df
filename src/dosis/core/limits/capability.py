"""What a straight calibration can detect, and whether it is straight: ISO 11843-2 and Mandel's test."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from dosis.core import special
from dosis.core.distributions import t_quantile
from dosis.core.fitting.compare import extra_sum_of_squares
from dosis.core.fitting.fit import fit
from dosis.core.inference.goodness import Test
from dosis.core.inference.result import Fit


@dataclass(frozen=True, slots=True)
class Capability:
    """Critical and minimum detectable value, in the unit of x.

    Above `critical` a sample is said to hold something, wrongly with probability alpha; one that holds `detectable` is
    missed with probability beta. signal : the critical value of y. spread : that of one net reading at x = 0, with the
    uncertainty of the line. t and delta (of the noncentral t) on `degrees_of_freedom`.
    """

    critical: float
    detectable: float
    signal: float
    spread: float
    slope: float
    t: float
    delta: float
    degrees_of_freedom: int


def capability(line: Fit, readings: int = 1, *, alpha: float = 0.05, beta: float = 0.05) -> Capability:
    """Critical and minimum detectable value of a calibration with a constant spread (ISO 11843-2:2000, 5.1).

    x_C = t·(s/b)·√(1/K + 1/N + x̄²/S_xx), x_D with δ(ν; α; β) in the place of t, the noncentrality by which a
    noncentral t on ν = N − 2 degrees of freedom lies below its critical value with probability β.

    Parameters
    ----------
    line : straight and unweighted. readings : K, of a sample.

    Raises
    ------
    ValueError : for a curve, a weighted or flat line, or one without a spread.

    Example
    -------
    >>> line = fit("line", [0, 1, 2, 3, 4, 5], [0.01, 0.98, 2.03, 2.99, 4.01, 4.98])
    >>> found = capability(line)
    >>> found.critical < found.detectable < 2 * found.critical
    True
    """
    if not line.is_straight or line.weighting != "none":
        raise ValueError("ISO 11843-2 needs a straight line whose readings count alike.")
    slope, sigma, df = line.named["slope"], line.rmse, line.degrees_of_freedom
    if sigma is None or sigma <= 0 or line.slope_is_flat:
        raise ValueError("The capability of detection needs a line with a slope and a spread of its readings.")
    at_zero = line.parameters["intercept"].standard_error if "intercept" in line.parameters else 0.0
    spread = math.sqrt(sigma**2 / readings + (at_zero or 0.0) ** 2)
    t = t_quantile(1 - alpha, df)
    delta = float(special.nctdtrinc(df, beta, t))
    over = spread / abs(slope)
    signal = line.named.get("intercept", 0.0) + math.copysign(t * spread, slope)
    return Capability(t * over, delta * over, signal, spread, abs(slope), t, delta, df)


def mandel(line: Fit, parabola: Fit | None = None) -> Test:
    """Mandel's test of a line against a parabola: F = (SSE₁ − SSE₂)/(SSE₂/(N − 3)) on 1 and N − 3 (ISO 8466-1:1990).

    Judged at 1 % there. Weighted as the line was. A reason where there are fewer than
    4 different x. parabola : of the same readings, where it was fitted already and weighs them alike.
    """
    if len(set(line.x.tolist())) < 4:
        return Test(None, None, reason="Mandel’s test takes 4 different standards or more.")
    if parabola is None or not np.array_equal(parabola.weights, line.weights):
        parabola = fit("quadratic", line.x, line.y, weights=line.weights)
    return extra_sum_of_squares(line, parabola)
