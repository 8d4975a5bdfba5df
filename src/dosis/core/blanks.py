"""Blanks: what a reading shows when there is nothing to measure, by plate, row, column, series or sample."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from dosis.core.fitting.fit import fit
from dosis.core.inference.parameters import ParameterEstimate
from dosis.core.replicates import summarize

BlankStatistic = Literal["mean", "median"]


@dataclass(frozen=True, slots=True)
class Blank:
    """The level subtracted, with the spread (n - 1) of the blank readings; sd is None for a single one.

    worth : how many readings their mean would need for the variance the level has.
    """

    value: float
    sd: float | None
    n: int
    worth: float = 1.0


def blank_level(readings: Sequence[float], statistic: BlankStatistic = "mean") -> Blank:
    """Level of the blank readings, in their unit.

    Raises
    ------
    ValueError : when there is no blank reading.
    """
    summary = summarize(readings, statistic)
    return Blank(summary.value, summary.sd, summary.n, summary.worth)


@dataclass(frozen=True, slots=True)
class Corrected:
    """Readings less their blank, in the order given, and the blank of each group."""

    values: list[float]
    blanks: dict[Hashable, Blank]


def subtract(
    readings: Sequence[float], groups: Sequence[Hashable], blanks: Mapping[Hashable, Sequence[float]],
    statistic: BlankStatistic = "mean",
) -> Corrected:  # fmt: skip
    """Subtract each reading's own blank: that of its row, column group, series, or of itself.

    Parameters
    ----------
    readings : (n,); groups : the group of each; blanks : the blank readings of every group, which are a sample's own
        blank or its reading at a reference wavelength where every reading is its own group.

    Raises
    ------
    ValueError : for a group without a blank reading, naming it.
    """
    missing = sorted({str(group) for group in groups if not blanks.get(group)})
    if missing:
        raise ValueError(f"There is no blank for {', '.join(missing)}; give one, or one for the whole plate.")
    found = {group: blank_level(blanks[group], statistic) for group in dict.fromkeys(groups)}
    values = [value - found[group].value for value, group in zip(readings, groups, strict=True)]
    return Corrected(values, found)


def drift(positions: Sequence[float], readings: Sequence[float]) -> ParameterEstimate:
    """Slope of the blanks over their positions (read order, row or column), with its p-value against none.

    Raises
    ------
    ValueError : for fewer than 3 blanks, or all at one position.
    """
    if len(readings) < 3:
        raise ValueError(f"A drift needs at least 3 blanks; there are {len(readings)}.")
    return fit("line", positions, readings).parameters["slope"]
