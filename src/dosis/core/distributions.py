"""Tail probabilities and quantiles, from scipy.special: scipy.stats costs most of a second to import."""

from functools import lru_cache

from dosis.core import special


@lru_cache(maxsize=4096)  # the curves of a plate mostly have the same degrees of freedom
def t_quantile(probability: float, df: float) -> float:
    """Quantile of Student's t."""
    return float(special.stdtrit(df, probability))


@lru_cache(maxsize=4096)  # a run is worked through again at every key, and most of it has not changed
def t_two_sided_p(t: float, df: float) -> float:
    """Probability of a |t| at least this large."""
    return float(2.0 * special.stdtr(df, -abs(t)))


@lru_cache(maxsize=4096)
def f_upper_p(f: float, df1: float, df2: float) -> float:
    """Probability of an F at least this large."""
    return float(special.fdtrc(df1, df2, f))


@lru_cache(maxsize=4096)
def chi2_upper_p(chi2: float, df: float) -> float:
    """Probability of a chi-square at least this large."""
    return float(special.chdtrc(df, chi2))


def f_noncentrality(f: float, df1: float, df2: float, probability: float) -> float:
    """The noncentrality with which an F is at most this large with that probability; 0 where none is that small.

    Its upper confidence bound is that of 1 − level (Steiger 2004, Psychological Methods 9, 164).
    """
    if special.fdtr(df1, df2, f) <= probability:
        return 0.0
    low, high = 0.0, max(4.0 * df1 * f, 16.0)
    while special.ncfdtr(df1, df2, high, f) > probability:
        high *= 2
    for _ in range(80):
        middle = (low + high) / 2
        low, high = (middle, high) if special.ncfdtr(df1, df2, middle, f) > probability else (low, middle)
    return high
