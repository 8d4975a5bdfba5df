"""Step: the stretches of a recording that are looked at, dragged, typed, or from each mark to the next."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field, model_validator

from dosis.core.rounding import given
from dosis.run.layout import Level, Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.recording.bench import RecordingBench, Stretch
from dosis.run.record import Record
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed

MANY = 0.1  # share of samples that are missing from which it is pointed at


class NamedStretch(Record):
    """A stretch as it is set."""

    name: Annotated[Name, Field(min_length=1)]
    start: Level
    stop: Level

    @model_validator(mode="after")
    def _forward(self) -> "NamedStretch":
        if self.stop <= self.start:
            raise ValueError(f"The stretch “{self.name}” ends before it begins.")
        return self


class StretchesStep(Step):
    """stretches : as they were dragged or typed, each name once. marked : whether each mark begins one that goes on to
    the next mark, or to the end.
    """

    title = "Stretches"
    names: ClassVar = {"marked": "from mark to mark"}
    kind: Literal["stretches"] = "stretches"
    stretches: Annotated[tuple[NamedStretch, ...], Field(max_length=200)] = ()
    marked: bool = False

    @model_validator(mode="after")
    def _apart(self) -> "StretchesStep":
        names = [each.name for each in self.stretches]
        if len(set(names)) < len(names):
            twice = next(name for name in names if names.count(name) > 1)
            raise ValueError(f"Two stretches are called “{twice}”; give one of them another name.")
        return self

    def words(self, before: Step | None, unit: str) -> str:
        """Which stretches came, went or moved."""
        old = before if isinstance(before, StretchesStep) else StretchesStep()
        was = {each.name: each for each in old.stretches}
        said = [
            f"{each.name} {given(each.start)} to {given(each.stop)}"
            for each in self.stretches if was.get(each.name) != each
        ]  # fmt: skip
        said += [f"{name} removed" for name in was if name not in {each.name for each in self.stretches}]
        if self.marked != old.marked:
            said.append("from mark to mark" if self.marked else "not from mark to mark")
        return f"Stretches: {', '.join(said) or 'as before'}"

    def run(self, bench: RecordingBench) -> StepOutcome:
        """Find them in the recording."""
        if not bench.channels:
            return self.told("There are no channels yet. Give readings the role channel.", State.FAIL)
        found = [Stretch(name=each.name, start=each.start, stop=each.stop) for each in self.stretches]
        if self.marked:
            found += _between_marks(bench, {each.name for each in found})
        found.sort(key=lambda each: (each.start, each.stop))
        outside = [each.name for each in found if bench.inside(each).stop <= bench.inside(each).start]
        bench.stretches = [each for each in found if each.name not in outside]
        span = f"{given(float(bench.x[0]))} to {given(float(bench.x[-1]))} {bench.time.unit}".rstrip()
        rate = (bench.x.size - 1) / float(bench.x[-1] - bench.x[0]) if bench.x.size > 1 else 0.0
        count = f"{len(bench.channels)} channels" if len(bench.channels) > 1 else "One channel"
        often = f"{given(float(f'{rate:.4g}'))} per {bench.time.unit or 'unit'}"
        said = f"**{count}** of {bench.x.size:,} samples, {span}, {often}."
        marks = len(bench.readings.axis.marks) if bench.readings.axis else 0
        if marks:
            said += f" {marks} {'mark' if marks == 1 else 'marks'}."
        said += f" **{len(bench.stretches)} {'stretch' if len(bench.stretches) == 1 else 'stretches'}**."
        lost = f" Outside the recording: {', '.join(outside[:5])}." if outside else ""
        gaps = {channel.key: bench.x.size - int(bench.recording.there[channel.row]) for channel in bench.channels}
        gapped = [f"{name} {count:,}" for name, count in gaps.items() if count]
        if gapped:
            said += f" Samples that are missing: {listed(gapped)}."
        if worst := [name for name, count in gaps.items() if count > MANY * bench.x.size]:
            lost += f" More than a tenth of the samples is missing: {listed(worst)}."
        return self.told(said + lost, State.LOOK if lost else State.PASS, lost.strip())


def _between_marks(bench: RecordingBench, taken: set[str]) -> list[Stretch]:
    axis = bench.readings.axis
    marks = sorted(axis.marks, key=lambda mark: mark.x) if axis else []
    ends = [*(mark.x for mark in marks[1:]), float(np.nextafter(bench.x[-1], np.inf))]
    found = []
    for mark, stop in zip(marks, ends, strict=False):
        name, again = mark.text or "Mark", 1
        while name in taken:
            again += 1
            name = f"{mark.text or 'Mark'} {again}"
        taken.add(name)
        if stop > mark.x:
            found.append(Stretch(name=name, start=mark.x, stop=stop))
    return found
