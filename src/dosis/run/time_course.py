"""A lethal dose against time: series that are the same treatment counted after different times, put in order."""

import re
from collections.abc import Sequence

from dosis.run.outcome import Effect, TimeCourse, TimePoint

# "Lot A, 48 h", or the time alone: as a column of time points names its series.
_TIMED = re.compile(r"^(?:(?P<of>.+?),? )?(?P<time>\d+(?:\.\d+)?) ?(?P<unit>s|min|h|d)$")


def time_courses(effects: Sequence[Effect]) -> tuple[TimeCourse, ...]:
    """One for each treatment with at least two time points in the same unit."""
    found: dict[tuple[str, str], list[TimePoint]] = {}
    for effect in effects:
        if match := _TIMED.match(effect.name):
            point = TimePoint(series=effect.name, time=float(match["time"]), dose=effect.doses[0].relative)
            found.setdefault((match["of"] or "", match["unit"]), []).append(point)
    return tuple(
        TimeCourse(name=name, unit=unit, points=tuple(sorted(points, key=lambda point: point.time)))
        for (name, unit), points in found.items()
        if len({point.time for point in points}) > 1
    )
