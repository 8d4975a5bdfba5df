"""What is drawn of recordings: a trace for each channel, with its stretches, marks and events."""

import numpy as np

from dosis.run.curves.thinning import outline, seen
from dosis.run.outcome.courses import CourseLine, CoursesWanted
from dosis.run.outcome.drawn import Curve, Line
from dosis.run.questions.recording.bench import ALL, Channel, RecordingBench
from dosis.run.questions.recording.calibrate import equation
from dosis.run.questions.recording.part import RecordingPart, TraceChannel, TraceMark, TraceStretch
from dosis.run.questions.recording.stretches import StretchesStep

DRAWN = 1_000  # points of a trace in a figure
MOST_EVENTS = 2_000  # of a channel that are marked
NOTHING = Line((), (), (), ())


def draw_traces(bench: RecordingBench) -> tuple[Curve, ...]:
    """A line for each channel; a run without channels has an empty one."""
    made = tuple(_trace(bench, channel) for channel in bench.channels)
    return made or (_curve(bench, None, NOTHING, "There are no channels yet."),)


def _trace(bench: RecordingBench, channel: Channel) -> Curve:
    at = outline(bench.recording, channel.row, ALL, DRAWN)
    line = Line(tuple(bench.x[at].tolist()), tuple(bench.value(channel, at).tolist()), (), ())
    return _curve(bench, channel, line, "")


def _curve(bench: RecordingBench, channel: Channel | None, line: Line, problem: str) -> Curve:
    return Curve(
        key=channel.key if channel else "", tag=f"t{channel.index}." if channel else "",
        reading=channel.id if channel else None, model="", name="Trace", equation="", with_numbers="",
        x_label=bench.time.label, y_label=bench.quantity(channel).label if channel else bench.layout.signal.label,
        parameters=(), candidates=(), statistics=(), points=(), samples=(), line=line, range=None, shown_range="",
        levels=(), thinned=bench.x.size > DRAWN, problem=problem,
    )  # fmt: skip


def part_of(bench: RecordingBench, step: StretchesStep, *, applied: bool) -> RecordingPart:
    """The channels, stretches and marks as they are drawn."""
    own = {each.name for each in step.stretches}
    axis = bench.readings.axis
    return RecordingPart(
        x_label=bench.time.label, first=float(bench.x[0]), last=float(bench.x[-1]), count=bench.x.size,
        channels=tuple(_channel(bench, channel) for channel in bench.channels),
        stretches=tuple(TraceStretch(each.name, each.start, each.stop, each.name in own) for each in bench.stretches),
        marks=tuple(TraceMark(mark.x, mark.text) for mark in (axis.marks if axis else ())), applied=applied,
    )  # fmt: skip


def _channel(bench: RecordingBench, channel: Channel) -> TraceChannel:
    made = bench.calibrated.get(channel.index)
    ready = made is not None and made.curve is not None
    quantity = bench.quantity(channel)
    return TraceChannel(
        channel.key, channel.id, channel.group.id, quantity.label, channel.raw.label, quantity.unit,
        bench.decimals_of(channel), ready, equation(made.curve) if made and made.curve else "",
        tuple(made.curve.coefficients.tolist()) if made and made.curve and made.later is None else (),
        tuple(bench.events.get(channel.index, np.empty(0))[:MOST_EVENTS].tolist()),
    )  # fmt: skip


def lines_of(bench: RecordingBench, wanted: CoursesWanted) -> tuple[CourseLine, ...]:
    """The wanted traces as lines, in calibrated units, or as recorded where the stage is "raw"."""
    within = seen(bench.x, wanted)
    numbers = bench.recorded if wanted.stage == "raw" else bench.value
    found = []
    for channel in bench.channels:
        if wanted.key in ("", channel.key):
            at = outline(bench.recording, channel.row, within, wanted.points)
            x, y = bench.x[at], numbers(channel, at)
            found.append(CourseLine(channel.key, channel.id, tuple(x.tolist()), tuple(y.tolist())))
    return tuple(found)
