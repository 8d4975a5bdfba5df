"""Step: the checks of a relation."""

from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.inference.parameters import not_determined
from dosis.core.inference.result import Fit
from dosis.core.rounding import given, p_value
from dosis.run.curves.words import BEND
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.relation.bench import Line, RelationBench
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed, sum_up


class RelationChecksStep(Step):
    """Thresholds.

    least : degrees of freedom below which an interval says little. runs : p from which the runs test passes.
    """

    title = "Checks"
    kind: Literal["relation_checks"] = "relation_checks"
    least: Annotated[int, Field(ge=1, le=100)] = 3
    runs: Annotated[float, Field(gt=0, lt=1)] = 0.05

    def run(self, bench: RelationBench) -> StepOutcome:
        """Make every check that this run allows."""
        lines = [line for line in bench.lines.values() if line.fit is not None]
        made = (
            self._straight(lines), self._bend(lines), self._pattern(lines), self._enough(lines), self._told(lines),
            self._outside(bench),
        )  # fmt: skip
        return sum_up(bench, self.kind, made)

    def _straight(self, lines: list[Line]) -> Check | None:
        of_lines = [
            line for line in lines if line.fit is not None and line.fit.model.id in ("line", "line_through_zero")
        ]
        if not of_lines:
            return None
        off = [(line, turn) for line in of_lines if (turn := line.turn) is not None]
        found = "No curvature"
        if off:
            found = listed([f"{line.called} {turn[1]}, p {turn[2]}" for line, turn in off])
        return Check(
            id="straight",
            title="Is a straight line fair?",
            state=State.LOOK if off else State.PASS,
            found=found,
            threshold="no curvature with p < 0.01",
            why="A line through a bend is off in the middle and at the ends; through a peak it says nothing.",
            verdict="" if not off else f"{off[0][0].called} {off[0][1][1]}: a straight line misleads.",
        )

    def _bend(self, lines: list[Line]) -> Check | None:
        return _by_p(
            lines, lambda fit: fit.lack_of_fit.p_value, BEND,
            id="lack",
            title="Does the curve describe the points?",
            threshold=f"lack of fit p ≥ {BEND}",
            why="Where replicates agree better than the curve allows, another is wanted.",
            verdict="The curve misses {}.",
        )  # fmt: skip

    def _pattern(self, lines: list[Line]) -> Check | None:
        return _by_p(
            lines, lambda fit: fit.runs_test.p_value, self.runs,
            id="pattern",
            title="Do residuals change sides often enough?",
            threshold=f"runs test p ≥ {given(self.runs)}",
            why="Long runs above and below the curve are what it does not describe.",
            verdict="Residuals of {} form a pattern.",
        )  # fmt: skip

    def _enough(self, lines: list[Line]) -> Check | None:
        if not lines:
            return None
        off = [line for line in lines if line.fit is not None and line.fit.degrees_of_freedom < self.least]
        least = min(line.fit.degrees_of_freedom for line in lines if line.fit is not None)
        found = f"{listed([line.called for line in off])}: {least} degrees of freedom" if off else f"At least {least}"
        return Check(
            id="enough",
            title="Are there points enough?",
            state=State.LOOK if off else State.PASS,
            found=found,
            threshold=f"{self.least} degrees of freedom or more",
            why="With hardly more points than parameters any curve fits.",
            verdict="" if not off else f"Few points: {found}.",
        )

    def _told(self, lines: list[Line]) -> Check | None:
        if not lines:
            return None
        off = [(line, lost) for line in lines if line.fit is not None and (lost := not_determined(line.fit))]
        names = listed([f"{', '.join(sorted(lost))} of {line.among}" for line, lost in off])
        found = f"Not {names}" if off else "All are"
        return Check(
            id="determined",
            title="Are the parameters determined?",
            state=State.LOOK if off else State.PASS,
            found=found,
            threshold="every parameter with a standard error",
            why="A parameter that the points leave open is no result.",
            verdict=f"Not determined: {names}." if off else "",
        )

    def _outside(self, bench: RelationBench) -> Check | None:
        if not bench.predictions:
            return None
        off = [each for each in bench.predictions if each.beyond]
        found = f"{len(bench.predictions) - len(off)} of {len(bench.predictions)}"
        return Check(
            id="outside",
            title="Do predictions lie among the points?",
            state=State.LOOK if off else State.PASS,
            found=found,
            threshold="every one",
            why="Beyond the points a curve is a guess.",
            verdict="" if not off else f"{len(off)} predictions lie outside the points or cannot be had.",
        )  # fmt: skip


def _by_p(
    lines: list[Line], p_of: Callable[[Fit], float | None], least: float, *,
    id: str, title: str, threshold: str, why: str, verdict: str,
) -> Check | None:  # fmt: skip
    """A check of a test's p on every curve, where there is one; `verdict` is said of those below the least."""
    known = [(line, p) for line in lines if line.fit is not None and (p := p_of(line.fit)) is not None]
    if not known:
        return None
    off = [(line, p) for line, p in known if p < least]
    worst = min(p for _, p in known)
    return Check(
        id=id, title=title, state=State.LOOK if off else State.PASS,
        found=listed([f"{line.called}: p {p_value(p)}" for line, p in off]) if off else f"Least p {p_value(worst)}",
        threshold=threshold, why=why,
        verdict="" if not off else verdict.format(listed([line.among for line, _ in off])),
    )  # fmt: skip
