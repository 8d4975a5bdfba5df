"""Step: what each stretch of each channel comes to."""

import math
from typing import Literal

import numpy as np

from dosis.core.distributions import t_quantile
from dosis.core.rounding import fixed, given, significant
from dosis.core.traces import calibration_error, steady
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State, Value
from dosis.run.questions.recording.bench import Calibrated, Channel, Measured, RecordingBench, Stretch
from dosis.run.questions.recording.calibrate import shown
from dosis.run.steps.step import Step

LEVEL = 0.95
NOTHING = (None, None)


class MeasureStep(Step):
    """mean, SD, slope, least and greatest of every stretch, in the units of its channel."""

    title = "Measure"
    kind: Literal["measure"] = "measure"

    def run(self, bench: RecordingBench) -> StepOutcome:
        """Look at every stretch of every channel."""
        for stretch in bench.stretches:
            part = bench.inside(stretch)
            for channel in bench.channels:
                try:
                    found = _measured(bench, stretch, channel, part)
                except ValueError:
                    continue
                bench.measured.append(found)
                _note(bench, found)
        if not bench.stretches:
            return self.told("No stretch is set. Drag over the traces, or go from mark to mark.", State.PASS)
        first = bench.measured[0] if bench.measured else None
        if first is None:
            return self.told("No stretch has a sample.", State.LOOK)
        unit = bench.quantity(first.channel).unit
        mean = shown(bench, first.channel, first.value.mean)
        said = f"{first.channel.key} in {first.stretch.name}: **{mean} {unit}".rstrip() + "**"
        return self.told(f"{len(bench.measured)} means with their spread; {said}.", State.PASS)


def _measured(bench: RecordingBench, stretch: Stretch, channel: Channel, part: slice) -> Measured:
    raw = steady(bench.x[part], bench.recorded(channel, part))
    value = steady(bench.x[part], bench.value(channel, part))
    made = bench.calibrated.get(channel.index)
    own = value.error
    if own is None or made is None or not made.ready:
        return Measured(stretch, channel, raw, value, own, value.df)
    if not made.points:
        return Measured(stretch, channel, raw, value, own, value.df)
    share = _of_calibration(made, raw.mean)
    total = math.hypot(own, share)
    # Welch and Satterthwaite: the fewer degrees of freedom the known stretches have, the fewer the sum has.
    known = min(stands.df for _, stands, _ in made.points)
    parts = own**4 / max(value.df, 1) + share**4 / max(known, 1)
    df = max(1, int(total**4 / parts)) if parts > 0 else value.df
    return Measured(stretch, channel, raw, value, total, df)


def _of_calibration(made: Calibrated, signal: float) -> float:
    """Standard error that the known stretches give a calibrated value."""
    errors = [stands.error or 0.0 for _, stands, _ in made.points]
    if len(made.points) == 1:
        return errors[0] / abs(made.sensitivity) if made.sensitivity else 0.0
    means, known = [s.mean for _, s, _ in made.points], [value for _, _, value in made.points]
    return float(calibration_error(means, errors, known, made.order, np.array([signal]))[0])  # type: ignore[arg-type]


def interval(found: Measured) -> tuple[float | None, float | None]:
    """Of the mean of a stretch."""
    if found.error is None or found.df < 1:
        return NOTHING
    half = t_quantile((1 + LEVEL) / 2, found.df) * found.error
    return found.value.mean - half, found.value.mean + half


def value_of(bench: RecordingBench, found: Measured) -> Value:
    """The mean as it is shown, with its interval to the same place."""
    decimals = bench.decimals_of(found.channel)
    low, high = interval(found)
    if low is None or high is None:
        return Value(found.value.mean, None, None, "", fixed(found.value.mean, decimals))
    more = max(decimals, min(decimals + 2, _place(high - low)))
    return Value(found.value.mean, low, high, "", fixed(found.value.mean, more), fixed(low, more), fixed(high, more))


def _place(width: float) -> int:
    return int(1 - math.floor(math.log10(width / 2))) if width > 0 else 0


def _note(bench: RecordingBench, found: Measured) -> None:
    stretch, channel = found.stretch, found.channel
    unit = bench.quantity(channel).unit
    span = f"{given(stretch.start)} to {given(stretch.stop)} {bench.time.unit}".rstrip()
    raw = f"{significant(found.raw.mean, 6)} {channel.raw.unit}".rstrip()
    text = f"{found.value.n:,} samples from {span}; as recorded {raw}, SD {significant(found.raw.sd, 3)}"
    mean = value_of(bench, found)
    bench.note(
        channel.group, "measure", stretch.name, text=text, result=f"{mean.shown} {unit}".rstrip(), value=mean.value
    )
    if mean.lower is not None and found.error is not None:
        how = f"± t({found.df}) × {significant(found.error, 3)}, by the means of {found.value.df + 1} parts"
        if (made := bench.calibrated.get(channel.index)) is not None and made.ready:
            how += " and by what the known stretches leave open"
        bench.note(channel.group, "measure", f"{stretch.name}, interval", text=how,
                   result=f"{mean.shown_lower} to {mean.shown_upper} {unit}".rstrip())  # fmt: skip
