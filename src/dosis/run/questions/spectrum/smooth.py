"""Step: smoothing, and derivatives."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.rounding import significant
from dosis.core.spectra import noise_of, smoothed
from dosis.run.layout import Quantity
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.spectrum.bench import SpectrumBench, middle
from dosis.run.steps.step import Step

ORDER = {1: "First", 2: "Second"}


class SmoothStep(Step):
    """A polynomial of that degree through every window of so many points, odd; 0 points leave scans as they are.

    derivative : of which order is drawn and read off in place of the scan itself.
    """

    title = "Smooth"
    names: ClassVar = {"points": "points in a window"}
    kind: Literal["smooth"] = "smooth"
    points: Annotated[int, Field(ge=0, le=1001)] = 0
    degree: Annotated[int, Field(ge=1, le=6)] = 2
    derivative: Annotated[int, Field(ge=0, le=2)] = 0

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Smooth every scan."""
        bench.stage(self.kind)
        if self.points == 0 and self.derivative == 0:
            return self.told("Scans are not smoothed.", State.PASS)
        window = max(self.points or 7, self.degree + 1, 3) | 1
        degree = max(self.degree, self.derivative)
        before = middle(noise_of(bench.y[bench.scan_rows]))

        def work(x: Array, y: Array) -> Array:
            return smoothed(x, y, window, degree, self.derivative)

        try:
            bench.over(work)
        except ValueError as error:
            return self.told(f"{error} Scans stay as they are.", State.LOOK, str(error))
        what = f"a polynomial of degree {degree} through {window} points at a time (Savitzky and Golay)"
        if self.derivative:
            unit = bench.axis.unit or "x"
            power = unit if self.derivative == 1 else f"{unit}²"
            own = bench.quantity
            bench.with_quantity(Quantity(
                name=f"{ORDER[self.derivative]} derivative of {own.name}"[:200], unit=f"{own.unit or '1'}/{power}"[:40],
            ))  # fmt: skip
            bench.note_all(self.kind, "Derivative", f"of {what}")
            return self.told(f"**{ORDER[self.derivative]} derivative** of {what}.", State.PASS)
        after = middle(noise_of(bench.y[bench.scan_rows]))
        told = ""
        if np.isfinite(before) and before > 0 and np.isfinite(after):
            told = f" Noise falls from {significant(float(before), 2)} to {significant(float(after), 2)}."
        bench.note_all(self.kind, "Smoothed", what)
        return self.told(f"**Smoothed** by {what}.{told}", State.PASS)
