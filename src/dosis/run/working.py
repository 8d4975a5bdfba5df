"""Working through the steps of a method."""

from collections.abc import Iterable, Mapping, Sequence
from typing import TypeVar

from dosis.run.bench import Bench
from dosis.run.layout import PART
from dosis.run.outcome.working import WorkingLine
from dosis.run.record import changed
from dosis.run.steps.blank import BlankStep
from dosis.run.steps.signal import SignalStep
from dosis.run.steps.step import Steps

AnyBench = TypeVar("AnyBench", bound=Bench)


def work(bench: AnyBench, steps: Steps, *, before: str = "") -> AnyBench:
    """The bench with all that the steps leave on it; `before` names the kind of step to stop at."""
    if signal_after_blank(steps):
        bench.keep_channels()
    for step in steps:
        if step.kind == before:
            break
        bench.steps.append(step.run(bench))
    return bench


def signal_after_blank(steps: Steps) -> bool:
    """Whether columns are derived from readings whose blank is off already."""
    kinds = [type(step) for step in steps]
    return SignalStep in kinds and BlankStep in kinds[: kinds.index(SignalStep)]


def whole_working(working: Iterable[tuple[str, list[WorkingLine]]]) -> dict[str, tuple[WorkingLine, ...]]:
    """What was written down, that of a group's parts under the group."""
    whole: dict[str, tuple[WorkingLine, ...]] = {}
    for id, lines in working:
        of, _, part = id.partition(PART)
        named = [changed(line, label=f"{line.label} ({part})") for line in lines] if part else lines
        whole[of] = (*whole[of], *named) if of in whole else tuple(named)
    return whole


def joined_working(parts: Sequence[Mapping[str, tuple[WorkingLine, ...]]]) -> dict[str, tuple[WorkingLine, ...]]:
    """The working of several curves together: a sample that is read on two has both, what they share is said once."""
    whole: dict[str, tuple[WorkingLine, ...]] = {}
    for part in parts:
        for id, lines in part.items():
            before = whole.get(id, ())
            whole[id] = (*before, *[line for line in lines if line not in before]) if before else lines
    return whole
