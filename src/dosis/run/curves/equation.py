"""A fitted curve's equation with its numbers put in."""

import re
from collections.abc import Mapping
from functools import lru_cache

from dosis.core.inference.parameters import not_determined
from dosis.core.inference.result import Fit
from dosis.core.rounding import MINUS, significant

DIGITS = 6  # of the numbers put into an equation, so that a pocket calculator comes to the same answer
_NAME = re.compile(r"[^\W\d]\w*")


@lru_cache(maxsize=8192)  # as `significant`
def put(value: float) -> str:
    """A number put into a calculation, in brackets when it is below zero."""
    text = significant(value, DIGITS)
    return f"({text})" if text.startswith(MINUS) else text


def filled(equation: str, values: Mapping[str, str]) -> str:
    """An equation with some of its names replaced."""
    return _NAME.sub(lambda found: values.get(found[0], found[0]), equation)


def with_numbers(result: Fit) -> str:
    """ "y = 0.3812 · x − 0.002", no sign lost; what the readings do not determine keeps its name."""
    if not result.is_straight:
        lost = not_determined(result)
        shown = {name: significant(value, 4) for name, value in result.named.items() if name not in lost}
        values = {name: f"({text})" if text.startswith(MINUS) else text for name, text in shown.items()}
        return filled(result.model.equation, values)
    slope = significant(result.parameters["slope"].estimate, DIGITS)
    if "intercept" not in result.parameters:
        return f"y = {slope} · x"
    intercept = result.parameters["intercept"].estimate
    sign = "−" if intercept < 0 else "+"
    return f"y = {slope} · x {sign} {significant(abs(intercept), DIGITS)}"
