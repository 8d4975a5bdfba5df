"""The tables of recordings: a row for each stretch and channel, and the proof of each calibration."""

import numpy as np

from dosis.core.arrays import Array
from dosis.core.rounding import fixed, given, significant
from dosis.run.outcome.table import AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Value
from dosis.run.questions.recording.bench import Measured, RecordingBench
from dosis.run.questions.recording.measure import LEVEL, value_of
from dosis.run.roles import Role


def stretch_table(bench: RecordingBench) -> AnswerTable:
    """A row for each stretch of each channel."""
    found = bench.measured
    rows = tuple(
        AnswerRow(key=f"{each.channel.group.id}:{i}", name=_name(bench, each), group=each.channel.group.id,
                  role=Role.POINT, curve=each.channel.key)
        for i, each in enumerate(found)
    )  # fmt: skip
    if not found:
        return AnswerTable(of="Stretch", rows=(), columns=())
    means = [value_of(bench, each) for each in found]
    slopes = [_slope(each) for each in found]
    places = [bench.decimals_of(each.channel) for each in found]
    units = [bench.quantity(each.channel).unit for each in found]
    per = f"per {bench.time.unit}" if bench.time.unit else ""
    columns = [
        texts("channel", "Channel", [each.channel.key for each in found], where="exports"),
        numbers("start", "From", [e.stretch.start for e in found], [given(round(e.stretch.start, 6)) for e in found],
                unit=bench.time.unit, where="more"),
        numbers("stop", "To", [e.stretch.stop for e in found], [given(round(e.stretch.stop, 6)) for e in found],
                unit=bench.time.unit, where="more"),
        values("mean", "Mean", means, level=LEVEL, lead=True, interval="always"),
        numbers("sd", "SD", [e.value.sd for e in found], [significant(e.value.sd, 3) for e in found]),
        values("slope", f"Slope {per}".rstrip(), slopes, level=LEVEL, short="Slope"),
        texts("unit", "Unit", units),
        numbers("least", "Least", [e.value.least for e in found],
                [fixed(e.value.least, p) for e, p in zip(found, places, strict=True)], where="more"),
        numbers("greatest", "Greatest", [e.value.greatest for e in found],
                [fixed(e.value.greatest, p) for e, p in zip(found, places, strict=True)], where="more"),
        numbers("n", "Samples", [e.value.n for e in found], [f"{e.value.n:,}" for e in found], kind="count", short="n"),
    ]  # fmt: skip
    if bench.events:
        counts = [_events(bench, each) for each in found]
        shown = ["—" if count is None else str(count) for count in counts]
        columns.append(numbers("events", f"Events: {bench.event_words}", counts, shown, kind="count", short="Events"))
    return AnswerTable(of="Stretch", rows=rows, columns=tuple(columns))


def _name(bench: RecordingBench, found: Measured) -> str:
    return f"{found.stretch.name}, {found.channel.key}" if len(bench.channels) > 1 else found.stretch.name


def _slope(found: Measured) -> Value:
    stands = found.value
    if stands.slope is None or stands.slope_error is None:
        return Value()
    return Value.of(stands.slope, stands.slope - 2 * stands.slope_error, stands.slope + 2 * stands.slope_error)


def _events(bench: RecordingBench, found: Measured) -> int | None:
    times = bench.events.get(found.channel.index)
    if times is None:
        return None
    return int(((times >= found.stretch.start) & (times < found.stretch.stop)).sum())


def proof_table(bench: RecordingBench) -> tuple[AnswerTable, ...]:
    """Each known stretch read back beside its known value."""
    rows: list[AnswerRow] = []
    known: list[float] = []
    back: list[tuple[float, int]] = []
    off: list[float] = []
    names: list[str] = []
    units: list[str] = []
    for channel in bench.channels:
        made = bench.calibrated.get(channel.index)
        if made is None or made.curve is None:
            continue
        for when, points in (("", made.points), (", at the end", made.after)):
            for stretch, stands, value in points:
                middle = (stretch.start + stretch.stop) / 2
                read = float(made.apply(_one(stands.mean), _one(middle))[0])
                rows.append(AnswerRow(key=f"proof:{len(rows)}", name=f"{stretch.name}{when}", group=channel.group.id,
                                      role=Role.POINT, curve=channel.key))  # fmt: skip
                names.append(channel.key)
                units.append(made.quantity.unit)
                known.append(value)
                back.append((read, made.decimals))
                off.append(read - value)
    if not rows:
        return ()
    columns = (
        texts("channel", "Channel", names),
        numbers("known", "Known", known, [given(value) for value in known]),
        numbers("read_back", "Read back", [value for value, _ in back], [fixed(v, places) for v, places in back]),
        numbers("off", "Off by", off, [fixed(miss, places + 1) for miss, (_, places) in zip(off, back, strict=True)]),
        texts("unit", "Unit", units),
    )  # fmt: skip
    return (AnswerTable(of="Stretch", title="Proof of the calibration", rows=tuple(rows), columns=columns),)


def _one(value: float) -> Array:
    return np.array([value])
