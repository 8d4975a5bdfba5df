"""Finding room on a figure: what is drawn is entered on a grid of points, and labels go where nothing stands."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dosis.core.arrays import Array

RIM = 2.0  # points kept free around what is placed


@dataclass(frozen=True)
class Box:
    """A rectangle in points, from the lower left."""

    left: float
    bottom: float
    width: float
    height: float

    @property
    def right(self) -> float:
        """Its right edge."""
        return self.left + self.width

    @property
    def top(self) -> float:
        """Its upper edge."""
        return self.bottom + self.height

    def overlaps(self, other: "Box") -> bool:
        """Whether the two share more than an edge."""
        across = self.left < other.right and other.left < self.right
        return across and self.bottom < other.top and other.bottom < self.top


class Room:
    """The panel of a figure, and what of it is taken."""

    def __init__(self, panel: Box) -> None:
        self.panel = panel
        self.taken = np.zeros((max(round(panel.height), 1) + 1, max(round(panel.width), 1) + 1), dtype=bool)

    def take(self, box: Box) -> None:
        """Enter a rectangle."""
        rows, columns = self._cells(box)
        self.taken[rows, columns] = True

    def take_dots(self, x: Array, y: Array, radius: float) -> None:
        """Enter markers of that radius."""
        for left, bottom in zip((x - radius).tolist(), (y - radius).tolist(), strict=True):
            self.take(Box(left, bottom, 2 * radius, 2 * radius))

    def take_line(self, x: Sequence[float], y: Sequence[float]) -> None:
        """Enter a line through those places."""
        for i in range(len(x) - 1):
            steps = int(max(abs(x[i + 1] - x[i]), abs(y[i + 1] - y[i]))) + 2
            if steps > 5000 or not np.isfinite([x[i], x[i + 1], y[i], y[i + 1]]).all():
                continue
            along = np.linspace(0.0, 1.0, steps)
            columns = np.rint(x[i] + along * (x[i + 1] - x[i]) - self.panel.left).astype(int)
            rows = np.rint(y[i] + along * (y[i + 1] - y[i]) - self.panel.bottom).astype(int)
            height, width = self.taken.shape
            inside = (rows >= 0) & (rows < height) & (columns >= 0) & (columns < width)
            self.taken[rows[inside], columns[inside]] = True

    def free(self, width: float, height: float, near: tuple[float, float] | None = None) -> Box | None:
        """Where a label of that size covers nothing: in the corner that is freest, or close to a place.

        None where there is no such place.
        """
        rows, columns = round(height + 2 * RIM) + 1, round(width + 2 * RIM) + 1
        tall, wide = self.taken.shape
        if rows > tall or columns > wide:
            return None
        sums = np.zeros((tall + 1, wide + 1), dtype=np.int64)
        sums[1:, 1:] = self.taken.cumsum(axis=0).cumsum(axis=1)
        within = (
            sums[rows:, columns:] - sums[:-rows, columns:] - sums[rows:, :-columns] + sums[:-rows, :-columns]
        )  # fmt: skip
        bottoms, lefts = np.nonzero(within == 0)
        if not bottoms.size:
            return None
        if near is None:
            # The nearest corner; of corners alike, the upper ones, and there the right one.
            across = np.minimum(lefts + 0.5, wide - columns - lefts)
            up = np.minimum(tall - rows - bottoms, bottoms + 4.0)
            far = across**2 + up.astype(float) ** 2
        else:
            middle = (
                lefts + columns / 2 - (near[0] - self.panel.left),
                bottoms + rows / 2 - (near[1] - self.panel.bottom),
            )
            far = middle[0] ** 2 + middle[1] ** 2
        best = int(np.argmin(far))
        return Box(
            self.panel.left + float(lefts[best]) + RIM, self.panel.bottom + float(bottoms[best]) + RIM, width, height
        )

    def covered(self, box: Box) -> bool:
        """Whether anything stands where a rectangle would."""
        rows, columns = self._cells(box)
        return bool(self.taken[rows, columns].any())

    def _cells(self, box: Box) -> tuple[slice, slice]:
        left, bottom = box.left - self.panel.left, box.bottom - self.panel.bottom
        rows = slice(max(int(np.floor(bottom)), 0), max(int(np.ceil(bottom + box.height)) + 1, 0))
        columns = slice(max(int(np.floor(left)), 0), max(int(np.ceil(left + box.width)) + 1, 0))
        return rows, columns


def apart(wanted: Sequence[float], height: float, low: float, high: float) -> list[float] | None:
    """Places of labels of that height under each other, as near to the wanted ones as they go; None without room.

    The labels keep their order. Runs of labels that touch are moved as one, to the mean of what they want.
    """
    if height * len(wanted) > high - low:
        return None
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    runs: list[tuple[float, int]] = []  # the middle of a run, and how many labels it is of
    for i in order:
        middle, count = wanted[i], 1
        half = height / 2
        middle = min(max(middle, low + half), high - half)
        while runs and middle - count * half < runs[-1][0] + runs[-1][1] * half:
            before, many = runs.pop()
            middle, count = (before * many + middle * count) / (many + count), many + count
            middle = min(max(middle, low + count * half), high - count * half)
        runs.append((middle, count))
    flat = [middle + (k - (count - 1) / 2) * height for middle, count in runs for k in range(count)]
    made = [0.0] * len(wanted)
    for i, place in zip(order, flat, strict=True):
        made[i] = place
    return made
