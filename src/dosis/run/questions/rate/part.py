"""What only the outcome of rates has: what was found of every course, and what it depends on."""

from typing import Literal

from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.drawn import Curve, Line, Point
from dosis.run.outcome.findings import Part
from dosis.run.record import light


@light
class CourseQuantity:
    """One thing that was found of every course, so that a plate can be colored by it.

    values, shown : in the order of `RatePart.courses`; none where a course does not give it.
    """

    id: str
    name: str
    unit: str
    values: tuple[float | None, ...]
    shown: tuple[str, ...]


@light
class Straightened:
    """A plot in which the second curve is a straight line: for teaching; the numbers come from the curve.

    why : in a sentence.
    """

    id: str
    name: str
    x_label: str
    y_label: str
    points: tuple[Point, ...]
    line: Line
    why: str


class RatePart(Part):
    """courses : the reading that each curve is of, in their order. window : over which rates are taken, for all.

    of : what is held against the level; against : the second curves, by series; straightened : the same as lines.
    """

    kind: Literal["rate"] = "rate"
    courses: tuple[int, ...] = ()
    quantities: tuple[CourseQuantity, ...] = ()
    lower: float | None = None
    upper: float | None = None
    proposed: str = ""
    whole: bool = False
    of: str = ""
    against: tuple[Curve, ...] = ()
    straightened: tuple[Straightened, ...] = ()
    comparisons: tuple[Comparison, ...] = ()
