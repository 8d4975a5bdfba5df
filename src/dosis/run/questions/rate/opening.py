"""What a new run of courses opens with: rates of the straight part, or a model of the whole of growth or decay."""

import re
from typing import Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.fitting.batch import fit_many
from dosis.core.kinetics.windows import bends
from dosis.run.layout import Layout
from dosis.run.questions.rate.course import CourseStep
from dosis.run.readings import Readings
from dosis.run.roles import Role

GROWN = 3.0  # times its beginning that a course reaches in hours or days, from which it is one of growth
LEFT = 0.6  # share of its beginning below which one that bends as it falls is a decay
BENDS = 0.01  # p of the bend
TRIED = 12  # courses on which a model is tried
_SLOW = re.compile(r"^(h|d)$")
_LATE = 10  # the last of so many parts of a course is its end
LEAST = 6  # points of a course of which a model is tried
Scale = Literal["linear", "ln"]


def opened_courses(readings: Readings, layout: Layout) -> CourseStep:
    """The step as most of the courses want it; a model only where it settles on most of them."""
    recording, axis = readings.curves, readings.axis
    rows = {id: row for row, id in enumerate(readings.by_id)}
    of = [rows[id] for group in layout.groups if group.role is Role.POINT for id in group.readings]
    y = recording.y[of]
    y = y[np.isfinite(y).sum(axis=1) >= LEAST]
    if not len(y) or axis is None:
        return CourseStep()
    y = y[:: max(1, len(y) // TRIED)]
    part = max(recording.x.size // _LATE, 1)
    with np.errstate(all="ignore"):
        first, last = np.nanmean(y[:, :part], axis=1), np.nanmean(y[:, -part:], axis=1)
        change = float(np.nanmedian(last / first)) if np.nanmin(y) > 0 else np.nan
    if change >= GROWN and _SLOW.match(axis.quantity.unit):
        for scale in ("ln", "linear"):
            if _settles("growth_logistic", recording.x, np.log(y) if scale == "ln" else y):
                return CourseStep(by="whole", model="growth_logistic", scale=scale)
    if change <= LEFT and np.nanmedian(bends(recording.x, y)) < BENDS:
        return CourseStep(by="whole", model="exponential_decay")
    return CourseStep()


def _settles(model: str, x: Array, y: Array) -> bool:
    """Whether most of the courses determine all its parameters."""
    found = fit_many(model, x, y)
    good = found.converged & np.isfinite(found.standard_errors).all(axis=1)
    return bool(2 * good.sum() > len(good))
