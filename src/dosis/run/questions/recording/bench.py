"""The bench of recordings: channels along one time, stretches of it, and what each channel is calibrated by."""

from dataclasses import dataclass, field

import numpy as np

from dosis.core.arrays import Array, Rows
from dosis.core.traces import Calibration, Steady, apply_drifting
from dosis.run.bench import Bench
from dosis.run.layout import Group, Quantity
from dosis.run.outcome.value import Value
from dosis.run.record import Record
from dosis.run.recording import Recording
from dosis.run.roles import Role

Places = slice | Rows
ALL = slice(None)


class Stretch(Record):
    """A named stretch of the recording, from `start` up to, not including, `stop`, in its unit of time."""

    name: str
    start: float
    stop: float


@dataclass(frozen=True)
class Channel:
    """One channel: its reading, its group, its name, what was recorded, and its row among the numbers."""

    id: int
    group: Group
    key: str
    raw: Quantity
    row: int
    index: int


@dataclass
class Calibrated:
    """How a channel is calibrated: the curve before and, where there is drift, after; its points; what it comes to.

    points, after : of each known stretch its name, how it stands, and its known value. ready : whether the channel is
    shown in calibrated units.
    """

    quantity: Quantity
    decimals: int
    points: list[tuple[Stretch, Steady, float]] = field(default_factory=list)
    after: list[tuple[Stretch, Steady, float]] = field(default_factory=list)
    curve: Calibration | None = None
    later: Calibration | None = None
    order: int = 1
    sensitivity: float | None = None
    problem: str = ""

    @property
    def ready(self) -> bool:
        """Whether there is a calibration."""
        return self.curve is not None

    def apply(self, signal: Array, time: Array) -> Array:
        """Calibrated values of a signal at those times; where there is drift, steadily from the first to the other.

        It begins where the last known stretch of the first ends, and is through where the first of the other begins.
        """
        assert self.curve is not None
        if self.later is not None:
            start = max(each.stop for each, _, _ in self.points)
            stop = min(each.start for each, _, _ in self.after)
            if stop > start:
                return apply_drifting(self.curve, self.later, time, signal, start, stop)
        return self.curve.apply(signal)


@dataclass(frozen=True)
class Measured:
    """A stretch of a channel, in calibrated units where there are some: how it stands, and the error of its mean."""

    stretch: Stretch
    channel: Channel
    raw: Steady
    value: Steady
    error: float | None
    df: int


@dataclass
class RecordingBench(Bench):
    """recording : the numbers, which may be very many; a stretch of them is taken by `recorded` and `value`."""

    recording: Recording = field(init=False)
    time: Quantity = field(init=False)
    channels: list[Channel] = field(default_factory=list)
    stretches: list[Stretch] = field(default_factory=list)
    calibrated: dict[int, Calibrated] = field(default_factory=dict)
    measured: list[Measured] = field(default_factory=list)
    events: dict[int, Array] = field(default_factory=dict)
    event_words: str = ""

    def __post_init__(self) -> None:
        super().__post_init__()
        self.recording = self.readings.curves
        axis = self.readings.axis
        self.time = axis.quantity if axis else Quantity(name="Time", unit="s")
        rows = {id: row for row, id in enumerate(self.readings.by_id)}
        of = axis.of if axis else ()
        self.channels = []
        for group in self.groups(Role.POINT):
            for id in self.used(group):
                raw = of[rows[id]] if rows[id] < len(of) else self.layout.signal
                self.channels.append(Channel(id, group, group.name, raw, rows[id], len(self.channels)))

    @property
    def x(self) -> Array:
        """The times, (n,)."""
        return self.recording.x

    def recorded(self, channel: Channel, at: Places = ALL) -> Array:
        """What was recorded in a channel, there."""
        found: Array = self.recording.y[channel.row, at]
        return found

    def value(self, channel: Channel, at: Places = ALL) -> Array:
        """The same in calibrated units, where there are some."""
        made = self.calibrated.get(channel.index)
        signal = self.recorded(channel, at)
        return signal if made is None or not made.ready else made.apply(signal, self.x[at])

    def inside(self, stretch: Stretch) -> slice:
        """Which samples lie in a stretch."""
        first, last = np.searchsorted(self.x, [stretch.start, stretch.stop])
        return slice(int(first), int(last))

    def quantity(self, channel: Channel) -> Quantity:
        """What a channel shows now."""
        found = self.calibrated.get(channel.index)
        return found.quantity if found is not None and found.ready else channel.raw

    def decimals_of(self, channel: Channel) -> int:
        """Decimals of a channel's values as shown."""
        found = self.calibrated.get(channel.index)
        if found is not None and found.ready:
            return found.decimals
        steps = np.diff(self.recorded(channel, slice(2000)))
        steps = steps[np.isfinite(steps)]
        spread = float(np.std(steps)) if steps.size else 0.0
        return int(np.clip(1 - np.floor(np.log10(spread)), 0, 6)) if spread > 0 else 3

    def named(self, name: str) -> Stretch | None:
        """The stretch of that name."""
        return next((stretch for stretch in self.stretches if stretch.name == name), None)

    def text_of(self, id: int) -> str:
        """A channel's last value, as it is shown."""
        value = self.values.get(id)
        return "—" if value is None else Value.of(value, None, None).shown
