"""A number with its interval as it is shown, how something stands, and what is to be known about it."""

import math
from enum import StrEnum
from functools import lru_cache
from typing import Literal

from dosis.core.rounding import with_interval
from dosis.run.record import light


class State(StrEnum):
    """How a check, a step or a run stands."""

    PASS = "pass"
    LOOK = "look"
    FAIL = "fail"


@light
class Value:
    """A concentration with its interval. A value outside the standards is a bound (`censor`), not a number."""

    value: float | None = None
    lower: float | None = None
    upper: float | None = None
    censor: Literal["", ">", "<", "≤"] = ""
    shown: str = "—"
    shown_lower: str = ""
    shown_upper: str = ""

    @classmethod
    @lru_cache(maxsize=8192)  # a run is worked through again at every key, and most of its numbers have not changed
    def of(cls, estimate: float, lower: float | None, upper: float | None) -> "Value":
        """A number with its interval, shown to the place that the interval decides; an infinite end counts as none."""
        # What is kept is found again by what equals it, and −0.0 equals 0.0: here a zero has no sign.
        estimate += 0.0
        lower, upper = (end + 0.0 if end is not None and math.isfinite(end) else None for end in (lower, upper))
        shown, shown_lower, shown_upper = with_interval(estimate, lower, upper)
        return cls(value=estimate, lower=lower, upper=upper, shown=shown, shown_lower=shown_lower,
                   shown_upper=shown_upper)  # fmt: skip


@light
class Remark:
    """Something to know about an answer, in a few words and in a sentence with the way out."""

    state: State
    short: str
    text: str
