"""What only the outcome of recordings has: its channels, stretches, marks and events, as they are drawn."""

from typing import Literal

from dosis.run.outcome.findings import Part
from dosis.run.record import light


@light
class TraceChannel:
    """A channel as it is drawn. raw_label : of its axis as recorded; label : in calibrated units, where it has some.

    c : coefficients of its calibration, the constant first, so that the axis as recorded stands beside;
    empty without one, and where it drifts.
    """

    key: str
    reading: int
    group: str
    label: str
    raw_label: str
    unit: str
    decimals: int
    calibrated: bool
    equation: str = ""
    c: tuple[float, ...] = ()
    events: tuple[float, ...] = ()


@light
class TraceStretch:
    """A stretch; `set` is whether a person set it, or a mark makes it."""

    name: str
    start: float
    stop: float
    set: bool


@light
class TraceMark:
    """A mark."""

    x: float
    text: str


class RecordingPart(Part):
    """x_label, first, last, count : of the time axis."""

    kind: Literal["recording"] = "recording"
    x_label: str = ""
    first: float = 0.0
    last: float = 1.0
    count: int = 0
    channels: tuple[TraceChannel, ...] = ()
    stretches: tuple[TraceStretch, ...] = ()
    marks: tuple[TraceMark, ...] = ()
    applied: bool = True
