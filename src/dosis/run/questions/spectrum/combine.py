"""Step: how scans are brought together — replicates averaged, one held against another, all brought to one height."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.rounding import given, significant
from dosis.core.spectra import area, highest
from dosis.run.curves.ends import Range
from dosis.run.layout import Level, Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.spectrum.bench import Scan, SpectrumBench
from dosis.run.questions.spectrum.windows import span
from dosis.run.steps.step import Step


class CombineStep(Step):
    """replicates : "mean" averages scans of one name, "each" keeps them apart. against : the name of the scan that all
    others are held against, `how`: less it, or divided by it. normalize : so that each has the value `to` at its
    highest point in the window, as its area there, or at the place `at`.
    """

    title = "Combine"
    names: ClassVar = {"against": "held against", "normalize": "brought to the same", "at": "place"}
    kind: Literal["combine"] = "combine"
    replicates: Literal["mean", "each"] = "mean"
    against: Name = ""
    how: Literal["minus", "divided"] = "minus"
    normalize: Literal["none", "peak", "area", "at"] = "none"
    window: Range = Range()
    at: Level | None = None
    to: Annotated[float, Field(gt=0, le=1e9)] = 1.0

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Bring them together."""
        bench.stage(self.kind)
        bench.sort(mean=self.replicates == "mean")
        if not bench.scans:
            return self.told("Waiting for scans.", State.FAIL)
        averaged = [scan for scan in bench.scans if len(scan.ids) > 1]
        said = [f"Replicates averaged, for {len(averaged)} of {len(bench.scans)} scans."] if averaged else []
        for scan in averaged:
            bench.note(scan.group, self.kind, "Mean", text=f"of {len(scan.ids)} scans, at every place")
        trouble = ""
        try:
            if self.against:
                said.append(self._against(bench))
            if self.normalize != "none":
                said.append(self._normalized(bench))
        except ValueError as error:
            trouble = str(error)
        text = " ".join(said) or "Each scan stands for itself."
        return self.told(f"{text} {trouble}".strip(), State.LOOK if trouble else State.PASS, trouble)

    def _against(self, bench: SpectrumBench) -> str:
        found = next((scan for scan in bench.scans if scan.key == self.against), None)
        if found is None:
            raise ValueError(f"There is no scan “{self.against}” to hold the others against; choose one.")
        with np.errstate(all="ignore"):
            own = bench.s[found.index]
            made = bench.s - own if self.how == "minus" else bench.s / own
        made[~np.isfinite(made)] = np.nan
        bench.plain = False
        keep = [scan for scan in bench.scans if scan is not found]
        bench.s = made[[scan.index for scan in keep]]
        bench.scans = [Scan(scan.ids, scan.group, scan.key, i) for i, scan in enumerate(keep)]
        for scan in bench.scans:
            sign = "−" if self.how == "minus" else "÷"
            bench.note(scan.group, self.kind, "Held against", text=f"{scan.key} {sign} {self.against}")
        if self.how == "divided":
            bench.rescaled(f"{bench.quantity.name}, ratio to {self.against}")
            return f"**Divided by {self.against}**, place by place."
        return f"**Difference from {self.against}**, place by place."

    def _normalized(self, bench: SpectrumBench) -> str:
        low, high = span(self.window, bench.x)
        if self.normalize == "at" and self.at is None:
            raise ValueError("Type the place at which all scans are to have the same value.")
        off = []
        bench.plain = False
        for scan in bench.scans:
            value = self._measure(bench, scan, low, high)
            if not np.isfinite(value) or value == 0:
                off.append(scan.key)
                continue
            bench.s[scan.index] *= self.to / value
            bench.note(scan.group, self.kind, "Normalized", text=f"× {given(self.to)} ÷ {significant(value, 5)}")
        if off:
            shown = ", ".join(off[:5])
            raise ValueError(f"{shown}: nothing there to normalize by, so left as it is. Choose another window.")
        unit = bench.axis.unit
        where = {
            "peak": f"its highest point between {given(low)} and {given(high)} {unit}",
            "area": f"its area between {given(low)} and {given(high)} {unit}",
            "at": f"{given(self.at or 0.0)} {unit}",
        }[self.normalize]
        bench.rescaled(f"{bench.quantity.name}, normalized")
        return f"**Every scan is brought to {given(self.to)}** at {where}."

    def _measure(self, bench: SpectrumBench, scan: Scan, low: float, high: float) -> float:
        if self.normalize == "at":
            return bench.at(bench.s[scan.index], self.at or 0.0)
        x, y = bench.part(scan)
        inside = (x >= low) & (x <= high)
        if inside.sum() < 2:
            return float("nan")
        return highest(x[inside], y[inside]).value if self.normalize == "peak" else area(x[inside], y[inside])
