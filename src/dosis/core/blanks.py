"""Blanks: what a reading shows when there is nothing to measure."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from dosis.core.replicates import summarize

BlankStatistic = Literal["mean", "median"]


@dataclass(frozen=True, slots=True)
class Blank:
    """The level taken off, with the spread (n - 1) of the blank readings; sd is None for a single one."""

    value: float
    sd: float | None
    n: int


def blank_level(readings: Sequence[float], statistic: BlankStatistic = "mean") -> Blank:
    """Level of the blank readings, in their unit.

    Raises
    ------
    ValueError : when there is no blank reading.
    """
    summary = summarize(readings, statistic)
    return Blank(summary.value, summary.sd, summary.n)
