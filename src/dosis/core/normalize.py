"""Normalizing: a response on a scale from 0 to 100 % between two references. x is never touched."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from dosis.core.arrays import Array
from dosis.core.fitting.readings import readings
from dosis.core.places import places
from dosis.core.replicates import Replicates, summarize

End = Literal[
    "least_level", "greatest_level", "lowest_dose", "highest_dose", "lower_end", "higher_end", "total", "average"
]  # fmt: skip
Reference = End | float | Sequence[float]
Scale = Literal["percent", "fraction"]


@dataclass(frozen=True, slots=True)
class Level:
    """A reference as it was found: its value and the variance of that; `x` where it is a level of the data.

    degrees_of_freedom : of the variance; n : the readings of which it is the mean, 0 where it is no such mean.
    """

    value: float
    variance: float
    x: float | None
    degrees_of_freedom: int = 0
    n: int = 0


@dataclass(frozen=True)
class Normalized:
    """Normalized responses, one for each reading or, averaged first, one for each x of each series.

    standard_errors : of the means, with both references' own spread (first order); NaN where a mean has none, or is the
        reference itself. is_reference : rows that made a reference, to be shown or left out. zero, full : by series.
    """

    x: Array
    y: Array
    standard_errors: Array
    is_reference: np.ndarray
    series: tuple[Hashable, ...]
    zero: dict[Hashable, Level]
    full: dict[Hashable, Level]
    scale: Scale

    def without_references(self) -> Normalized:
        """The same with the rows that made a reference left out."""
        keep = ~self.is_reference
        series = tuple(label for label, kept in zip(self.series, keep, strict=True) if kept)
        return Normalized(self.x[keep], self.y[keep], self.standard_errors[keep], self.is_reference[keep], series,
                          self.zero, self.full, self.scale)  # fmt: skip


def normalize(
    x: ArrayLike, y: ArrayLike, *, zero: Reference, full: Reference, series: Sequence[Hashable] | None = None,
    per_series: bool = True, average_first: bool = True, scale: Scale = "percent",
) -> Normalized:  # fmt: skip
    """(y − zero)/(full − zero), in percent or as a fraction.

    Parameters
    ----------
    x, y : (n,), in any units.
    zero, full : what counts as 0 % and 100 %: a typed value; readings of control wells, taken by their mean; the
        level that reads least, "least_level", or most, "greatest_level"; the "lowest_dose" or "highest_dose"; of these
        two the one that reads lower, "lower_end", or higher, "higher_end"; and the "total" or "average" of all levels.
    series : a label for each reading; references are of each series, or with per_series=False of all together.
    average_first : replicates are averaged and the means normalized; otherwise each reading is.

    Raises
    ------
    ValueError : for what `fit` refuses of x and y, references that are equal, or an unknown reference.
    """
    data = readings(x, y, None, None, series=series if series is not None else ["all"] * np.size(np.asarray(x)))
    labels = list(dict.fromkeys(data.series or ()))
    of = np.array([labels.index(label) for label in data.series or ()], dtype=np.intp)
    factor = 100.0 if scale == "percent" else 1.0
    zeros: dict[Hashable, Level] = {}
    fulls: dict[Hashable, Level] = {}
    rows: list[tuple[float, float, float, bool, Hashable]] = []
    for i, label in enumerate(labels):
        mine = of == i
        pool = mine if per_series else np.ones(of.size, dtype=bool)
        levels = _levels(data.x[pool], data.y[pool])
        low, high = _reference(zero, levels, "0 %"), _reference(full, levels, "100 %")
        if low.value == high.value:
            raise ValueError(
                f"0 % and 100 % are both {low.value:g}{f' in series “{label}”' if series is not None else ''}; "
                "choose references that differ."
            )
        zeros[label], fulls[label] = low, high
        own = _levels(data.x[mine], data.y[mine])
        for level, summary in own:
            marked = level in (low.x, high.x)
            values = [summary.mean] if average_first else data.y[mine & (data.x == level)].tolist()
            for value in values:
                share = (value - low.value) / (high.value - low.value)
                error = _error(summary, share, low, high) if average_first and not marked else math.nan
                rows.append((level, factor * share, factor * error, marked, label))
    columns = [np.array(column) for column in list(zip(*rows, strict=True))[:4]]
    return Normalized(columns[0], columns[1], columns[2], columns[3].astype(bool), tuple(row[4] for row in rows),
                      zeros, fulls, scale)  # fmt: skip


def _levels(x: Array, y: Array) -> list[tuple[float, Replicates]]:
    at = places(x)
    return [(float(level), summarize(y[at.group == i].tolist())) for i, level in enumerate(at.levels)]


def _reference(reference: Reference, levels: list[tuple[float, Replicates]], name: str) -> Level:
    if isinstance(reference, str):
        return _named(reference, levels, name)
    if isinstance(reference, (int, float)):
        return Level(float(reference), 0.0, None)
    controls = summarize(list(reference))
    return Level(controls.mean, (controls.sem or 0.0) ** 2, None, controls.n - 1, controls.n)


def _named(reference: str, levels: list[tuple[float, Replicates]], name: str) -> Level:
    by_mean = sorted(levels, key=lambda level: level[1].mean)
    ends = sorted((levels[0], levels[-1]), key=lambda level: level[1].mean)
    found = {
        "least_level": by_mean[0], "greatest_level": by_mean[-1], "lowest_dose": levels[0], "highest_dose": levels[-1],
        "lower_end": ends[0], "higher_end": ends[1],
    }.get(reference)  # fmt: skip
    if found is not None:
        return Level(found[1].mean, (found[1].sem or 0.0) ** 2, found[0], found[1].n - 1, found[1].n)
    if reference not in ("total", "average") or name == "0 %":
        raise ValueError(f"There is no reference “{reference}” for {name}.")
    share = 1.0 if reference == "total" else 1.0 / len(levels)
    total = math.fsum(summary.mean for _, summary in levels) * share
    variance = math.fsum((summary.sem or 0.0) ** 2 for _, summary in levels) * share * share
    return Level(total, variance, None, sum(summary.n - 1 for _, summary in levels))


def _error(summary: Replicates, share: float, low: Level, high: Level) -> float:
    """First order, for independent means: of (m − L)/(H − L)."""
    if summary.sem is None:
        return math.nan
    variance = summary.sem**2 + (1 - share) ** 2 * low.variance + share**2 * high.variance
    return math.sqrt(variance) / abs(high.value - low.value)
