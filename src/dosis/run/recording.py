"""Readings that are curves: one rising axis, shared, and a row of numbers along it for each reading.

Held as arrays, because a plate read five hundred times is a million numbers; stored apart from the rest, in blocks.
"""

from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any, SupportsIndex

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.run.layout import Name, Quantity
from dosis.run.record import Record


class MarkedPlace(Record):
    """A place on the axis that was marked while it was recorded, with what was noted there."""

    x: float
    text: Name


class Axis(Record):
    """What the readings were taken along: its quantity, how many places it has, and between which ends.

    marks : what was noted along it. of : what was recorded in each reading, where these are not alike.
    """

    quantity: Quantity
    count: int
    first: float
    last: float
    marks: tuple[MarkedPlace, ...] = ()
    of: tuple[Quantity, ...] = ()


BIN = 256  # places whose least and greatest number are found beforehand
LONG = 1_000_000  # places from which they are


@dataclass(frozen=True, eq=False)
class Recording:
    """The numbers: x (n,), rising, and y (readings, n) in the order of the readings, NaN where one is missing.

    extremes : (readings, n // BIN, 2), where in each whole bin of BIN places the least and the greatest number stand;
    of recordings so long that not every number can be looked at for a drawing. path : the file that the numbers lie in,
    if they do; another process is handed that in place of the numbers.

    Raises
    ------
    ValueError : when the shapes do not go together.
    """

    x: Array
    y: Array
    extremes: Rows | None = None
    path: Path | None = None

    def __post_init__(self) -> None:
        if self.x.ndim != 1 or self.y.ndim != 2 or self.y.shape[1] != self.x.size:
            raise ValueError(f"An axis of {self.x.shape} does not go with readings of {self.y.shape}.")

    def __reduce_ex__(self, protocol: SupportsIndex) -> str | tuple[Any, ...]:
        return super().__reduce_ex__(protocol) if self.path is None else (opened, (self.path, self.x.size))

    @cached_property
    def there(self) -> Array:
        """How many numbers each reading has."""
        found: Array = np.isfinite(self.y).sum(axis=1)
        return found


def opened(path: Path, count: int) -> Recording:
    """The recording that lies in a file, of `count` places; its numbers are read when they are looked at.

    The file holds one array, the axis and below it a row for each reading; beside it lie the extremes of a long one.
    """
    whole = np.load(path, mmap_mode="r")
    of = extremes_path(path)
    numbers = whole.view(np.ndarray)  # every part of a memmap would be one again, which takes as long as a small look
    extremes = np.load(of, mmap_mode="r") if of.exists() else None
    return Recording(numbers[0, :count], numbers[1:, :count], extremes, path)


def extremes_path(path: Path) -> Path:
    """Where the extremes of such a file lie."""
    return path.with_suffix(".extremes.npy")


def extremes_of(y: Array) -> Rows:
    """Where the least and the greatest number of each whole bin stand, (readings, bins, 2); of one without a number
    its first place, twice.
    """
    bins = y.shape[1] // BIN
    found = np.empty((len(y), bins, 2), dtype=np.intp)
    for row, at in zip(y, found, strict=True):
        for first in range(0, bins, 4096):  # a few megabytes at a time
            part = row[first * BIN : min(first + 4096, bins) * BIN].reshape(-1, BIN)
            there = np.isfinite(part)
            starts = BIN * np.arange(first, first + len(part))
            at[first : first + len(part), 0] = starts + np.where(there, part, np.inf).argmin(axis=1)
            at[first : first + len(part), 1] = starts + np.where(there, part, -np.inf).argmax(axis=1)
    return found


def axis_of(
    quantity: Quantity, recording: Recording, marks: tuple[MarkedPlace, ...] = (), of: tuple[Quantity, ...] = ()
) -> Axis:
    """The axis of a recording, as it is told."""
    x = recording.x
    return Axis(quantity=quantity, count=x.size, first=float(x[0]), last=float(x[-1]), marks=marks, of=of)
