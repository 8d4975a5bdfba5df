"""Readings that are curves: one rising axis, shared, and a row of numbers along it for each reading.

Held as arrays, because a plate read five hundred times is a million numbers; stored apart from the rest, in blocks.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from dosis.core.arrays import Array
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


@dataclass(frozen=True, eq=False)
class Recording:
    """The numbers: x (n,), rising, and y (readings, n) in the order of the readings, NaN where one is missing.

    Raises
    ------
    ValueError : when the shapes do not go together.
    """

    x: Array
    y: Array

    def __post_init__(self) -> None:
        if self.x.ndim != 1 or self.y.ndim != 2 or self.y.shape[1] != self.x.size:
            raise ValueError(f"An axis of {self.x.shape} does not go with readings of {self.y.shape}.")

    @cached_property
    def there(self) -> Array:
        """How many numbers each reading has."""
        found: Array = np.isfinite(self.y).sum(axis=1)
        return found


def axis_of(
    quantity: Quantity, recording: Recording, marks: tuple[MarkedPlace, ...] = (), of: tuple[Quantity, ...] = ()
) -> Axis:
    """The axis of a recording, as it is told."""
    x = recording.x
    return Axis(quantity=quantity, count=x.size, first=float(x[0]), last=float(x[-1]), marks=marks, of=of)
