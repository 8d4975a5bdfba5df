"""Step: where scans are highest, and all their peaks."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.rounding import given, significant
from dosis.core.spectra import PeakShape, highest, noise_of, peaks_of
from dosis.run.curves.ends import Range
from dosis.run.layout import Level
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.spectrum.bench import Read, Scan, SpectrumBench, middle
from dosis.run.questions.spectrum.intervals import replicated
from dosis.run.questions.spectrum.windows import span
from dosis.run.steps.step import Step

SHARE = 0.05  # of the greatest range of a scan that a peak stands out by, where nothing else is said
NOISES = 6.0  # and how many times the noise it stands out by at least
NEAR = 0.05  # share of the axis within which a picked place finds its peak


class PeaksStep(Step):
    """window : in which they are looked for. prominence : how far a peak stands out from the valleys at its sides, in
    units of y, to be listed; where it is open, a twentieth of the greatest scan's range and six times its noise.
    picked : places whose nearest peak is read off in every scan, whatever its prominence.
    """

    title = "Peaks"
    names: ClassVar = {"picked": "peaks picked at"}
    kind: Literal["peaks"] = "peaks"
    window: Range = Range()
    prominence: Annotated[float, Field(gt=0, le=1e12)] | None = None
    picked: Annotated[tuple[Level, ...], Field(max_length=40)] = ()

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Find them in every scan."""
        if not bench.scans:
            return self.told("Waiting for scans.", State.FAIL)
        low, high = span(self.window, bench.x)
        bench.noise = noise_of(bench.s)
        bench.least = self.prominence or self._least(bench)
        outside = []
        for scan in bench.scans:
            x, y = bench.part(scan)
            inside, noise = (x >= low) & (x <= high), float(bench.noise[scan.index])
            bench.highest.append(highest(x[inside], y[inside], noise) if inside.any() else None)
            bench.peaks.append(peaks_of(x, y, bench.least, low, high, noise=noise) if x.size > 2 else [])
            bench.picked.append([_nearest(x, y, place) for place in self.picked])
            if bench.highest[-1] is None:
                outside.append(scan.key)
            else:
                self._note(bench, scan, x, y)
        self._read(bench)
        counts = [len(each) for each in bench.peaks]
        tops = [each.wavelength for each in bench.highest if each is not None]
        if not tops:
            return self.told("No scan has a point in the window.", State.FAIL)
        unit = f" {bench.axis.unit}".rstrip()
        where, other = bench.shown_place(min(tops)), bench.shown_place(max(tops))
        said = (
            f"Highest at **{where}{unit}**" if where == other else f"Highest between **{where}** and **{other}{unit}**"
        )
        count = f"**{sum(counts)} {'peak' if sum(counts) == 1 else 'peaks'}**"
        listed = f"{count} with a prominence of {significant(bench.least, 2)} or more"
        if len(counts) > 1:
            few, many = min(counts), max(counts)
            listed += f", {few if few == many else f'{few} to {many}'} in each scan"
        limits = "" if self.window == Range() else f" between {given(low)} and {given(high)}{unit}"
        lost = f" Outside the window: {', '.join(outside[:5])}." if outside else ""
        return self.told(f"{said}; {listed}{limits}.{lost}", State.LOOK if outside else State.PASS, lost.strip())

    def _least(self, bench: SpectrumBench) -> float:
        spans, noise = bench.spans, middle(bench.noise)
        widest = float(np.max(spans, where=np.isfinite(spans), initial=0.0))
        return max(SHARE * widest, NOISES * noise if np.isfinite(noise) else 0.0, np.finfo(float).tiny)

    def _read(self, bench: SpectrumBench) -> None:
        unit, own = bench.axis.unit, bench.quantity
        places = [None if each is None else each.wavelength for each in bench.highest]
        values = [None if each is None else each.value for each in bench.highest]
        tops = replicated(bench, places, lambda x, y: highest(x, y).wavelength, self.window, digits=True)
        heights = replicated(bench, values, lambda x, y: highest(x, y).value, self.window)
        bench.reads.append(Read("highest", "Highest at", unit, tops))
        bench.reads.append(Read("height", f"{own.name} there", own.unit, heights, short="Height"))
        for scan, place in zip(bench.scans, places, strict=True):
            if place is not None:
                for id in scan.ids:
                    bench.values[id] = place
        for k, place in enumerate(self.picked):
            found = [each[k] for each in bench.picked]
            at = [None if peak is None else peak.wavelength for peak in found]
            cells = [Value() if v is None else Value(v, None, None, "", bench.shown_place(v)) for v in at]
            bench.reads.append(Read(f"picked_{k}", f"Peak near {given(place)}", unit, cells, at=place))
            tall = [Value() if peak is None else Value.of(peak.value, None, None) for peak in found]
            bench.reads.append(
                Read(
                    f"picked_{k}_height", f"{own.name} at the peak near {given(place)}", own.unit, tall, short="Height"
                )
            )

    def _note(self, bench: SpectrumBench, scan: Scan, x: Array, y: Array) -> None:
        top = bench.highest[scan.index]
        assert top is not None
        i = int(np.argmin(np.abs(x - top.wavelength)))
        about = ", ".join(
            f"({given(float(x[j]))}; {significant(float(y[j]), 5)})" for j in range(max(i - 1, 0), min(i + 2, x.size))
        )
        unit = bench.axis.unit
        bench.note(
            scan.group, self.kind, f"Highest point of {scan.key}",
            text=f"top of the parabola by least squares through the points of its top twentieth, about {about}",
            result=f"{bench.shown_place(top.wavelength)} {unit}".rstrip() + f", {significant(top.value, 5)}",
            value=top.wavelength,
        )  # fmt: skip
        for peak in bench.peaks[scan.index]:
            text = (
                f"prominence {significant(peak.prominence, 3)}; at half of it from {bench.shown_place(peak.left)} to "
                f"{bench.shown_place(peak.right)}, so {significant(peak.width, 3)} wide; area "
                f"{significant(peak.area, 3)} above the line from {given(peak.foot_left)} to {given(peak.foot_right)}"
            )
            where = f"{bench.shown_place(peak.wavelength)} {unit}".rstrip()
            bench.note(
                scan.group, self.kind, f"Peak of {scan.key}", text=text, result=f"{where}, {significant(peak.value, 4)}"
            )


def _nearest(x: Array, y: Array, place: float) -> PeakShape | None:
    """The peak of a scan nearest to a place, within a twentieth of the axis."""
    if x.size < 3:
        return None
    reach = NEAR * float(x[-1] - x[0])
    near = peaks_of(x, y, 0.0, place - reach, place + reach)
    # Noise makes peaks, too: among those near, the one that is both near and stands out.
    return max(near, key=lambda peak: peak.prominence * (1 - abs(peak.wavelength - place) / (2 * reach)), default=None)
