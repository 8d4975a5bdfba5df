"""Step: what the signal of each channel means, by stretches whose true value is known."""

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from dosis.core.arrays import Array
from dosis.core.rounding import fixed, given, significant
from dosis.core.traces import Calibration, Steady, calibrate_at, calibrate_through, steady
from dosis.run.kept_calibration import KeptChannel, KeptCurve
from dosis.run.layout import Level, Name, Quantity, Unit
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.recording.bench import Calibrated, Channel, RecordingBench, Stretch
from dosis.run.record import Record
from dosis.run.steps.step import Step

BEYOND = 0.1  # share of the signals it was made from that a kept calibration may be used beyond them
Points = list[tuple[Stretch, Steady, float]]


class KnownStretch(Record):
    """A stretch, by its name, and the true value there."""

    stretch: Name
    value: Level


class ChannelCalibration(Record):
    """known : stretches of known value; after : the same again at the end, for drift. order : of the curve through
    them, a line, a parabola or a cubic. sensitivity : signal per unit of value, where one known stretch is enough.
    name, unit : of the value. decimals : as shown; None leaves them to what the noise allows. kept : a curve that was
    kept from another run, which counts where no stretch is known.
    """

    known: Annotated[tuple[KnownStretch, ...], Field(max_length=40)] = ()
    after: Annotated[tuple[KnownStretch, ...], Field(max_length=40)] = ()
    order: Literal[1, 2, 3] = 1
    sensitivity: Level | None = None
    name: Name = ""
    unit: Unit = ""
    decimals: Annotated[int, Field(ge=0, le=9)] | None = None
    kept: KeptCurve | None = None


class CalibrateStep(Step):
    """channels : what each is calibrated by, by its name. applied : whether traces, answers and exports are in
    calibrated units; the recording as it was is one switch away.
    """

    title = "Calibrate"
    kind: Literal["calibrate"] = "calibrate"
    channels: Annotated[dict[Name, ChannelCalibration], Field(max_length=64)] = Field(default_factory=dict)
    applied: bool = True
    names: ClassVar = {"applied": "in calibrated units"}

    def words(self, before: Step | None, unit: str) -> str:
        """What was changed, a channel at a time."""
        old = before if isinstance(before, CalibrateStep) else CalibrateStep()
        said = [_words(name, own) for name, own in self.channels.items() if old.channels.get(name) != own]
        said += [f"{name} no more" for name in old.channels if name not in self.channels]
        if self.applied != old.applied:
            said.append("in calibrated units" if self.applied else "as recorded")
        return f"Calibrate: {'; '.join(said) or 'as before'}"

    def run(self, bench: RecordingBench) -> StepOutcome:
        """Calibrate every channel that says by what."""
        said, troubles = [], []
        for channel in bench.channels:
            chosen = self.channels.get(channel.key)
            if chosen is None or not (chosen.known or chosen.kept):
                continue
            made = _calibrated(bench, channel, chosen)
            bench.calibrated[channel.index] = made
            if made.problem:
                troubles.append(f"{channel.key}: {made.problem}")
                continue
            said.append(_told(channel, made))
            if not made.points and chosen.kept and (wrong := misfit(channel, bench.recorded(channel), chosen.kept)):
                troubles.append(f"{channel.key}: the kept calibration may not fit, for {wrong}.")
            _note(bench, channel, made)
        if not self.applied:
            said.append("Shown as recorded.")
            for made in bench.calibrated.values():
                made.curve, made.later = None, None
        for channel in bench.channels:
            if (at := _last(bench.recorded(channel))) is not None:
                bench.values[channel.id] = float(bench.value(channel, slice(at, at + 1))[0])
        if not said and not troubles:
            return self.told("No channel is calibrated; give two stretches their known values.", State.PASS)
        text = " ".join([*said, *troubles])
        return self.told(text, State.LOOK if troubles else State.PASS, " ".join(troubles))


def _words(name: str, own: ChannelCalibration) -> str:
    if not own.known and own.kept:
        return f"{name} in {own.unit or 'no unit'} by the calibration of {own.kept.of}"
    known = [f"{each.stretch} is {given(each.value)}" for each in own.known]
    after = [f"{each.stretch} is {given(each.value)}" for each in own.after]
    by = f"{', '.join(known) or 'nothing'}" + (f"; at the end {', '.join(after)}" if after else "")
    return f"{name} in {own.unit or 'no unit'} by {by}"


def _last(values: Array) -> int | None:
    """Where the last that is a number stands; from the end, so that of millions only a few are looked at."""
    for stop in range(values.size, 0, -1000):
        there = np.flatnonzero(np.isfinite(values[max(stop - 1000, 0) : stop]))
        if there.size:
            return max(stop - 1000, 0) + int(there[-1])
    return None


def _calibrated(bench: RecordingBench, channel: Channel, chosen: ChannelCalibration) -> Calibrated:
    name = chosen.name or channel.key
    made = Calibrated(Quantity(name=name, unit=chosen.unit), 3, order=chosen.order, sensitivity=chosen.sensitivity)
    for known, points in ((chosen.known, made.points), (chosen.after, made.after)):
        for each in known:
            stretch = bench.named(each.stretch)
            if stretch is None:
                made.problem = f"there is no stretch “{each.stretch}” any more; choose another."
                return made
            part = bench.inside(stretch)
            try:
                points.append((stretch, steady(bench.x[part], bench.recorded(channel, part)), each.value))
            except ValueError as error:
                made.problem = f"“{each.stretch}”: {error}"
                return made
    try:
        made.curve = _curve(made.points, chosen) if made.points else _of_kept(chosen)
        made.later = _curve(made.after, chosen) if made.after else None
    except ValueError as error:
        made.curve, made.problem = None, str(error)
        return made
    made.decimals = _decimals(made) if chosen.decimals is None else chosen.decimals
    return made


