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
