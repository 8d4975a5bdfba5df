"""A lethal dose against time: series that are the same treatment counted after different times, put in order."""

import re
from collections.abc import Sequence

from dosis.run.effects.effect import Effect
from dosis.run.questions.mortality.part import TimeCourse, TimePoint

# "Lot A, 48 h", or the time alone: as a column of time points names its series.
_TIMED = re.compile(r"^(?:(?P<of>.+?),? )?(?P<time>\d+(?:\.\d+)?) ?(?P<unit>s|min|h|d)$")


def timed(name: str) -> tuple[str, str]:
    """A series' treatment and its time point, "Lot A" and "48 h"; the time is empty where the name tells of none."""
    match = _TIMED.match(name)
    return ((match["of"] or "", f"{match['time']} {match['unit']}")) if match else (name, "")


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
