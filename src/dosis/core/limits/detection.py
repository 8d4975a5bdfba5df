"""What can be detected and quantified."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core import special
from dosis.core.distributions import t_quantile
from dosis.core.inference.read_back import ReadBack
from dosis.core.inference.result import Fit
from dosis.core.replicates import summarize


@dataclass(frozen=True, slots=True)
class DetectionLimits:
    """LOD and LOQ in the unit of x, with the spread and slope they were made from.

    at : the level of the standards at which a weighted line's spread was taken; None of one that is the same for all.
    """

    lod: float
    loq: float
    spread: float
    slope: float
    at: float | None = None


def detection_limits(line: Fit, spread: float | None = None, *, lod_factor: float = 3.3) -> DetectionLimits:
    """LOD = 3.3 σ/S and LOQ = 10 σ/S (ICH Q2(R2), 2023).

    Parameters
    ----------
    line : a fitted line; S is its slope.
    spread : σ in the unit of y: the SD of blanks, or the standard error of the intercept; by default the line's RMSE,
        and of a weighted line, whose readings have no common SD, that of a reading at the lowest standard above zero.

    Raises
    ------
    ValueError : for a curve that is not a line, a flat line, or one without a spread.
    """
    if not line.is_straight:
        raise ValueError(f"LOD and LOQ by slope need a straight line; this is {line.model.name}.")
    sigma, slope, at = spread, abs(line.named["slope"]), None
    if sigma is None and line.rmse is not None:
        sigma = line.rmse
        if line.weighting != "none":
            above = line.x[line.x > 0]
            at = float(above.min()) if above.size else line.range[0]
            place = np.array([at])
            sigma *= math.sqrt(float(line.variance_factor(line.predict(place), place)[0]))
    if sigma is None or slope == 0:
        raise ValueError("LOD and LOQ need a line with a slope and a spread of its readings.")
    return DetectionLimits(lod_factor * sigma / slope, 10 * sigma / slope, sigma, slope, at)


@dataclass(frozen=True, slots=True)
class Currie:
    """Critical level, detection limit and quantification limit, in signal above the blank; `slope` turns them to x."""

    critical: float
    detection: float
    quantification: float
    slope: float

    @property
    def concentrations(self) -> tuple[float, float, float]:
        """The three over the slope, in the unit of x."""
        return self.critical / self.slope, self.detection / self.slope, self.quantification / self.slope


def currie(
    blank_sd: float, slope: float, *, paired: bool = True, alpha: float = 0.05, quantification: float = 10.0,
    n_blanks: int | None = None,
) -> Currie:  # fmt: skip
    """Limits from the spread of blanks (Currie 1968, Anal. Chem. 40, 586; IUPAC 1995), equal risks of both errors.

    Parameters
    ----------
    blank_sd : standard deviation of the blank, in the unit of y; slope : of the calibration.
    paired : each sample has its own blank, so that the variance of a net signal is twice the blank's; otherwise the
        blank is well known.
    n_blanks : takes Student's t for the normal quantile, where the SD is from so few blanks; the variance of a net
        signal is then (1 + 1/n) times the blank's.

    Raises
    ------
    ValueError : for a spread below zero, a slope of zero, or fewer than 2 blanks.
    """
    if blank_sd < 0 or slope == 0:
        raise ValueError("Limits need a blank SD of at least zero and a slope that is not zero.")
    if n_blanks is not None and n_blanks < 2:
        raise ValueError(f"A spread needs at least 2 blanks; there are {n_blanks}.")
    if n_blanks is None:
        z, spread = float(special.ndtri(1 - alpha)), blank_sd * math.sqrt(2 if paired else 1)
    else:
        z, spread = t_quantile(1 - alpha, n_blanks - 1), blank_sd * math.sqrt(1 + 1 / n_blanks)
    return Currie(z * spread, 2 * z * spread, quantification * spread, abs(slope))


def blank_through_curve(curve: Fit, blanks: Sequence[float], factor: float = 3.0) -> ReadBack:
    """The x at which the curve stands `factor` SDs of the blanks from their mean, on the side the curve goes to.

    The blanks are readings at dose zero, in the unit of y. Works for any curve, also a falling one.

    Raises
    ------
    ValueError : for fewer than 2 blanks.
    """
    return curve.read_back(signal_beyond_blanks(curve, blanks, factor), n=math.inf)


def signal_beyond_blanks(curve: Fit, blanks: Sequence[float], factor: float = 3.0) -> float:
    """The signal `factor` SDs of the blanks from their mean, on the side the curve goes to; raises as the above."""
    level = summarize(list(blanks))
    if level.sd is None:
        raise ValueError("A detection limit from blanks needs at least 2 of them.")
    first, last = curve.predict(curve.range).tolist()
    return level.mean + (-factor if last < first else factor) * level.sd
