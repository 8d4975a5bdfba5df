"""Do readings scatter more the higher they read, and how do they then count? A test and the weights that follow."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_two_sided_p
from dosis.core.fitting.weights import Rising
from dosis.core.inference.result import Fit

SHARES = (1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 100.0)  # the highest signal over the one at which the spread begins to rise
WORTH_A_LOOK = 0.6  # p of the quick test above which there is no use in the other


@dataclass(frozen=True, slots=True)
class Uneven:
    """Whether the spread rises with the curve: p of the test, and the fit with the weights that serve best then.

    lowest, highest : SD of a reading at the lowest and the highest point of the curve, by that fit.
    """

    p: float
    fit: Fit
    lowest: float
    highest: float

    @property
    def weights(self) -> Rising:
        """The weights of that fit."""
        return Rising(self.fit.turn or np.inf)


def uneven_spread(even: Fit, again: Callable[[Rising], Fit]) -> Uneven | None:
    """Whether the readings of a fit with equal weights scatter more where the curve is higher.

    Parameters
    ----------
    even : the fit with equal weights; again : fits the same readings with other weights.

    Returns
    -------
    Uneven : by the ratio of restricted likelihoods of SD = s·√(1 + (ŷ/turn)²) and of one SD for all, at the turn that
        is likeliest (Harville 1977, J. Am. Stat. Assoc. 72, 320; one-sided, Self & Liang 1987, ibid. 82, 605). None
        where nothing points to it, there is no spread, or the curve does not leave zero.

    Example: ``uneven_spread(fit("line", x, y), lambda weights: fit("line", x, y, weights=weights))``.
    """
    before = restricted_likelihood(even)
    if before is None or _hardly(even):
        return None
    top = float(np.abs(even.y - even.residuals).max())
    best: tuple[float, Fit] | None = None
    for share in SHARES:
        tried = again(Rising(top / share))
        likelihood = restricted_likelihood(tried)
        if likelihood is not None and tried.converged and (best is None or likelihood > best[0]):
            best = likelihood, tried
    if best is None or best[0] <= before:
        return None
    ratio, found = 2 * (best[0] - before), best[1]
    p = t_two_sided_p(np.sqrt(ratio), np.inf) / 2
    ends = np.abs(found.y - found.residuals)
    spread = (found.rmse or 0.0) * np.sqrt(found.variance_factor(np.array([ends.min(), ends.max()]), np.zeros(2)))
    return Uneven(p, found, float(spread[0]), float(spread[1]))


def restricted_likelihood(fit: Fit) -> float | None:
    """Logarithm of the restricted likelihood of normal errors, but for a constant; None without a spread."""
    df = fit.degrees_of_freedom
    covariance = fit.unscaled_covariance
    if df <= 0 or not fit.sse > 0 or not np.isfinite(covariance).all():
        return None
    sign, information = np.linalg.slogdet(covariance)
    if sign <= 0:
        return None
    return float(-0.5 * (df * np.log(fit.sse / df) - np.log(fit.weights).sum() - information))


def _hardly(fit: Fit) -> bool:
    """Whether the squares of the residuals have nothing to do with those of the curve (Koenker 1981, J. Econom. 17)."""
    fitted, leverage = np.square(fit.y - fit.residuals), _leverage(fit)
    squares = np.square(fit.residuals) / np.maximum(1 - leverage, 1e-9)
    along, away = fitted - fitted.mean(), squares - squares.mean()
    size = float(np.sqrt((along @ along) * (away @ away)))
    if size == 0:
        return True
    r = float(along @ away) / size
    n = fit.n
    return r <= 0 or t_two_sided_p(r * np.sqrt(n - 2) / np.sqrt(max(1 - r * r, 1e-12)), n - 2) > WORTH_A_LOOK


def _leverage(fit: Fit) -> Array:
    free = [i for i, name in enumerate(fit.model.names) if name not in fit.fixed]
    jacobian = fit.model.derivative(fit.x, fit.values)[:, free]
    pulled: Array = ((jacobian @ fit.unscaled_covariance) * jacobian).sum(axis=1)
    return pulled
