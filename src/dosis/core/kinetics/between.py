"""How far replicate courses disagree beyond what their own fits explain, from all groups of a run together.

Two courses alone say little of how far such courses disagree; a dozen pairs say enough. What they disagree by is taken
as a share of the rate (pipetting, cells), beside the known error of each course (noise).
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array

PASSES = 8
MANY = 1e6  # degrees of freedom of what is known


class Between(NamedTuple):
    """share : the variance between courses over the square of the rate. df : of each group's variance, (groups,)."""

    share: float
    df: Array


def between(means: ArrayLike, variances: ArrayLike, own: ArrayLike, counts: ArrayLike) -> Between:
    """The share by which courses of a group disagree, and for how much each group's variance counts.

    The variance of a group's mean is then (own + share · mean²)/n with df degrees of freedom.

    Parameters
    ----------
    means, variances : of the courses of each group with two or more. own : the mean square of their standard errors;
        zero where they have none. counts : courses of each group.

    Notes
    -----
    A moment estimate of one component of variance with weights by its own precision, as Mandel & Paule (1982), J. Res.
    NBS 87, 377, have it for laboratories; the degrees of freedom are Satterthwaite's (1946, Biometrics Bull. 2, 110).
    Coverage: tests/simulation.
    """
    m, s, e, n = (np.atleast_1d(np.asarray(each, dtype=float)) for each in (means, variances, own, counts))
    if not m.size:
        return Between(0.0, np.zeros(0))
    square = np.maximum(np.square(m), 1e-300)
    relative, inside = s / square, e / square
    share = max(float(np.mean(relative - inside)), 0.0)
    for _ in range(PASSES):
        w = (n - 1) / np.square(np.maximum(inside + share, 1e-30))
        share = max(float((w * (relative - inside)).sum() / w.sum()), 0.0)
    whole = np.maximum(inside + share, 1e-30)
    w = (n - 1) / np.square(whole)
    variance = float((np.square(w) * 2 * np.square(whole) / (n - 1)).sum() / w.sum() ** 2)
    with np.errstate(all="ignore"):
        df = np.clip(2 * np.square(whole) / max(variance, 1e-300), n - 1, MANY)
    return Between(share, df)
