"""Step: what is made of each course — a line through its straight part, or a model of the whole of it."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from dosis.core.arrays import Array, Flags
from dosis.core.expressions import ExpressionError
from dosis.core.kinetics import LEAST, early_half, widest_straight
from dosis.core.kinetics.windows import bends
from dosis.core.models import MODELS, Model, custom
from dosis.core.rounding import given, p_value
from dosis.run.curves.ends import Number, Range
from dosis.run.layout import Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.rate.bench import RateBench
from dosis.run.questions.rate.found import find_start, find_straight, find_whole, tangents
from dosis.run.record import Record
from dosis.run.steps.step import Changed, Step

OWN = "custom"
Count = Annotated[int, Field(ge=0, le=100_000)]
FALLBACK = 5  # times that are taken where no window is straight
TOGETHER, EARLY = 0.1, 7  # p below which all bend together; points of a window for a slope at the start
ALPHA = 0.05  # p below which a course bends, shared over all of them
WIDER = 0.01  # of a time step, by which a typed end still takes in the point that stands there


class Trim(Record):
    """The first and last points of every course that are left out; by a rule at most so many at either end."""

    first: Count = 0
    last: Count = 0
    at_most: Count | None = None

    @property
    def too_many(self) -> str:
        """What is said where more are left out than the rule allows; empty otherwise."""
        if self.at_most is None or max(self.first, self.last) <= self.at_most:
            return ""
        most = max(self.first, self.last)
        return f"{most} points are left out at one end; the rule of this run allows {self.at_most} at either."

    @property
    def words(self) -> str:
        """The rule in words."""
        parts = [f"the {end} {n}" for end, n in (("first", self.first), ("last", self.last)) if n]
        most = "" if self.at_most is None else f", at most {self.at_most} at either end"
        return (f", without {' and '.join(parts)}" if parts else "") + most


class CourseStep(Step):
    """The same for every course, but for series with a window of their own.

    by : "straight", the slope of a line over the window; "start", that of a parabola where the course begins; "whole",
        the parameters of a model.
    propose : whether a window is proposed while none is given: the widest straight one; for the start the first half
        of the widest in which no course is more than a parabola. window, leave_out : which points count.
    own : windows of single series, by the name of the group.
    model : of the whole course, "custom" with its `equation` in x and parameters; `start` where its search begins,
        `fixed` what is held.
    scale : whether the model goes through y, ln y, or y in percent of each course's greatest.
    points : neighbors over which the steepest slope without a model is taken.
    """

    title = "Course"
    names: ClassVar = {"by": "taken from", "propose": "window proposed", "points": "points of the steepest slope"}
    kind: Literal["course"] = "course"
    by: Literal["straight", "start", "whole"] = "straight"
    propose: bool = True
    window: Range = Range()
    leave_out: Trim = Trim()
    own: dict[Name, Range] = Field(default_factory=dict)
    model: Annotated[str, Field(max_length=60)] = "growth_logistic"
    equation: Annotated[str, Field(max_length=500)] = ""
    start: dict[str, Number] = Field(default_factory=dict)
    fixed: dict[str, Number] = Field(default_factory=dict)
    scale: Literal["linear", "ln", "percent"] = "linear"
    points: Annotated[int, Field(ge=3, le=1001)] = 5

    @model_validator(mode="after")
    def _known(self) -> "CourseStep":
        if self.model == OWN:
            try:
                custom(self.equation)
            except ExpressionError as error:
                raise ValueError(str(error)) from error
        elif self.model not in MODELS:
            raise ValueError(f"There is no curve model “{self.model}”.")
        for names in (self.start, self.fixed):
            if unknown := sorted(set(names) - set(self.declared.names)):
                raise ValueError(f"{self.declared.name} has no parameter “{unknown[0]}”.")
        return self

    @property
    def declared(self) -> Model:
        """The model itself."""
        return custom(self.equation) if self.model == OWN else MODELS[self.model]

    def words(self, before: Step | None, unit: str) -> str:
        """The whole step in words."""
        own = f", {len(self.own)} series with a window of their own" if self.own else ""
        ends = "" if self.window == Range() else f", {_ends(self.window)}"
        if self.by == "whole":
            name = f"y = {self.equation}" if self.model == OWN else self.declared.name
            through = {"linear": "", "ln": ", through ln y", "percent": ", through percent of the greatest"}[self.scale]
            held = "".join(f", {each} held at {given(value)}" for each, value in self.fixed.items())
            return f"Course: {name}{held}{through}{ends}{self.leave_out.words}{own}"
        window = ends or (", the proposed window" if self.propose else ", all of it")
        what = "slope at the start" if self.by == "start" else "straight part"
        return f"Course: {what}{window}{self.leave_out.words}{own}"

    def changes(self, before: Step | None) -> list[Changed]:
        """Its choices in words."""
        return [each for each in super().changes(before) if each.before != each.after]

    def run(self, bench: RateBench) -> StepOutcome:
        """Take in the points and find of every course what is asked."""
        if not bench.courses:
            return self.told("Waiting for courses.", State.FAIL)
        if self.leave_out.too_many:
            return self.told(self.leave_out.too_many, State.FAIL)
        bench.inside = self._inside(bench)
        if broken := self._broken(bench):
            return self.told(broken, State.FAIL)
        taken = np.where(bench.inside, bench.taken, np.nan)
        if self.by != "whole":
            bench.bend = bends(bench.x, taken, degree=3 if self.by == "start" else 2)
            find_straight(bench, taken)
            if self.by == "start":
                find_start(bench, taken)
            elif bench.window is not None and bench.proposed:
                self._beside(bench)
        else:
            find_whole(bench, taken, self.declared, self.scale, self.points,
                       start=self.start or None, fixed=self.fixed)  # fmt: skip
        return self._tell(bench)

    def _inside(self, bench: RateBench) -> Flags:
        window = self.window
        if self.by != "whole" and self.propose and window == Range() and not self._trimmed:
            window = self._proposed(bench)
        shared = self._mask(bench, window)
        inside = np.broadcast_to(shared, (len(bench.courses), bench.x.size)).copy()
        for course in bench.courses:
            if (own := self.own.get(course.group.name)) is not None:
                inside[course.index] = self._mask(bench, own)
        if self._trimmed:
            self._trim(bench, inside)
        at = np.flatnonzero(inside.any(axis=0))
        if at.size and (window != Range() or self._trimmed):
            bench.window = (float(bench.x[at[0]]), float(bench.x[at[-1]]))
        return inside

    def _broken(self, bench: RateBench) -> str:
        """What is said where a window leaves out more points at an end than the rule allows."""
        most, x = self.leave_out.at_most, bench.x
        if most is None or self.window == Range():
            return ""
        shared = np.flatnonzero(self._mask(bench, self.window))
        before, after = (int(shared[0]), x.size - 1 - int(shared[-1])) if shared.size else (x.size, x.size)
        if max(before, after) <= most:
            return ""
        end = "start" if before > most else "end"
        return (
            f"The window leaves out {max(before, after)} points at the {end}; the rule of this run allows {most} at "
            "either end. Widen it, or change the rule."
        )

    @property
    def _trimmed(self) -> bool:
        return bool(self.leave_out.first or self.leave_out.last)

    def _mask(self, bench: RateBench, window: Range) -> Flags:
        x = bench.x
        near = WIDER * float(np.diff(x).min()) if x.size > 1 else 0.0
        low = -np.inf if window.lower is None else window.lower - near
        high = np.inf if window.upper is None else window.upper + near
        return (x >= low) & (x <= high)

    def _trim(self, bench: RateBench, inside: Flags) -> None:
        """The first and last points of each course within its window, by those that were read."""
        there = np.isfinite(bench.y[bench.rows]) & inside
        rank = np.cumsum(there, axis=1)
        total = rank[:, -1:]
        inside &= (rank > self.leave_out.first) & (rank <= total - self.leave_out.last)

    def _proposed(self, bench: RateBench) -> Range:
        """The widest window in which no course bends; so far as the rule allows."""
        most = self.leave_out.at_most
        taken = bench.taken
        if np.unique(bench.x).size < (EARLY if self.by == "start" else LEAST):
            bench.proposed = ""
            return Range()
        if most == 0:
            return Range()
        ends = (0, 0) if most is None else (most, most)
        if self.by == "start":
            return self._early(bench, taken, ends)
        found = widest_straight(bench.x, taken, alpha=ALPHA, most_left_out=ends)
        shared = f" shared over {len(bench.courses):,} courses" if len(bench.courses) > 1 else ""
        if found.window is None:
            first = float(np.unique(bench.x)[min(FALLBACK, np.unique(bench.x).size) - 1])
            bench.proposed = (
                f"No window is straight for every course, so the first {FALLBACK} times are taken, in which some bend. "
                "Take the slope at the start, give series windows of their own, or fit a model to the whole course."
            )
            return Range(upper=first)
        low, high = found.window
        whole = found.left_out == (0, 0)
        least = "" if found.least_p is None else f"; the least p of a bend in it is {p_value(found.least_p)}"
        bench.proposed = (
            f"{'All of it is' if whole else 'The widest that is'} straight: in no course does a quadratic term differ "
            f"from zero at p < {ALPHA}{shared}, nor do they bend together at p < {TOGETHER}{least}."
        )
        return Range() if whole else Range(lower=low, upper=high)

    def _early(self, bench: RateBench, taken: Array, ends: tuple[int, int]) -> Range:
        found = widest_straight(bench.x, taken, alpha=ALPHA, most_left_out=ends, degree=3, shortest=EARLY)
        window = early_half(bench.x, found)
        if window is None:
            bench.proposed = "No window is so short that a parabola describes every course; all of it is taken."
            return Range()
        if found.left_out == (0, 0):
            bench.proposed = "A parabola describes all of every course."
            return Range()
        last = given(found.window[1]) if found.window else ""
        bench.proposed = (
            f"The first half of the widest window, to {last} {bench.time.unit}, in which no course is more than a "
            "parabola: so short that its interval holds what it says."
        )
        return Range(lower=window[0], upper=window[1])

    def _beside(self, bench: RateBench) -> None:
        """The slope at the start as well, where the window was cut short because courses bend."""
        own = self.model_copy(update={"by": "start"})
        said, window = bench.proposed, own._proposed(bench)
        bench.proposed = said
        bench.tangent = tangents(bench, np.where(self._mask(bench, window), bench.taken, np.nan))
        bench.found.insert(1, bench.tangent)

    def _tell(self, bench: RateBench) -> StepOutcome:
        made = len(bench.courses) - len(bench.problems)
        if not made:
            return self.told(next(iter(bench.problems.values())), State.FAIL)
        count = f"{made:,} of {len(bench.courses):,} courses" if bench.problems else f"{made:,} courses"
        count = "one course" if len(bench.courses) == 1 else count
        ends = "all of it" if bench.window is None else _span(bench)
        trim = self.leave_out.words
        own = f" {len(self.own)} series have a window of their own." if self.own else ""
        why = "; ".join(f"{course.key}: {bench.problems[course.id]}" for course in bench.courses
                        if course.id in bench.problems)  # fmt: skip
        why = why if len(why) < 200 else f"{why[:197]}…"
        state = State.LOOK if why else State.PASS
        if self.by != "whole":
            what = "The slope at the start of a parabola" if self.by == "start" else "A line"
            explained = f" {bench.proposed}" if bench.proposed else ""
            if bench.proposed.startswith("No window"):
                state = State.LOOK
            text = f"**{what} through {ends}**{trim} of {count}.{explained}{own}"
            if bench.tangent is not None:
                text += " Intervals reach to the slope at the start, for a bend that is too small to be seen."
        else:
            through = {"linear": "y", "ln": "ln y", "percent": "percent of the greatest y"}[self.scale]
            text = f"**{self.declared.name}** through {through}, {ends}{trim}, of {count}.{own}"
            if bench.lost_logs:
                why = f"{bench.lost_logs:,} points at zero or below have no logarithm and are left out. {why}".strip()
                state = State.LOOK
        verdict = why or (bench.proposed if state is State.LOOK else "")
        return self.told(" ".join(filter(None, (text, why))), state, verdict)


def _span(bench: RateBench) -> str:
    assert bench.window is not None
    low, high = map(given, bench.window)
    return f"{low} to {high} {bench.time.unit}".rstrip()


def _ends(window: Range) -> str:
    low = "the start" if window.lower is None else given(window.lower)
    high = "the end" if window.upper is None else given(window.upper)
    return f"{low} to {high}"
