"""What a new run of courses opens with: rates of the straight part, or a model of the whole of growth or decay."""

import re

import numpy as np

from dosis.core.kinetics.windows import bends
from dosis.run.layout import Layout
from dosis.run.questions.rate.course import CourseStep
from dosis.run.readings import Readings
from dosis.run.roles import Role

GROWN = 3.0  # times its beginning that a course reaches in hours or days, from which it is one of growth
LEFT = 0.6  # share of its beginning below which one that bends as it falls is a decay
BENDS = 0.01  # p of the bend
_SLOW = re.compile(r"^(h|hours?|d|days?|wk|weeks?)$", re.IGNORECASE)
_LATE = 10  # the last of so many parts of a course is its end


def opened_courses(readings: Readings, layout: Layout) -> CourseStep:
    """The step as most of the courses want it."""
    recording, axis = readings.curves, readings.axis
    rows = {id: row for row, id in enumerate(readings.by_id)}
    of = [rows[id] for group in layout.groups if group.role is Role.POINT for id in group.readings]
    y = recording.y[of]
    y = y[np.isfinite(y).sum(axis=1) > 4]
    if not len(y) or axis is None:
        return CourseStep()
    part = max(recording.x.size // _LATE, 1)
    with np.errstate(all="ignore"):
        first, last = np.nanmean(y[:, :part], axis=1), np.nanmean(y[:, -part:], axis=1)
        positive = bool(np.nanmin(y) > 0)
        grown = np.nanmedian(last / first) if positive else np.nan
    if not np.isfinite(grown):
        return CourseStep()
    if grown >= GROWN and _SLOW.match(axis.quantity.unit):
        return CourseStep(by="whole", model="growth_logistic", scale="ln")
    if grown <= LEFT and np.nanmedian(bends(recording.x, y)) < BENDS and recording.x.size > 5:
        return CourseStep(by="whole", model="exponential_decay")
    return CourseStep()
