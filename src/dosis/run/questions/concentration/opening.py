"""The curve a run opens with: the one that describes the standards it has."""

from statistics import fmean

from dosis.core.fitting.fit import fit
from dosis.run.layout import Layout
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.curve import BETTER, CurveStep, wide
from dosis.run.standards.parts import split
from dosis.run.steps.step import Steps, one, with_step
from dosis.run.working import work

LEVELS_OFF = 0.2  # slope of the top interval over the steepest one, below which a signal saturates


def first_curve(readings: Readings, before: Layout | None, layout: Layout, steps: Steps) -> Steps:
    """The steps with a sigmoid in the place of the line nobody has touched, when standards that need one come in.

    That is where they span more than a factor of 20, their signal levels off, rising or falling, and the sigmoid has
    the lower AICc. before : the layout that had no standards yet; with one that had, nothing is changed.
    """
    step = one(steps, CurveStep)
    if step != CurveStep() or (before is not None and _standards(before)):
        return steps
    for part in split(readings, layout, step.per):
        bench = work(StandardBench(readings, part.layout), steps, before="curve")
        pairs = [
            (group.level, bench.values[id])
            for group in bench.groups(Role.STANDARD) if group.level is not None for id in bench.used(group)
        ]  # fmt: skip
        if not pairs or not _saturates([x for x, _ in pairs], [y for _, y in pairs]):
            return steps
    return with_step(steps, CurveStep(model="logistic4"))


def _standards(layout: Layout) -> bool:
    return any(group.role is Role.STANDARD and group.level is not None for group in layout.groups)


def _saturates(x: list[float], y: list[float]) -> bool:
    if not wide(x):
        return False
    levels = sorted(set(x))
    means = [fmean([b for a, b in zip(x, y, strict=True) if a == level]) for level in levels]
    slopes = [abs((means[i + 1] - means[i]) / (levels[i + 1] - levels[i])) for i in range(len(levels) - 1)]
    if not slopes[-1] < LEVELS_OFF * max(slopes):
        return False
    try:
        line, sigmoid = fit("line", x, y), fit("logistic4", x, y)
    except ValueError:
        return False
    if not sigmoid.converged or sigmoid.aicc is None or line.aicc is None:
        return False
    return sigmoid.aicc < line.aicc - BETTER
