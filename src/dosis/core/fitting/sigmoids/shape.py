"""The shapes of `models.shapes` at one place, as plain numbers for the compiled descent."""

from dosis.core.arrays import Array
from dosis.core.fitting.sigmoids.arithmetic import LOWEST, exponential, log_of_one_and
from dosis.core.fitting.sigmoids.compiled import inlined

LOGISTIC, WEIBULL, GOMPERTZ, POWERED = range(4)
FORMS = {"logistic": LOGISTIC, "weibull": WEIBULL, "gompertz": GOMPERTZ, "powered": POWERED}
NOWHERE = -1e6  # t of a zero dose: so far below that every shape is at its lower plateau
Three = tuple[float, float, float]
Four = tuple[float, float, float, float]


@inlined
def minus_log(u: float) -> float:
    """ln(1 + e^−u)."""
    return log_of_one_and(exponential(-abs(u))[0]) + max(-u, 0.0)


@inlined
def logistic(u: float) -> Four:
    """h, h − 1, and two derivatives in u."""
    e = exponential(-abs(u))[0]
    larger = 1.0 / (1.0 + e)
    smaller = e * larger
    h, rest = (larger, smaller) if u > 0 else (smaller, larger)
    first = larger * smaller
    return h, -rest, first, first * (rest - h)


@inlined
def gumbel(form: int, u: float) -> Four:
    """The same of 1 − exp(−e^u) and of its mirror image exp(−e^−u)."""
    e = exponential(min(u if form == WEIBULL else -u, 6.5))[0]  # beyond, exp(−e^u) is zero
    rest, less = exponential(-e)
    first = e * rest
    if form == WEIBULL:
        return -less, -rest, first, first * (1.0 - e)
    return rest, less, first, first * (e - 1.0)


@inlined
def powered(t: float, u: float, g: float) -> tuple[Four, Three]:
    """The same of the logistic shape to a power g, and in ln g: dh, d²h, d²h/du; t tells a zero dose."""
    e = exponential(-abs(u))[0]
    rest = (e if u > 0 else 1.0) / (1.0 + e)
    logarithm = -g * (log_of_one_and(e) + max(-u, 0.0)) if t > NOWHERE else LOWEST
    h, less = exponential(logarithm)
    first = g * h * rest
    by = h * logarithm
    second, by_by, by_u = first * (g * rest - (1.0 - rest)), by * (1.0 + logarithm), first * (1.0 + logarithm)
    return (h, less, first, second), (by, by_by, by_u)


@inlined
def high_up(t: Array, h: Array) -> bool:
    """Whether h is more than a half at the lowest place, and so at every one."""
    high: bool = h[0 if t[0] < t[-1] else -1] > 0.5
    return high
