"""Step: the checks of rates."""

import math
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.rounding import given, p_value, significant
from dosis.core.units import UnitError, combined
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.rate.bench import Course, RateBench
from dosis.run.roles import Role
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed, sum_up


class RateChecksStep(Step):
    """Thresholds.

    straight : p of a bend, shared over the courses. least : points of a course. noise : standard error of a rate over
    the rate. steeper : share by which the slope at the start may differ from that of the line. used_up : share of the
    substrate that may be gone at the end of the window.
    """

    title = "Checks"
    names: ClassVar = {"used_up": "substrate used up"}
    kind: Literal["rate_checks"] = "rate_checks"
    straight: Annotated[float, Field(gt=0, lt=1)] = 0.05
    least: Annotated[int, Field(ge=2, le=1000)] = 5
    noise: Annotated[float, Field(gt=0, le=10)] = 0.10
    used_up: Annotated[float, Field(gt=0, le=1)] = 0.10
    steeper: Annotated[float, Field(gt=0, le=10)] = 0.05

    def run(self, bench: RateBench) -> StepOutcome:
        """Make every check that this run allows."""
        made = (
            self._straight(bench), self._enough(bench), self._agree(bench), self._start(bench), self._noise(bench),
            self._steeper(bench), self._used(bench), self._settled(bench), self._bracketed(bench),
        )  # fmt: skip
        return sum_up(bench, self.kind, made)

    def _straight(self, bench: RateBench) -> Check | None:
        p = bench.bend
        if p is None or not np.isfinite(p).any():
            return None
        limit = self.straight / int(np.isfinite(p).sum())
        off = [course for course in bench.courses if p[course.index] < limit]
        least = p_value(float(np.nanmin(p)))
        start = bench.lead() is not None and any(each.id == "line_rate" for each in bench.found)
        how = "more than a parabola" if start else "bent"
        title = "Does a parabola describe the start?" if start else "Are the courses straight where rates are taken?"
        return Check(
            id="straight", title=title,
            state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: {'not' if start else 'bent'}, least p {least}" if off else f"Least p {least}",
            threshold=f"p ≥ {given(self.straight)}, shared over {int(np.isfinite(p).sum())} courses",
            why="Where more bends than is allowed for, the slope is no rate at one moment.",
            groups=tuple(dict.fromkeys(course.group.id for course in off)),
            verdict="" if not off else f"{_count(len(off), 'course')} {how} in the window; take a shorter one.",
        )  # fmt: skip

    def _enough(self, bench: RateBench) -> Check | None:
        if not bench.courses or not bench.inside.size:
            return None
        n = (np.isfinite(bench.taken) & bench.inside).sum(axis=1)
        off = [course for course in bench.courses if n[course.index] < self.least]
        return Check(
            id="enough", title="Are there points enough?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: {int(n.min())} points" if off else f"At least {int(n.min())}",
            threshold=f"{self.least} points or more", why="Of few points a bend cannot be told, nor the scatter.",
            groups=tuple(dict.fromkeys(course.group.id for course in off)),
            verdict="" if not off else f"Few points: {keys(off)}.",
        )  # fmt: skip

    def _agree(self, bench: RateBench) -> Check | None:
        known = {id: summary for id, summary in bench.summaries.items() if summary.cv is not None}
        if not known:
            return None
        names = {group.id: group.name for group in bench.groups(Role.POINT)}
        off = [id for id, summary in known.items() if abs(summary.cv or 0.0) > bench.cv_limit]
        worst = max(abs(summary.cv or 0.0) for summary in known.values())
        found = (
            f"{listed([names[id] for id in off])}: CV up to {percent(worst)}" if off else f"CV up to {percent(worst)}"
        )
        return Check(
            id="replicates", title="Do replicate courses agree?", state=State.LOOK if off else State.PASS, found=found,
            threshold=f"CV ≤ {percent(bench.cv_limit)}", why="A mean of what does not agree says little.",
            groups=tuple(off),
            verdict="" if not off else f"Replicate courses of {listed([names[id] for id in off])} disagree.",
        )  # fmt: skip

    def _start(self, bench: RateBench) -> Check | None:
        if bench.lines is None or not bench.inside.size:
            return None
        there = np.isfinite(bench.y[bench.rows])
        first = np.where(there.any(axis=1), there.argmax(axis=1), -1)
        taken = there & bench.inside
        begins = np.where(taken.any(axis=1), taken.argmax(axis=1), -1)
        late = [c for c in bench.courses if begins[c.index] > first[c.index] >= 0]
        return Check(
            id="start", title="Is the start in the window?", state=State.LOOK if late else State.PASS,
            found=f"{_count(len(late), 'course')} begun later" if late else "Every course from its first point",
            threshold="from the first point",
            why="An initial rate is that of the beginning, before anything is used up.",
            verdict="" if not late else "Rates leave the start out.",
        )  # fmt: skip

    def _noise(self, bench: RateBench) -> Check | None:
        lead = bench.lead()
        if lead is None or not np.isfinite(lead.errors).any():
            return None
        with np.errstate(all="ignore"):
            share = lead.errors / np.abs(lead.values)
        off = [c for c in bench.courses if share[c.index] > self.noise]
        worst = float(np.nanmax(share[np.isfinite(share)], initial=0.0))
        names = keys(off)
        return Check(
            id="noise", title="Do courses stand out of their noise?", state=State.LOOK if off else State.PASS,
            found=f"{names}: standard error up to {percent(worst)}" if off else f"At most {percent(worst)}",
            threshold=f"≤ {percent(self.noise)} of {lead.name.lower()}",
            why="A slope that is lost in the noise may be none.",
            groups=tuple(dict.fromkeys(course.group.id for course in off)),
            verdict="" if not off else f"Lost in the noise: {names}.",
        )  # fmt: skip

    def _steeper(self, bench: RateBench) -> Check | None:
        """What a bend that is too small to be seen in the window takes off the rates."""
        lead, other = bench.lead(), bench.tangent
        if other is None or lead is None:
            return None
        with np.errstate(all="ignore"):
            share = other.values / lead.values - 1
        known = share[np.isfinite(share)]
        if not known.size:
            return None
        middle = float(np.median(known))
        off = abs(middle) > self.steeper
        way = "steeper" if middle > 0 else "flatter"
        return Check(
            id="steeper", title="Do lines fall short of the start?", state=State.LOOK if off else State.PASS,
            found=f"The start is {percent(abs(middle))} {way}, in the middle of all courses",
            threshold=f"≤ {percent(self.steeper)}",
            why="In a course that bends, a line through its first part is a little off the initial rate. “Slope at the "
            "start” is not.",
            verdict=f"Courses bend: at the start they are {percent(abs(middle))} {way} than the lines." if off else "",
        )  # fmt: skip

    def _used(self, bench: RateBench) -> Check | None:
        """Where rates are concentrations over time and levels are concentrations of what is used up."""
        lead, unit = bench.lead(), bench.layout.level.unit
        if lead is None or lead.per != "rate" or bench.lines is None or not unit:
            return None
        made_of = [(1.0, bench.time.unit or "1", 1)]
        if _plain(lead.unit, made_of):
            return None  # an absorbance says nothing of an amount
        try:
            factor = combined(lead.unit, made_of, unit)[0]
        except UnitError:
            return None
        shares = []
        for course in bench.courses:
            at = np.flatnonzero(bench.inside[course.index] & np.isfinite(bench.taken[course.index]))
            if at.size and course.group.level:
                made = abs(float(lead.values[course.index])) * factor * float(bench.x[at[-1]] - bench.x[0])
                if math.isfinite(made):
                    shares.append((made / course.group.level, course))
        if not shares:
            return None
        off = [course for share, course in shares if share > self.used_up]
        worst = max(share for share, _ in shares)
        return Check(
            id="used_up", title="Is most of the substrate left?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: up to {percent(worst)} used up" if off else f"At most {percent(worst)} used up",
            threshold=f"≤ {percent(self.used_up)} at the end of the window",
            why="As substrate goes, the rate falls below the initial one.",
            groups=tuple(dict.fromkeys(course.group.id for course in off)),
            verdict=f"More than {percent(self.used_up)} of the substrate is used up in {keys(off)}." if off else "",
        )  # fmt: skip

    def _settled(self, bench: RateBench) -> Check | None:
        if bench.lines is not None or not bench.courses:
            return None
        off = [course for course in bench.courses if course.id in bench.problems]
        return Check(
            id="settled", title="Does the model settle?", state=State.LOOK if off else State.PASS,
            found=f"Not on {keys(off)}" if off else "On every course",
            threshold="every course", why="What has not settled is no result.",
            groups=tuple(dict.fromkeys(course.group.id for course in off)),
            verdict="" if not off else f"The model does not settle on {keys(off)}.",
        )  # fmt: skip

    def _bracketed(self, bench: RateBench) -> Check | None:
        """Whether the levels lie on both sides of the half of a saturation, or of the best of an optimum."""
        known = [(s, _turning(s.fit.named)) for s in bench.seconds if s.fit is not None]
        found = [(second, at) for second, at in known if at is not None]
        if not found:
            return None
        off = [(second, at) for second, at in found if not min(second.x) < at < max(second.x)]
        said = listed([f"{second.key or 'the curve'}: {significant(at, 3)}" for second, at in (off or found)])
        return Check(
            id="bracketed", title="Do the levels lie on both sides of it?", state=State.LOOK if off else State.PASS,
            found=f"Not of {said}" if off else said[:1].upper() + said[1:],
            threshold="half, or optimum, between the levels",
            why="Beyond the levels that were tried it rests on the model alone.",
            verdict="" if not off else f"Outside the levels: {said}.",
        )  # fmt: skip


def _plain(unit: str, terms: list[tuple[float, str, int]]) -> bool:
    """Whether what comes of a rate over a time is a plain number."""
    try:
        combined(unit, terms, "1")
    except UnitError:
        return False
    return True


def keys(courses: list[Course]) -> str:
    """Courses by name."""
    return listed([course.key for course in courses])


def _turning(named: dict[str, float]) -> float | None:
    return next((named[name] for name in ("half", "optimum", "center") if name in named), None)


def _count(n: int, word: str) -> str:
    return f"{n} {word} is" if n == 1 else f"{n} {word}s are"
