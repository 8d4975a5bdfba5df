"""Step: the checks of recordings."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.rounding import given, significant
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import Remark, State
from dosis.run.questions.recording.bench import RecordingBench
from dosis.run.steps.replicates import percent
from dosis.run.steps.step import Step
from dosis.run.steps.summary import listed, sum_up


class RecordingChecksStep(Step):
    """Thresholds.

    steady : by how much the signal may rise or fall over a known stretch, as a share of the span of the known ones.
    least : samples of a known stretch. beyond : how far values may go beyond the known ones, as a share of their span.
    proof : how far a known stretch may read back from its value, the same.
    """

    title = "Checks"
    names: ClassVar = {"steady": "known stretches steady within"}
    kind: Literal["recording_checks"] = "recording_checks"
    steady: Annotated[float, Field(gt=0, le=1)] = 0.02
    least: Annotated[int, Field(ge=1, le=1_000_000)] = 20
    beyond: Annotated[float, Field(ge=0, le=10)] = 0.1
    proof: Annotated[float, Field(gt=0, le=1)] = 0.02

    def run(self, bench: RecordingBench) -> StepOutcome:
        """Make every check that this run allows."""
        made = (self._steady(bench), self._long(bench), self._beyond(bench), self._proof(bench))
        return sum_up(bench, self.kind, made)

    def _steady(self, bench: RecordingBench) -> Check | None:
        off, worst, groups = [], 0.0, []
        for channel in bench.channels:
            made = bench.calibrated.get(channel.index)
            if made is None or len(made.points) < 2:
                continue
            means = [stands.mean for _, stands, _ in made.points]
            span = float(np.ptp(means))
            for stretch, stands, _ in (*made.points, *made.after):
                if stands.slope is None or span == 0:
                    continue
                share = abs(stands.slope) * (stretch.stop - stretch.start) / span
                clear = stands.slope_error is not None and abs(stands.slope) > 2 * stands.slope_error
                worst = max(worst, share)
                if share > self.steady and clear:
                    off.append(f"{channel.key} in {stretch.name}")
                    groups.append(channel.group.id)
        if not any(len(made.points) > 1 for made in bench.calibrated.values()):
            return None
        return Check(
            id="steady", title="Are known stretches steady?", state=State.LOOK if off else State.PASS,
            found=f"{listed(off)}: moves by up to {percent(worst)}" if off else f"Within {percent(worst)}",
            threshold=f"≤ {percent(self.steady)} of the span of the known signals",
            why="A stretch that still moves had not settled when it was taken for its known value.",
            groups=tuple(dict.fromkeys(groups)),
            verdict="" if not off else f"Not steady: {listed(off)}; take a later part of it.",
        )  # fmt: skip

    def _long(self, bench: RecordingBench) -> Check | None:
        known = [(channel, stretch, stands) for channel in bench.channels
                 if (made := bench.calibrated.get(channel.index)) is not None
                 for stretch, stands, _ in (*made.points, *made.after)]  # fmt: skip
        if not known:
            return None
        off = [f"{channel.key} in {stretch.name}" for channel, stretch, stands in known if stands.n < self.least]
        return Check(
            id="long", title="Are known stretches long enough?", state=State.LOOK if off else State.PASS,
            found=f"{listed(off)}: too short" if off else f"At least {min(s.n for _, _, s in known):,} samples",
            threshold=f"{self.least:,} samples or more", why="Of few samples neither noise nor drift can be told.",
            verdict="" if not off else f"Short known stretches: {listed(off)}.",
        )  # fmt: skip

    def _beyond(self, bench: RecordingBench) -> Check | None:
        off, groups = [], []
        told = False
        for found in bench.measured:
            made = bench.calibrated.get(found.channel.index)
            if made is None or not made.ready or len(made.points) < 2:
                continue
            told = True
            known = [value for _, _, value in (*made.points, *made.after)]
            room = self.beyond * (max(known) - min(known))
            if not min(known) - room <= found.value.mean <= max(known) + room:
                off.append(f"{found.channel.key} in {found.stretch.name}")
                groups.append(found.channel.group.id)
                bench.remark(found.channel.group, Remark(
                    state=State.LOOK, short="beyond",
                    text=f"{found.stretch.name} lies beyond the known {given(min(known))} to {given(max(known))}.",
                ))  # fmt: skip
        if not told:
            return None
        return Check(
            id="beyond", title="Do values lie among the known ones?", state=State.LOOK if off else State.PASS,
            found=f"{listed(off)}: beyond" if off else "All stretches",
            threshold=f"up to {percent(self.beyond)} of their span beyond them",
            why="Beyond its known values a calibration is a guess that the line goes on.",
            groups=tuple(dict.fromkeys(groups)),
            verdict="" if not off else f"Beyond the known values: {listed(off)}.",
        )  # fmt: skip

    def _proof(self, bench: RecordingBench) -> Check | None:
        off, worst = [], 0.0
        told = False
        for channel in bench.channels:
            made = bench.calibrated.get(channel.index)
            if made is None or made.curve is None or len(made.points) < made.order + 2:
                continue
            told = True
            known = [value for _, _, value in made.points]
            span = max(known) - min(known)
            for (stretch, _, _), miss in zip(made.points, made.curve.proof.tolist(), strict=True):
                share = abs(miss) / span if span else 0.0
                worst = max(worst, share)
                if share > self.proof:
                    off.append(f"{channel.key} in {stretch.name}")
        if not told:
            return None
        return Check(
            id="proof", title="Do known stretches read back as they are?", state=State.LOOK if off else State.PASS,
            found=f"{listed(off)}: off by up to {percent(worst)}" if off else f"Within {percent(worst)}",
            threshold=f"≤ {percent(self.proof)} of the span of the known values",
            why="Where more stretches are known than the curve needs, they show whether it is the right one.",
            verdict="" if not off else f"Reads back wrong: {listed(off)}; "
            f"by {significant(100 * worst, 2)} % of the span.",
        )  # fmt: skip
