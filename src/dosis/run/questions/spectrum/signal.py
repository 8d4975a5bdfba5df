"""Step: what the scans are of — as read, or absorbance and transmittance of each other — and the unit of their axis."""

from typing import ClassVar, Literal

import numpy as np

from dosis.core.rounding import given
from dosis.run.layout import Quantity
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.spectrum.bench import SpectrumBench
from dosis.run.steps.step import Step

NM_PER_CM = 1e7
WHOLE = 1.5  # greatest value up to which a transmittance is a share, beyond which it is in percent
_UNITS = {"nm": "nm", "1/cm": "1/cm"}


class ScanSignalStep(Step):
    """convert : "absorbance" of transmittance, −log10(T); "transmittance", in percent, of absorbance. axis : in which
    unit the scans are drawn and read off.
    """

    title = "Signal"
    names: ClassVar = {"convert": "taken", "axis": "axis in"}
    kind: Literal["scan_signal"] = "scan_signal"
    convert: Literal["as read", "absorbance", "transmittance"] = "as read"
    axis: Literal["as read", "nm", "1/cm"] = "as read"

    def run(self, bench: SpectrumBench) -> StepOutcome:
        """Bring the scans to what is asked for."""
        trouble = self._along(bench)
        lost, how = 0, ""
        if self.convert != "as read":
            how, lost = self._converted(bench)
        bench.sort(mean=False)
        if not bench.scans:
            return self.told("There are no scans yet. Give readings the role scan.", State.FAIL)
        for scan in bench.scans:
            x, y = bench.part(scan)
            ends = f"{given(float(x[0]))} to {given(float(x[-1]))} {bench.axis.unit}".rstrip() if x.size else "nothing"
            least = f"; {bench.signal(float(y.min()))} to {bench.signal(float(y.max()))}" if y.size else ""
            bench.note(scan.group, self.kind, "Read", text=f"{scan.key}: {x.size:,} points, {ends}{least}")
        count = f"{len(bench.scans):,} scans" if len(bench.scans) > 1 else "One scan"
        span = f"{given(float(bench.x[0]))} to {given(float(bench.x[-1]))} {bench.axis.unit}".rstrip()
        said = f"**{count}** of {bench.x.size:,} points, {span}; y is {bench.quantity.label}.{how}"
        if bench.twice:
            trouble += f" {bench.twice:,} times a place stands there again; the mean of what was read there is taken."
        if bench.bridged:
            said += f" {bench.bridged:,} gaps and left-out points are bridged by straight lines."
        if lost:
            trouble += f" {lost:,} points at zero or below have no absorbance, and are gaps."
        return self.told(f"{said}{trouble}", State.LOOK if trouble else State.PASS, trouble.strip())

    def _converted(self, bench: SpectrumBench) -> tuple[str, int]:
        had = np.isfinite(bench.y)
        if self.convert == "transmittance":
            with np.errstate(over="ignore"):
                bench.y = 100 * 10.0 ** (-bench.y)
            bench.y[~np.isfinite(bench.y)] = np.nan
            bench.with_quantity(Quantity(name="Transmittance", unit="%"))
            bench.note_all(self.kind, "Transmittance", "100 · 10^(−A), in percent")
            return " Transmittance of absorbance.", 0
        share = bench.layout.signal.unit != "%" and float(np.max(bench.y, where=had, initial=0.0)) <= WHOLE
        of = 1.0 if share else 100.0
        with np.errstate(all="ignore"):
            bench.y = np.where(bench.y > 0, -np.log10(np.where(bench.y > 0, bench.y, 1.0) / of), np.nan)
        bench.with_quantity(Quantity(name="Absorbance", unit="AU"))
        lost = int((had & ~np.isfinite(bench.y)).sum())
        bench.bridge()
        how = "−log10(T)" if share else "−log10(T / 100)"
        bench.note_all(self.kind, "Absorbance", f"{how}, T as read")
        return f" Absorbance is {how} of what was read.", lost

    def _along(self, bench: SpectrumBench) -> str:
        if self.axis in ("as read", bench.axis.unit):
            return ""
        if bench.axis.unit not in _UNITS:
            return f" The axis is in {bench.axis.unit or 'no unit'}, which cannot be brought to {self.axis}."
        if not (bench.x > 0).all():
            return " An axis that is not above zero cannot be turned over."
        bench.x = (NM_PER_CM / bench.x)[::-1]
        bench.y = np.ascontiguousarray(bench.y[:, ::-1])
        bench.axis = Quantity(name="Wavenumber" if self.axis == "1/cm" else "Wavelength", unit=self.axis)
        bench.note_all(self.kind, "Axis", f"10⁷ / {'λ in nm' if self.axis == '1/cm' else 'ν̃ in 1/cm'}")
        return ""
