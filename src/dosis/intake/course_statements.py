"""What is said of a table of courses."""

import numpy as np

from dosis.core.rounding import given
from dosis.intake.columns import split_heading
from dosis.intake.courses import Courses
from dosis.intake.long_courses import state_beyond
from dosis.intake.table import Table
from dosis.intake.understanding import Statement
from dosis.intake.wording import count_of, roughly, rows_named
from dosis.run.roles import Role
from dosis.run.steps.summary import listed


def state_courses(table: Table, found: Courses) -> list[Statement]:
    """What the courses are, along what, at which levels, and what is not used of the table."""
    said = [
        _courses(found),
        _axis(found),
        _levels(found),
        _marks(found),
        _units(table, found),
        _gaps(found),
        _without(found),
        _aside(table, found),
    ]
    return [*(each for each in said if each is not None), *state_beyond(table, found)]


def _courses(found: Courses) -> Statement:
    courses, blanks = [], 0
    for course in found.courses:
        if course.role is Role.BLANK:
            blanks += 1
        else:
            courses.append(course)
    word, place = found.along.curve, found.along.place
    n = max((course.x.size for course in found.courses), default=0)
    places = f"about {roughly(n + found.beyond)} {place}s" if found.later else count_of(n, place)
    how = "one for each column" if found.by == "column" else f"told apart by {found.by}"
    blank = f" {count_of(blanks, f'blank {word}')} to be subtracted." if blanks else ""
    wells = sum(course.well is not None for course in found.courses)
    plate = f" {count_of(wells, 'well')} stand on a plate." if wells else ""
    groups = len({course.key for course in courses})
    again = f" Those alike are replicates: {count_of(groups, 'group')}." if groups < len(courses) else ""
    names = listed([course.name for course in courses])
    text = f"**{count_of(len(courses), word)}** of {places}, {how}: {names}.{blank}{plate}{again}"
    return Statement(id="courses", state="ok", text=text, change="columns")


def _axis(found: Courses) -> Statement:
    ends = [float(end) for course in found.courses if course.x.size for end in (course.x.min(), course.x.max())]
    span = f"{given(min(ends))} to {given(max(ends))}" if ends else "none"
    if found.later:
        span += " in the rows shown"
    unit = found.axis.unit
    text = (
        f"**{found.axis.name} in {unit}**, {span}."
        if unit
        else f"**{found.axis.name} has no unit**, {span}. {found.along.unitless}"
    )
    if found.said:
        text += f" {found.said}"
    return Statement(id="axis", state="ok" if unit else "look", text=text)


def _levels(found: Courses) -> Statement | None:
    levels = sorted({course.level for course in found.courses if course.level is not None})
    if not levels:
        return None
    unit = f" {found.level.unit}" if found.level.unit else ""
    text = f"**{found.level.name}** {given(levels[0])} to {given(levels[-1])}{unit}, {count_of(len(levels), 'level')}"
    text += f", from the names of the {found.along.curve}s." if found.by == "column" else "."
    return Statement(id="levels", state="ok", text=text)


def _marks(found: Courses) -> Statement | None:
    if not found.along.recorded:
        return None
    units = listed([f"{q.name} in {q.unit}" if q.unit else f"{q.name} without a unit" for q in found.of])
    marks = listed([f"“{text}”" for _, text in found.marks])
    said = f" **{count_of(len(found.marks), 'mark')}**: {marks}." if found.marks else " No marks."
    return Statement(id="channels", state="ok", text=f"**{units}**.{said}", change="columns")


def _units(table: Table, found: Courses) -> Statement | None:
    """Columns of several units beside one axis are hardly all of what is asked about, but for channels of a logger."""
    if found.along.recorded or found.by != "column":
        return None
    units: dict[str, str] = {}
    for course in found.courses:
        if (unit := split_heading(table.headings[course.column])[1]) and course.level is None:
            units.setdefault(unit, split_heading(table.headings[course.column])[0])
    if len(units) < 2:
        return None
    named = listed([f"{name} in {unit}" for unit, name in units.items()])
    text = (
        f"**Columns are in different units**: {named}. All are taken for {found.along.curve}s; leave out what is none."
    )
    return Statement(id="units", state="look", text=text, change="columns")


def _gaps(found: Courses) -> Statement | None:
    gaps = sum(int((~np.isfinite(course.y)).sum()) for course in found.courses)
    whole = sum(course.y.size for course in found.courses)
    if not gaps:
        return None
    state = "look" if 10 * gaps > whole else "ok"
    return Statement(id="gaps", state=state, text=f"**{count_of(gaps, 'gap')}** of {whole:,} places, left as gaps.")


def _without(found: Courses) -> Statement | None:
    if not found.without_place:
        return None
    text = f"**No {found.along.place} in {rows_named(found.without_place)}**; nothing of it is used."
    return Statement(id="without_place", state="look", text=text, change="columns")


def _aside(table: Table, found: Courses) -> Statement | None:
    if not found.aside:
        return None
    names = listed([f"“{table.headings[i]}”" for i in found.aside])
    text = f"**Not used: {names}**, beside the {found.along.curve}s."
    return Statement(id="aside", state="look", text=text, change="columns")
