"""What is said of a fit in a word: whether it is bent, and its R²."""

from dosis.core.inference.result import Fit
from dosis.core.rounding import fixed

BEND = 0.05  # p of the lack-of-fit test below which a curve is called bent


def bent(result: Fit) -> bool:
    """Whether the fit's excess over the replicates' spread is significant."""
    p = result.lack_of_fit.p_value
    return p is not None and p < BEND


def r2_name(result: Fit) -> str:
    """R², or R₀² about zero where the model has no constant, so that nobody holds the two against each other."""
    return "R²" if result.model.intercept else "R₀²"


def shown_r_squared(r_squared: float) -> str:
    """R² to four decimals, more when those would all be nines."""
    for places in (4, 5, 6, 7):
        text = fixed(r_squared, places)
        if not text.startswith("1"):
            return text
    return "1"
