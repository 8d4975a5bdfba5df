"""How fast is it? Rates of time courses, growth and decay, and what they depend on."""

import re
from typing import ClassVar

import numpy as np

from dosis.run.curves.own_equation import try_equation
from dosis.run.curves.thinning import course_lines, thinned
from dosis.run.gathering import gathered
from dosis.run.layout import Layout
from dosis.run.outcome.courses import CourseLines, CoursesWanted
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.equation import EquationAsked, EquationLook
from dosis.run.outcome.findings import Findings
from dosis.run.outcome.value import Value
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.question import Question
from dosis.run.questions.rate.against import LEAST, AgainstStep
from dosis.run.questions.rate.bench import FEW, POINTS, Found, RateBench
from dosis.run.questions.rate.blank import CourseBlankStep
from dosis.run.questions.rate.checks import RateChecksStep
from dosis.run.questions.rate.compare import CompareRatesStep
from dosis.run.questions.rate.course import CourseStep
from dosis.run.questions.rate.drawing import as_fitted, draw_against, draw_course, draw_courses
from dosis.run.questions.rate.opening import opened_courses
from dosis.run.questions.rate.part import CourseQuantity, RatePart
from dosis.run.questions.rate.rates import RatesStep
from dosis.run.questions.rate.scale import ScaleStep
from dosis.run.questions.rate.signal import CourseSignalStep
from dosis.run.questions.rate.table import against_table, rate_table
from dosis.run.questions.rate.verdict import conclude
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.step import Steps, one, with_step
from dosis.run.working import whole_working, work

_TEMPERATURE = re.compile(r"temp|°C|^K$", re.IGNORECASE)
TRIED = 2_000  # points of a course on which an own equation is tried while it is typed
_PH = re.compile(r"\bpH\b")


class Rate(Question):
    """Time courses."""

    id = "rate"
    sentence = "How fast is it?"
    by = "Rates of time courses"
    note = "Every column, or every well, is a course."
    steps = (CourseSignalStep, CourseBlankStep, CourseStep, ScaleStep, RatesStep, AgainstStep, CompareRatesStep,
             RateChecksStep)  # fmt: skip
    roles = (Role.POINT, Role.BLANK, Role.UNUSED)
    titles: ClassVar[dict[Role, str]] = {Role.POINT: "Course"}
    levels = "levels"
    one_level = "a level"
    point = "course"
    along = "time"
    unknowns = False
    column_words: ClassVar[dict[str, str]] = {"reading": "course", "time": "time"}
    part = RatePart

    def opened(self, readings: Readings, before: Layout | None, layout: Layout, steps: Steps) -> Steps:
        """Whether courses are taken by their straight part or whole; a second curve as soon as there are levels."""
        course, against = one(steps, CourseStep), one(steps, AgainstStep)
        if before is None and course == CourseStep():
            steps = with_step(steps, opened_courses(readings, layout))
        if against == AgainstStep() and (before is None or not _levels(before)) and len(_levels(layout)) >= LEAST:
            steps = with_step(steps, AgainstStep(model=_model_for(layout)))
        return steps

    def opening_words(self, steps: Steps) -> str:
        """That rates are now drawn against the level."""
        return f"rates against the level: {one(steps, AgainstStep).model.replace('_', ' ')}"

    def bench(self, readings: Readings, layout: Layout) -> RateBench:
        """A bench for the whole run."""
        return RateBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All courses on one bench."""
        bench = RateBench(readings, layout, working_of=None if whole or not _many(readings) else frozenset())
        work(bench, steps)
        step, against, rates = one(steps, CourseStep), one(steps, AgainstStep), one(steps, RatesStep)
        curves = draw_courses(bench, step, whole=whole)
        seconds = draw_against(bench, against)
        answers, further = rate_table(bench, rates.level), against_table(bench, against)
        return gathered(
            bench, bench.layout, curves=curves, answers=answers, further=further, outliers=False, level_unit="",
            verdict=conclude(bench, against),
            part=RatePart(
                courses=tuple(course.id for course in bench.courses),
                quantities=tuple(_quantity(each) for each in bench.found),
                lower=bench.window[0] if bench.window else None, upper=bench.window[1] if bench.window else None,
                proposed=bench.proposed, whole=step.by == "whole", of=bench.second_of, against=seconds,
                straightened=tuple(plot for second in bench.seconds for plot in second.straightened),
                comparisons=tuple(bench.comparisons),
            ),
        )  # fmt: skip

    def look_at_curve(
        self, readings: Readings, layout: Layout, steps: Steps, name: str
    ) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
        """One course in full, by the same steps from the same revision."""
        bench = RateBench(readings, layout, working_of=frozenset())
        work(bench, steps)
        curve = draw_course(bench, one(steps, CourseStep), name)
        return None if curve is None else (curve, whole_working(bench.working.items()))

    def look_at_working(
        self, readings: Readings, layout: Layout, steps: Steps, id: str
    ) -> tuple[WorkingLine, ...] | None:
        """The working behind one group, or behind a number of one course."""
        bench = RateBench(readings, layout, working_of=frozenset({id}))
        work(bench, steps)
        tag = id.partition(".")[0]
        for course in bench.courses:
            if tag == f"c{course.index}":
                draw_course(bench, one(steps, CourseStep), course.key)
        return whole_working(bench.working.items()).get(id)

    def look_at_equation(self, readings: Readings, layout: Layout, steps: Steps, asked: EquationAsked) -> EquationLook:
        """What an own equation would give on one course, as it is taken in now."""
        bench = RateBench(readings, layout, working_of=frozenset())
        work(bench, steps, before="scale")
        step = one(steps, CourseStep)
        course = next((each for each in bench.courses if each.key == asked.series), None) or next(
            iter(bench.courses), None
        )
        if course is None or not bench.inside.size:
            return try_equation([], [], asked)
        y = np.where(bench.inside[course.index], as_fitted(bench, step, bench.taken[course.index]), np.nan)
        at = np.flatnonzero(np.isfinite(y))
        at = at[thinned(bench.x[at], y[at], TRIED)]
        return try_equation(bench.x[at].tolist(), y[at].tolist(), asked)

    def look_at_courses(self, readings: Readings, layout: Layout, steps: Steps, wanted: CoursesWanted) -> CourseLines:
        """The courses as lines of at most so many points."""
        bench = RateBench(readings, layout, working_of=frozenset())
        work(bench, steps, before="course")
        within = (bench.x >= wanted.low) & (bench.x <= wanted.high)
        some = [course for course in bench.courses if wanted.key in ("", course.key)]
        y = bench.y[[course.row for course in some]][:, within]
        of = [(course.key, course.id) for course in some]
        return CourseLines(courses=tuple(course_lines(of, bench.x[within], y, wanted.points)))


def _many(readings: Readings) -> bool:
    count = len(readings.readings)
    return count > FEW or count * readings.curves.x.size > POINTS


def _levels(layout: Layout) -> set[float]:
    return {group.level for group in layout.groups if group.level is not None and group.role is Role.POINT}


def _model_for(layout: Layout) -> str:
    """Rates rise and fall with temperature and pH, and saturate with most else."""
    label = f"{layout.level.name} {layout.level.unit}"
    return "optimum" if _TEMPERATURE.search(label) or _PH.search(label) else "hyperbola"


def _quantity(found: Found) -> CourseQuantity:
    values = tuple(float(v) if np.isfinite(v) else None for v in found.values)
    shown = tuple("—" if v is None else Value.of(v, None, None).shown for v in values)
    return CourseQuantity(found.id, found.name, found.unit, values, shown)
