"""Courses as small lines: what a wall of them is drawn from, apart from the outcome because it is large."""

import math

from dosis.run.record import Record, light


@light
class CourseLine:
    """One course: its key, the reading it is, and the points that keep its shape."""

    key: str
    reading: int
    x: tuple[float, ...]
    y: tuple[float, ...]


class CoursesWanted(Record):
    """How many points each line may have; of which course, by its key, and between which ends, when not of all.

    stage : the kind of step before which they are wanted, where that is asked for; as they end up when it is empty.
    """

    points: int = 48
    key: str = ""
    lower: float | None = None
    upper: float | None = None
    stage: str = ""

    @property
    def low(self) -> float:
        """The lower end; below everything where there is none."""
        return -math.inf if self.lower is None else self.lower

    @property
    def high(self) -> float:
        """The upper end; above everything where there is none."""
        return math.inf if self.upper is None else self.upper


class CourseLines(Record):
    """All of them, in the order of the curves."""

    courses: tuple[CourseLine, ...] = ()