def _curve(points: Points, chosen: ChannelCalibration) -> Calibration:
    means, known = [stands.mean for _, stands, _ in points], [value for _, _, value in points]
    if len(points) == 1:
        if not chosen.sensitivity:
            raise ValueError("One known stretch calibrates only with a sensitivity: type it, or add another stretch.")
        return calibrate_at(means[0], known[0], chosen.sensitivity)
    return calibrate_through(means, known, chosen.order)


def _of_kept(chosen: ChannelCalibration) -> Calibration:
    assert chosen.kept is not None
    return Calibration(np.array(chosen.kept.coefficients), np.empty(0), np.empty(0))


def misfit(channel: Channel, signal: Array, kept: KeptCurve) -> str:
    """What does not fit where a kept calibration is applied to a channel; empty where all does."""
    said = []
    if kept.signal and channel.raw.unit and kept.signal != channel.raw.unit:
        said.append(f"it was made for {kept.signal}, and this channel is in {channel.raw.unit}")
    known = signal[np.isfinite(signal)]
    room = BEYOND * (kept.high - kept.low)
    if known.size and (float(known.min()) < kept.low - room or float(known.max()) > kept.high + room):
        ends = f"{significant(float(known.min()), 4)} to {significant(float(known.max()), 4)}"
        made = f"{significant(kept.low, 4)} to {significant(kept.high, 4)} {kept.signal}".rstrip()
        said.append(f"signals here go from {ends}, and it was made from {made}")
    return "; ".join(said)


def kept_channels(bench: RecordingBench) -> tuple[KeptChannel, ...]:
    """The curves of a run's channels, to be kept."""
    found = []
    for channel in bench.channels:
        made = bench.calibrated.get(channel.index)
        if made is None or made.curve is None or not made.points:
            continue
        means = [stands.mean for _, stands, _ in made.points]
        low, high = (min(means), max(means)) if len(means) > 1 else _ends(bench.recorded(channel))
        curve = KeptCurve(
            coefficients=tuple(made.curve.coefficients.tolist()), low=low, high=high, signal=channel.raw.unit
        )
        found.append(KeptChannel(channel=channel.key, name=made.quantity.name, unit=made.quantity.unit,
                                 decimals=made.decimals, curve=curve))  # fmt: skip
    return tuple(found)


def _ends(signal: Array) -> tuple[float, float]:
    return float(np.nanmin(signal)), float(np.nanmax(signal))


def _decimals(made: Calibrated) -> int:
    """So many that the noise of a known stretch shows in the last."""
    assert made.curve is not None
    if not made.points:
        return 3
    noise = max((abs(_slope(made.curve, stands.mean)) * stands.sd for _, stands, _ in made.points), default=0.0)
    return int(np.clip(-np.floor(np.log10(noise)), 0, 6)) if noise > 0 else 3


def _slope(curve: Calibration, at: float) -> float:
    return float(np.polynomial.polynomial.polyval(at, np.polynomial.polynomial.polyder(curve.coefficients)))


def _told(channel: Channel, made: Calibrated) -> str:
    unit = f" {made.quantity.unit}".rstrip()
    count = len(made.points)
    by = {0: "a kept calibration", 1: "one stretch and a sensitivity"}.get(count, f"{count} stretches")
    drift = ""
    if made.later is not None and made.curve is not None:
        at = np.array([stands.mean for _, stands, _ in made.points])
        moved = made.later.apply(at) - made.curve.apply(at)
        drift = (
            f", drifting by up to {significant(float(np.abs(moved).max()), 2)}{unit} to the end, shared out over time"
        )
    of = "" if made.quantity.name == channel.key else f" is {made.quantity.name}"
    return f"**{channel.key}**{of} in {made.quantity.unit or 'no unit'}, by {by}{drift}."


def _note(bench: RecordingBench, channel: Channel, made: Calibrated) -> None:
    assert made.curve is not None
    for stretch, stands, value in (*made.points, *made.after):
        text = f"{given(stretch.start)} to {given(stretch.stop)} {bench.time.unit}, {stands.n:,} samples"
        result = f"{significant(stands.mean, 6)} {channel.raw.unit} is {given(value)} {made.quantity.unit}"
        bench.note(channel.group, "calibrate", f"Known: {stretch.name}", text=text, result=result)
    bench.note(channel.group, "calibrate", "Calibration", text=equation(made.curve),
               result=made.quantity.label)  # fmt: skip
    if made.later is not None:
        bench.note(channel.group, "calibrate", "Calibration at the end", text=equation(made.later))


def equation(curve: Calibration) -> str:
    """The calibration with its numbers: value = c₀ + c₁ · signal …"""
    powers = ("", " · s", " · s²", " · s³")
    parts = [f"{significant(float(c), 6)}{powers[k]}" for k, c in enumerate(curve.coefficients)]
    return "value = " + " + ".join(parts).replace("+ −", "− ")


def shown(bench: RecordingBench, channel: Channel, value: float) -> str:
    """A value of a channel as it is shown."""
    return fixed(value, bench.decimals_of(channel))
