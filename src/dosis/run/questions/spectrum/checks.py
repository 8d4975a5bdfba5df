"""Step: the checks of spectra."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.rounding import given, significant
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import Remark, State
from dosis.run.questions.spectrum.bench import Scan, SpectrumBench
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed, sum_up

TIMES_NOISE = 3.0  # what may be left of a mixture, in the noise of its scan


class ScanChecksStep(Step):
    """Thresholds.

    noise : of the noise over the range of a scan. saturation : absorbance as read from which too little light is left;
    open, where none is looked for. baseline : how far from zero the lowest stretch of a scan may lie, as a share of its
    range.
    """

    title = "Checks"
    names: ClassVar = {"saturation": "saturated from"}
    kind: Literal["scan_checks"] = "scan_checks"
    noise: Annotated[float, Field(gt=0, le=1)] = 0.02
    saturation: Annotated[float, Field(gt=0, le=100)] | None = 2.0
    baseline: Annotated[float, Field(gt=0, le=1)] = 0.05

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Make every check that this run allows."""
        made = (self._noise(bench), self._saturated(bench), self._baseline(bench), self._edge(bench), self._left(bench))
        return sum_up(bench, self.kind, made)

    def _noise(self, bench: SpectrumBench) -> Check | None:
        span = bench.spans
        share = bench.noise / np.where(span > 0, span, np.nan) if bench.noise.size else np.empty(0)
        if not np.isfinite(share).any():
            return None
        off = [scan for scan in bench.scans if share[scan.index] > self.noise]
        most = percent(float(np.nanmax(share)))
        return Check(
            id="scan_noise", title="Are the scans quiet?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: noise up to {most} of the range" if off else f"Noise at most {most} of the range",
            threshold=f"≤ {percent(self.noise)} of a scan's range",
            why="Of noise small peaks are made, and the highest point wanders.",
            groups=groups(off), verdict="" if not off else f"Noisy: {keys(off)}; smooth, or scan more slowly.",
        )  # fmt: skip

    def _saturated(self, bench: SpectrumBench) -> Check | None:
        signal = f"{bench.layout.signal.name} {bench.quantity.name}".lower()
        absorbed = "absorb" in signal or "extinction" in signal or signal.startswith("a ")
        if self.saturation is None or bench.tallest is None or not absorbed:
            return None
        off = [
            scan for scan in bench.scans
            if max(bench.tallest[bench.row_of[id]] for id in scan.ids) > self.saturation
        ]  # fmt: skip
        for scan in off:
            bench.remark(scan.group, Remark(
                state=State.LOOK, short="saturated",
                text=f"Above {given(self.saturation)} less than a hundredth of the light is left; dilute, or use a "
                "shorter path.",
            ))  # fmt: skip
        return Check(
            id="saturation", title="Is enough light left?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: above {given(self.saturation)}" if off else f"All up to {given(self.saturation)}",
            threshold=f"absorbance ≤ {given(self.saturation)}",
            why="Where next to no light comes through, stray light and noise decide what is read.",
            groups=groups(off), verdict="" if not off else f"Saturated: {keys(off)}.",
        )  # fmt: skip

    def _baseline(self, bench: SpectrumBench) -> Check | None:
        signal = bench.quantity.name.lower()
        if "absorb" not in signal or "derivative" in signal or not len(bench.s):
            return None
        off = []
        worst = 0.0
        for scan in bench.scans:
            _, y = bench.part(scan)
            if y.size < 2 or (span := float(np.ptp(y))) == 0:
                continue
            lowest = float(np.sort(y)[: max(y.size // 20, 1)].mean())
            share = abs(lowest) / span
            worst = max(worst, share)
            if share > self.baseline:
                off.append(scan)
        return Check(
            id="baseline", title="Does the baseline lie at zero?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: lowest stretch up to {percent(worst)} of the range away" if off
            else f"Within {percent(worst)} of the range",
            threshold=f"within {percent(self.baseline)} of a scan's range",
            why="What lies under a scan everywhere is counted in its values, areas and ratios.",
            groups=groups(off),
            verdict="" if not off else f"Baseline away from zero: {keys(off)}; take it off where nothing absorbs.",
        )  # fmt: skip

    def _edge(self, bench: SpectrumBench) -> Check | None:
        if not bench.highest:
            return None
        off = []
        for scan, top in zip(bench.scans, bench.highest, strict=True):
            x, _ = bench.part(scan)
            if top is not None and x.size and top.wavelength in (float(x[0]), float(x[-1])):
                off.append(scan)
        return Check(
            id="edge", title="Is the highest point inside the scan?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: highest at its end" if off else "Of every scan",
            threshold="not at an end", why="A scan that still rises at its end has its peak elsewhere.",
            groups=groups(off),
            verdict="" if not off else f"Highest at the end of the scan: {keys(off)}; set a window for the peaks.",
        )  # fmt: skip

    def _left(self, bench: SpectrumBench) -> Check | None:
        if not bench.mixtures:
            return None
        own = {scan.index: float(bench.noise[scan.index]) for scan in bench.scans if scan.index in bench.mixtures}
        off = [
            scan for scan in bench.scans
            if scan.index in own and bench.mixtures[scan.index].rmse > TIMES_NOISE * own[scan.index] > 0
        ]  # fmt: skip
        most = max(m.rmse for m in bench.mixtures.values())
        return Check(
            id="left_over", title="Do the references make up the scans?", state=State.LOOK if off else State.PASS,
            found=f"{keys(off)}: up to {significant(most, 2)} left" if off else f"At most {significant(most, 2)} left",
            threshold=f"≤ {given(TIMES_NOISE)} times a scan's noise, up to {significant(max(own.values()), 2)}",
            why="What is left is something else in the scan, and its share goes to the components.",
            groups=groups(off),
            verdict="" if not off else f"Something else is in {keys(off)}; look at what is left over.",
        )  # fmt: skip


def keys(scans: list[Scan]) -> str:
    """Scans by name."""
    return listed([scan.key for scan in scans])


def groups(scans: list[Scan]) -> tuple[str, ...]:
    """Their groups."""
    return tuple(dict.fromkeys(scan.group.id for scan in scans))
