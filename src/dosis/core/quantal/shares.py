"""How well a counted share is known by itself, without a line through the others."""

from dosis.core import special


def binomial_interval(affected: float, exposed: float, level: float = 0.95) -> tuple[float, float]:
    """Exact interval of a share affected/exposed (Clopper & Pearson 1934, Biometrika 26, 404).

    Raises
    ------
    ValueError : for counts that make no sense, or a level outside 0 to 1.
    """
    if not (exposed > 0 and 0 <= affected <= exposed):
        raise ValueError(f"{affected:g} affected of {exposed:g} exposed is no share.")
    if not 0 < level < 1:
        raise ValueError(f"The level must lie between 0 and 1; here it is {level:g}.")
    tail = (1 - level) / 2
    lower = float(special.betaincinv(affected, exposed - affected + 1, tail)) if affected > 0 else 0.0
    upper = float(special.betaincinv(affected + 1, exposed - affected, 1 - tail)) if affected < exposed else 1.0
    return lower, upper
