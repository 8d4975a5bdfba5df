"""The verdict of spectra: where scans are highest, and how they change."""

from dosis.run.outcome.value import State
from dosis.run.outcome.verdict import Verdict, VerdictPart
from dosis.run.questions.spectrum.bench import SpectrumBench
from dosis.run.verdict import found_by, of_steps, said_by, stuck_at, verdict


def conclude(bench: SpectrumBench) -> Verdict:
    """Sum up; a rate of change leads where there is one, else what a mixture holds."""
    tops = [each.wavelength for each in bench.highest if each is not None]
    unit = f" {bench.axis.unit}".rstrip()
    if not bench.scans:
        headline = "No scans yet."
    elif not tops:
        headline = "No scan has a point in the window."
    else:
        low, high = bench.shown_place(min(tops)), bench.shown_place(max(tops))
        where = f"Highest at {low}{unit}" if low == high else f"Highest from {low} to {high}{unit}"
        headline = f"{where}{_more(bench)}."
    steps = bench.steps
    detail = of_steps(steps) + ([] if tops else stuck_at(steps)) + said_by(bench.checks) or found_by(bench.checks)
    if not bench.scans:
        detail = [VerdictPart(text="Say which readings are scans.")]
    failed = not tops or any(step.state is State.FAIL for step in steps)
    return verdict(headline, detail, bench.checks, failed=failed, look=bool(of_steps(steps)))


def _more(bench: SpectrumBench) -> str:
    made = [change for change in bench.changes if change.fit is not None]
    if made:
        half, unit = made[0].values["half_life"], bench.layout.level.unit
        ends = f" ({half.shown_lower} to {half.shown_upper})" if half.lower is not None else ""
        of = f" of {made[0].key}" if made[0].key else ""
        more = f", {len(made) - 1} more series below" if len(made) > 1 else ""
        return f"; half-life{of} {half.shown} {unit}".rstrip() + ends + more
    if bench.mixtures:
        return f"; {len(bench.mixtures)} scans taken apart into {', '.join(scan.key for scan in bench.references)}"
    return f" in {len(bench.scans):,} scans" if len(bench.scans) > 1 else ""
