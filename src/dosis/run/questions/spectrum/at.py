"""Step: values at typed places, areas between two of them, and ratios of values."""

from functools import partial
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.rounding import given, significant
from dosis.core.spectra import area
from dosis.run.curves.ends import Range
from dosis.run.layout import Level
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.spectrum.bench import Read, SpectrumBench, value_at
from dosis.run.questions.spectrum.intervals import replicated
from dosis.run.questions.spectrum.windows import span
from dosis.run.record import Record
from dosis.run.steps.step import Step


class Ratio(Record):
    """The value at one place over that at another."""

    over: Level
    under: Level


class AtStep(Step):
    """places : where values are read off. areas : between which places. ratios : of values at two places."""

    title = "At"
    names: ClassVar = {"places": "values at", "areas": "areas from"}
    kind: Literal["at"] = "at"
    places: Annotated[tuple[Level, ...], Field(max_length=40)] = ()
    areas: Annotated[tuple[Range, ...], Field(max_length=20)] = ()
    ratios: Annotated[tuple[Ratio, ...], Field(max_length=20)] = ()

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Read them off every scan."""
        if not bench.scans:
            return self.told("Waiting for scans.", State.FAIL)
        own, unit = bench.quantity, bench.axis.unit
        lost = []
        for k, place in enumerate(self.places):
            values = [bench.at(row, place) for row in bench.s]
            lost += [given(place)] * (not np.isfinite(values).any())
            cells = replicated(bench, values, partial(value_at, place=place))
            name = f"{own.name} at {given(place)} {unit}".rstrip()
            bench.reads.append(Read(f"at_{k}", name, own.unit, cells, at=place, short=f"At {given(place)}"))
            self._note(bench, name, values, "straight between the points beside it")
        for k, each in enumerate(self.areas):
            low, high = span(each, bench.x)
            values = [_area(*bench.part(scan), low, high) for scan in bench.scans]
            lost += [f"{given(low)} to {given(high)}"] * (not np.isfinite(values).any())
            cells = replicated(bench, values, partial(_area, low=low, high=high))
            name = f"Area {given(low)} to {given(high)} {unit}".rstrip()
            by = " · ".join(filter(None, (own.unit, unit)))
            bench.reads.append(Read(f"area_{k}", name, by, cells, short=f"Area {given(low)}–{given(high)}"))
            self._note(bench, name, values, "by trapezoids")
        for k, ratio in enumerate(self.ratios):
            values = [_ratio(*bench.part(scan), ratio) for scan in bench.scans]
            cells = replicated(bench, values, partial(_ratio, ratio=ratio))
            name = f"Ratio {given(ratio.over)} / {given(ratio.under)}"
            bench.reads.append(Read(f"ratio_{k}", name, "", cells, short=f"{given(ratio.over)}/{given(ratio.under)}"))
            lost += [name] * (not np.isfinite(values).any())
            self._note(bench, name, values, "of the values at both places")
        count = len(self.places) + len(self.areas) + len(self.ratios)
        if count == 0:
            return self.told("No place is typed. Values, areas and ratios are read off here.", State.PASS)
        said = ", ".join(filter(None, (
            _counted(len(self.places), "value"), _counted(len(self.areas), "area"), _counted(len(self.ratios), "ratio"),
        )))  # fmt: skip
        outside = f" {', '.join(lost)}: outside every scan." if lost else ""
        text = f"**{said}** read off every scan.{outside}"
        return self.told(text, State.LOOK if lost else State.PASS, outside.strip())

    def _note(self, bench: SpectrumBench, name: str, values: list[float], how: str) -> None:
        for scan, value in zip(bench.scans, values, strict=True):
            if np.isfinite(value):
                bench.note(
                    scan.group, self.kind, name, text=f"{scan.key}, {how}", result=significant(value, 5), value=value
                )


def _counted(count: int, word: str) -> str:
    return "" if count == 0 else f"{count} {word}{'' if count == 1 else 's'}"


def _area(x: Array, y: Array, low: float, high: float) -> float:
    return area(x, y, low, high) if x.size > 1 and x[0] <= low < high <= x[-1] else float("nan")


def _ratio(x: Array, y: Array, ratio: Ratio) -> float:
    under = value_at(x, y, ratio.under)
    return value_at(x, y, ratio.over) / under if under != 0 else float("nan")
