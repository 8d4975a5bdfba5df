"""Changes to single places of readings that are curves: leaving points of a course out, and taking them in again."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.core.rounding import given
from dosis.run.layout import Exclusion, Layout, Reason
from dosis.run.method import Method
from dosis.run.readings import Readings
from dosis.run.record import Record

NAMED = 3


class Spot(Record):
    """One point of a course: the reading, and which place of the axis, counted from 0."""

    reading: int
    at: Annotated[int, Field(ge=0)]


Spots = Annotated[tuple[Spot, ...], Field(min_length=1, max_length=100_000)]


class ExcludePoints(Record):
    """Leave points of courses out, with the reason."""

    kind: Literal["exclude_points"] = "exclude_points"
    points: Spots
    reason: Reason

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with these points excluded; a new reason replaces an old one."""
        _known(readings, layout, self.points)
        gone = {(each.reading, each.at) for each in self.points}
        kept = tuple(e for e in layout.exclusions if (e.reading, e.at) not in gone)
        reason = self.reason.strip() or self.reason
        added = tuple(Exclusion(reading=id, at=at, reason=reason) for id, at in sorted(gone))
        return layout.having(exclusions=kept + added), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"Excluded {points_named(readings, layout, self.points)}: {self.reason}"


class IncludePoints(Record):
    """Take excluded points of courses in again."""

    kind: Literal["include_points"] = "include_points"
    points: Spots

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout without these exclusions."""
        _known(readings, layout, self.points)
        back = {(each.reading, each.at) for each in self.points}
        kept = tuple(e for e in layout.exclusions if (e.reading, e.at) not in back)
        return layout.having(exclusions=kept), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"Included {points_named(readings, layout, self.points)} again"


def points_named(readings: Readings, layout: Layout, points: tuple[Spot, ...]) -> str:
    """ "Trial 1 at 30 s, Trial 2 at 30 s and 3 more"."""
    shown = [place_named(readings, layout, each.reading, each.at) for each in points[:NAMED]]
    more = len(points) - NAMED
    return f"{', '.join(shown)}{f' and {more} more' if more > 0 else ''}"


def place_named(readings: Readings, layout: Layout, reading: int, at: int) -> str:
    """ "Trial 1 at 30 s"; of several courses of one name, which."""
    group = next((group for group in layout.groups if reading in group.readings), None)
    name = f"reading {reading}" if group is None else group.name
    if group is not None and len(group.readings) > 1:
        name += f" course {group.readings.index(reading) + 1}"
    unit = readings.axis.quantity.unit if readings.axis else ""
    return f"{name} at {given(float(readings.curves.x[at]))} {unit}".rstrip()


def _known(readings: Readings, layout: Layout, points: tuple[Spot, ...]) -> None:
    if readings.axis is None:
        raise ValueError("These readings are single numbers; they are left out whole.")
    for each in points:
        if each.reading not in layout.members or each.at >= readings.axis.count:
            raise ValueError(f"This run has no point {each.at} of reading {each.reading}.")
