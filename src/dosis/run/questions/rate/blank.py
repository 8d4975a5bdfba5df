"""Step: what is subtracted from every course — the course of the blanks, its own beginning, or a typed level."""

from typing import ClassVar, Literal

import numpy as np

from dosis.core.arrays import Array
from dosis.core.kinetics import straight_lines
from dosis.core.rounding import fixed, significant
from dosis.run.layout import Level
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.rate.bench import RateBench
from dosis.run.roles import Role
from dosis.run.steps.step import Step


class CourseBlankStep(Step):
    """take : "wells", time by time the mean of the blank courses, those of the same plate where it has some; "start",
    each course's own first point; "typed", one level; "none".
    """

    title = "Blank"
    names: ClassVar = {"take": "subtracted"}
    kind: Literal["course_blank"] = "course_blank"
    take: Literal["wells", "start", "typed", "none"] = "wells"
    typed: Level | None = None

    def run(self, bench: RateBench) -> StepOutcome:
        """Correct every course."""
        if self.take == "none":
            return self.told("Nothing is subtracted.", State.PASS)
        if self.take == "typed":
            if self.typed is None:
                return self.told("Type the blank to subtract.", State.LOOK)
            bench.y = bench.y - self.typed
            self._note(bench, f"− {bench.signal(self.typed)}, typed")
            return self.told(f"**{bench.signal(self.typed)}**, typed, subtracted from every point.", State.PASS)
        if self.take == "start":
            return self._start(bench)
        return self._wells(bench)

    def _start(self, bench: RateBench) -> StepOutcome:
        there = np.isfinite(bench.y)
        first = np.where(there.any(axis=1), bench.y[np.arange(len(bench.y)), there.argmax(axis=1)], 0.0)
        bench.y = bench.y - first[:, None]
        for course in bench.courses:
            start = bench.signal(float(first[course.row]))
            bench.note(course.group, self.kind, "− its start", text=f"{course.key}: {start}, its first point")
        return self.told("**Each course less its own first point.** Slopes stay as they are.", State.PASS)

    def _wells(self, bench: RateBench) -> StepOutcome:
        groups = bench.groups(Role.BLANK)
        ids = [id for group in groups for id in bench.used(group)]
        if not ids:
            lost = "No usable blank course, so nothing is subtracted. Check the blanks."
            state = State.LOOK if groups else State.PASS
            return self.told(lost if groups else "No blanks in this run; nothing is subtracted.", state,
                             "No blank is left, so none is subtracted." if groups else "")  # fmt: skip
        whole = self._mean(bench, ids)
        plates: dict[int | None, list[int]] = {}
        for id in ids:
            plates.setdefault(bench.by_id[id].plate, []).append(id)
        by_plate = {plate: self._mean(bench, own) for plate, own in plates.items()}
        used = {bench.by_id[course.id].plate for course in bench.courses}
        own = len(used) > 1 and used <= by_plate.keys()
        gaps = int((~np.isfinite(whole)).sum())
        for id, row in bench.row_of.items():
            bench.y[row] = bench.y[row] - (by_plate[bench.by_id[id].plate] if own else whole)
        mean = "the blank course" if len(ids) == 1 else f"the mean of {len(ids)} blank courses"
        self._note(bench, f"− {mean} at each time")
        drift = straight_lines(bench.x, whole[None])
        lower, upper = drift.interval()
        slope, unit = float(drift.slope[0]), bench.rate_unit
        moves = bool(lower[0] > 0 or upper[0] < 0)
        level = fixed(float(np.nanmean(whole)), bench.places)
        trend = f", drifting by {significant(slope, 2)} {unit}" if moves else ", steady"
        of = "of the same plate" if own else ""
        count = f"{len(ids)} blank courses" if len(ids) > 1 else "one blank course"
        said = f"The mean of **{count}** {of}".rstrip() + f", on average **{level}**{trend}, subtracted time by time."
        lost = f" At {gaps} times no blank was read, and courses have a gap there." if gaps else ""
        return self.told(said + lost, State.LOOK if gaps else State.PASS, lost.strip())

    def _mean(self, bench: RateBench, ids: list[int]) -> Array:
        rows = [bench.row_of[id] for id in ids]
        y = np.where(bench.left_out[rows], np.nan, bench.y[rows])
        there = np.isfinite(y)
        with np.errstate(all="ignore"):
            mean: Array = np.where(there, y, 0.0).sum(axis=0) / there.sum(axis=0)
        return mean

    def _note(self, bench: RateBench, text: str) -> None:
        for group in bench.groups(Role.POINT):
            bench.note(group, self.kind, "Blank", text=text)
