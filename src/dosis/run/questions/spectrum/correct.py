"""Step: what is taken off the scans — the blank's, a baseline, scattered light."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.rounding import given, significant
from dosis.core.spectra import polynomial_baseline, scatter
from dosis.run.curves.ends import Range
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.spectrum.bench import SCANS, SpectrumBench
from dosis.run.questions.spectrum.windows import span
from dosis.run.roles import Role
from dosis.run.steps.step import Step


class CorrectStep(Step):
    """blank : whether the mean of the blank scans is subtracted. baseline : through the points of the windows, where
    nothing absorbs, its mean ("offset"), a straight line, or a polynomial of that degree. scatter : where nothing
    absorbs, so that light lost there is scattered, c·λ⁻ⁿ.
    """

    title = "Correct"
    names: ClassVar = {"windows": "baseline through", "scatter": "scatter judged over"}
    kind: Literal["correct"] = "correct"
    blank: bool = True
    baseline: Literal["none", "offset", "line", "polynomial"] = "none"
    windows: Annotated[tuple[Range, ...], Field(max_length=12)] = ()
    degree: Annotated[int, Field(ge=2, le=6)] = 2
    scatter: Range | None = None

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Correct every scan."""
        bench.stage(self.kind)
        bench.tallest = np.max(bench.y, axis=1, where=np.isfinite(bench.y), initial=-np.inf)
        said, trouble = [self._blank(bench)], ""
        try:
            if self.baseline != "none":
                said.append(self._baseline(bench))
            if self.scatter is not None:
                said.append(self._scatter(bench, self.scatter))
        except ValueError as error:
            trouble = str(error)
        text = " ".join(filter(None, said)) or "Nothing is taken off."
        return self.told(f"{text} {trouble}".strip(), State.LOOK if trouble else State.PASS, trouble)

    def _blank(self, bench: SpectrumBench) -> str:
        groups = bench.groups(Role.BLANK)
        ids = [id for group in groups for id in bench.used(group)]
        if not ids:
            return "No blank scan is left, so none is subtracted." if groups and self.blank else ""
        if not self.blank:
            return "The blank scan is not subtracted."
        blank = bench.y[[bench.row_of[id] for id in ids]].mean(axis=0)
        rows = [row for id, row in bench.row_of.items() if id not in ids]
        bench.y[rows] -= blank
        count = f"The mean of **{len(ids)} blank scans**" if len(ids) > 1 else "**The blank scan**"
        level = bench.signal(float(np.nanmean(blank)))
        bench.note_all(self.kind, "Blank", f"− the blank scan, on average {level}, at every place")
        return f"{count}, on average {level}, subtracted."

    def _baseline(self, bench: SpectrumBench) -> str:
        if not self.windows:
            raise ValueError("Say where nothing absorbs: a baseline goes through the points of that window.")
        degree = {"offset": 0, "line": 1}.get(self.baseline, self.degree)
        ends = [span(each, bench.x) for each in self.windows]
        under = np.full(bench.y.shape, np.nan)
        before = bench.y.copy()

        def take_off(x: Array, y: Array) -> Array:
            corrected, _ = polynomial_baseline(x, y, ends, degree)
            return corrected

        bench.over(take_off)
        under = before - bench.y
        where = ", ".join(f"{given(a)} to {given(b)}" for a, b in ends)
        what = {"offset": "Their mean", "line": "A straight line"}.get(
            self.baseline, f"A polynomial of degree {degree}"
        )
        for group in bench.groups(*SCANS):
            for id in bench.used(group):
                row = under[bench.row_of[id]]
                known = row[np.isfinite(row)]
                text = f"{what.lower()} through the points of {where} {bench.axis.unit}"
                text += f": {bench.signal(float(known[0]))} at the start"
                if degree:
                    text += f", {bench.signal(float(known[-1]))} at the end"
                bench.note(group, self.kind, "Baseline", text=text)
        return f"**{what}** through the points of {where} {bench.axis.unit} is the baseline, taken off everywhere."

    def _scatter(self, bench: SpectrumBench, window: Range) -> str:
        low, high = span(window, bench.x)
        exponents = []
        rows = [bench.row_of[id] for group in bench.groups(*SCANS) for id in bench.used(group)]
        of = {bench.row_of[id]: group for group in bench.groups(*SCANS) for id in bench.used(group)}
        skipped = 0
        for row in rows:
            there = np.isfinite(bench.y[row])
            try:
                found = scatter(bench.x[there], bench.y[row, there], low, high)
            except ValueError:
                skipped += 1
                continue
            bench.y[row, there] = found.corrected
            exponents.append(found.exponent)
            text = f"− {significant(found.scale, 3)} · λ^(−{significant(found.exponent, 3)})"
            bench.note(of[row], self.kind, "Scatter", text=text)
        if not exponents:
            raise ValueError(
                f"Scatter is judged from at least 3 points above zero between {given(low)} and {given(high)}; no scan "
                "has them there."
            )
        lost = f" {skipped} scans have too few points above zero there, and keep theirs." if skipped else ""
        middle = significant(float(np.median(exponents)), 3)
        return f"Scattered light, λ^(−{middle}) in the middle of the scans, taken off.{lost}"
