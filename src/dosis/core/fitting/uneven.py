"""Do readings scatter more the higher they read, and how do they then count? A test and the weights that follow."""

from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array
from dosis.core.distributions import t_two_sided_p
from dosis.core.fitting.weights import Rising
from dosis.core.places import places

SHARES = (1.0, 2.0, 4.0, 8.0, 16.0, 32.0, 100.0)  # the highest signal over the one at which the spread begins to rise
LEVELS, DEGREES = 3, 4  # levels with replicates, and degrees of freedom of these, from which there is something to see


@dataclass(frozen=True, slots=True)
class Uneven:
    """Whether the spread rises with the signal: p of the test, and the weights that serve best then.

    lowest, highest : SD of a reading at the levels that read least and most, by these weights.
    """

    p: float
    weights: Rising
    lowest: float
    highest: float


def uneven_spread(x: Array, y: Array) -> Uneven | None:
    """Whether replicates scatter more where they read higher.

    Parameters
    ----------
    x, y : (n,) levels and readings. Only how far readings of one level differ counts, so that a curve that does not fit
        is not taken for a spread that rises.

    Returns
    -------
    Uneven : by the ratio of restricted likelihoods of SD = s·√(1 + (m/turn)²), m being the mean of a level, and of one
        SD for all, at the turn that is likeliest (Harville 1977, J. Am. Stat. Assoc. 72, 320; one-sided, Self & Liang
        1987, ibid. 82, 605). None where there are too few replicates, or nothing points to it.

    Example: ``uneven_spread(np.repeat([1.0, 5.0, 10.0], 3), y)``.
    """
    if not x.size:
        return None
    at = places(x)
    means = at.means(y)
    squares = np.bincount(at.group, np.square(y - means[at.group]))
    df = np.bincount(at.group) - 1
    several = df > 0
    total, top = int(df.sum()), float(np.abs(means).max())
    if several.sum() < LEVELS or total < DEGREES or top == 0 or not squares.any():
        return None
    shares = np.array((0.0, *SHARES))
    factors = 1 + np.square(shares[:, None] * (means / top))
    likelihoods = -0.5 * (total * np.log((squares / factors).sum(axis=1) / total) + np.log(factors) @ df)
    best = int(likelihoods.argmax())
    ratio = 2 * float(likelihoods[best] - likelihoods[0])
    if not ratio > 0:
        return None
    factor = factors[best]
    spread = np.sqrt((squares / factor).sum() / total * factor)
    ends = np.argmin(np.abs(means)), np.argmax(np.abs(means))
    p = t_two_sided_p(ratio**0.5, np.inf) / 2
    return Uneven(p, Rising(top / float(shares[best])), float(spread[ends[0]]), float(spread[ends[1]]))
