"""How well a counted share is known by itself, without a line through the others."""

import math

from dosis.core import special


def binomial_interval(affected: float, exposed: float, level: float = 0.95) -> tuple[float, float]:
    """Exact interval of a share affected/exposed (Clopper & Pearson 1934, Biometrika 26, 404).

    Raises
    ------
    ValueError : for counts that make no sense, or a level outside 0 to 1.
    """
    if not (exposed > 0 and 0 <= affected <= exposed):
        raise ValueError(f"{affected:g} affected of {exposed:g} exposed is not a share.")
    if not 0 < level < 1:
        raise ValueError(f"The level must lie between 0 and 1; here it is {level:g}.")
    tail = (1 - level) / 2
    lower = float(special.betaincinv(affected, exposed - affected + 1, tail)) if affected > 0 else 0.0
    upper = float(special.betaincinv(affected + 1, exposed - affected, 1 - tail)) if affected < exposed else 1.0
    return lower, upper


def same_share(one: tuple[float, float], other: tuple[float, float]) -> float:
    """Two-sided p of Fisher's exact test that two counts (affected, exposed) are of the same share.

    The sum over all tables with these margins that are no more probable (Fisher 1934, Statistical Methods, 21.02).

    Raises
    ------
    ValueError : for counts that make no sense or are not whole.
    """
    (a, m), (b, n) = one, other
    if not (0 <= a <= m and 0 <= b <= n and m > 0 and n > 0) or any(x != int(x) for x in (a, m, b, n)):
        raise ValueError(f"{a:g} of {m:g} and {b:g} of {n:g} are not whole counts.")
    k = int(a + b)
    ways = [math.comb(int(m), x) * math.comb(int(n), k - x) for x in range(max(0, k - int(n)), min(k, int(m)) + 1)]
    seen = math.comb(int(m), int(a)) * math.comb(int(n), int(b))
    return sum(each for each in ways if each <= seen) / sum(ways)
