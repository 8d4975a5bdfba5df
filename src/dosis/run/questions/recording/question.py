"""What does this signal mean? Recordings of a logger, calibrated by stretches of known value."""

import math
from typing import ClassVar

import numpy as np

from dosis.core.rounding import fixed
from dosis.run.gathering import gathered
from dosis.run.kept_calibration import KeptChannel
from dosis.run.layout import Layout
from dosis.run.look import FigureLook
from dosis.run.outcome.courses import CourseLines, CoursesWanted
from dosis.run.outcome.findings import Findings
from dosis.run.questions.question import Question
from dosis.run.questions.recording.bench import RecordingBench
from dosis.run.questions.recording.calibrate import CalibrateStep, kept_channels
from dosis.run.questions.recording.checks import RecordingChecksStep
from dosis.run.questions.recording.drawing import draw_traces, lines_of, part_of
from dosis.run.questions.recording.events import EventsStep
from dosis.run.questions.recording.measure import MeasureStep
from dosis.run.questions.recording.part import RecordingPart
from dosis.run.questions.recording.stretches import StretchesStep
from dosis.run.questions.recording.table import proof_table, stretch_table
from dosis.run.questions.recording.verdict import conclude
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.step import Steps, one
from dosis.run.working import work

LINES = 100_000  # of the exported recording that are written at once


class Recording(Question):
    """Traces of channels."""

    id = "recording"
    sentence = "What does this signal mean?"
    by = "Recordings: stretches and calibration"
    note = "Every column beside the time is a channel."
    steps = (StretchesStep, CalibrateStep, MeasureStep, EventsStep, RecordingChecksStep)
    roles = (Role.POINT, Role.UNUSED)
    titles: ClassVar[dict[Role, str]] = {Role.POINT: "Channel"}
    levels = "levels"
    one_level = "a level"
    point = "channel"
    along = "record"
    unknowns = False
    column_words: ClassVar[dict[str, str]] = {"reading": "channel", "time": "time", "note": "mark"}
    part = RecordingPart
    look = FigureLook(panels=True)

    def bench(self, readings: Readings, layout: Layout) -> RecordingBench:
        """A bench for the whole run."""
        return RecordingBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All channels on one bench."""
        bench = work(RecordingBench(readings, layout), steps)
        return gathered(
            bench, layout, curves=draw_traces(bench), answers=stretch_table(bench), further=proof_table(bench),
            outliers=False, level_unit="", verdict=conclude(bench),
            part=part_of(bench, one(steps, StretchesStep), applied=one(steps, CalibrateStep).applied),
        )  # fmt: skip

    def look_at_courses(self, readings: Readings, layout: Layout, steps: Steps, wanted: CoursesWanted) -> CourseLines:
        """The traces between two times, as lines of at most so many points; "raw" as they were recorded."""
        bench = RecordingBench(readings, layout, working_of=frozenset())
        work(bench, steps, before="measure")
        return CourseLines(courses=lines_of(bench, wanted))

    def calibration(self, readings: Readings, layout: Layout, steps: Steps) -> tuple[KeptChannel, ...]:
        """What its channels are calibrated by, at the beginning where there is drift."""
        bench = RecordingBench(readings, layout, working_of=frozenset())
        work(bench, steps, before="measure")
        return kept_channels(bench)

    def written(self, readings: Readings, layout: Layout, steps: Steps, every: int, part: int) -> str:
        """A part of the recording as CSV in calibrated units, every so manieth sample, with its marks."""
        bench = RecordingBench(readings, layout, working_of=frozenset())
        work(bench, steps, before="measure")
        marks = readings.axis.marks if readings.axis else ()
        first = part * every * LINES
        at = slice(first, first + every * LINES, every)
        columns = [[f"{x:.10g}" for x in bench.x[at].tolist()]]
        for channel in bench.channels:
            decimals, values = bench.decimals_of(channel), bench.value(channel, at).tolist()
            columns.append([fixed(v, decimals).replace("−", "-") if math.isfinite(v) else "" for v in values])
        if marks:
            notes = [""] * len(columns[0])
            for mark in marks:
                place = (int(np.searchsorted(bench.x, mark.x)) - first) // every
                if 0 <= place < len(notes):
                    notes[place] = f"{notes[place]}; {mark.text}" if notes[place] else mark.text
            columns.append([_quoted(note) for note in notes])
        lines = "".join(",".join(cells) + "\r\n" for cells in zip(*columns, strict=True))
        if part > 0:
            return lines
        heads = [f"{q.name} ({q.unit})" if q.unit else q.name for q in map(bench.quantity, bench.channels)]
        time = f"{bench.time.name} ({bench.time.unit})" if bench.time.unit else bench.time.name
        return ",".join(map(_quoted, [time, *heads, *(["Mark"] if marks else [])])) + "\r\n" + lines


def _quoted(text: str) -> str:
    return '"' + text.replace('"', '""') + '"' if any(c in text for c in ',"\n') else text
