"""What do these scans show? Peaks, values, areas, mixtures and change of spectra."""

from typing import ClassVar

from dosis.run.gathering import gathered
from dosis.run.layout import Layout
from dosis.run.look import FigureLook, Series
from dosis.run.outcome.courses import CourseLines, CoursesWanted
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.findings import Findings
from dosis.run.outcome.handed import HandedOn
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.question import Question
from dosis.run.questions.spectrum.at import AtStep
from dosis.run.questions.spectrum.bench import FEW, STAGES, SpectrumBench
from dosis.run.questions.spectrum.change import ChangeStep, is_time
from dosis.run.questions.spectrum.checks import ScanChecksStep
from dosis.run.questions.spectrum.combine import CombineStep
from dosis.run.questions.spectrum.correct import CorrectStep
from dosis.run.questions.spectrum.drawing import draw_changes, draw_scan, draw_scans, lines_of, marks_of
from dosis.run.questions.spectrum.mixture import MixtureStep
from dosis.run.questions.spectrum.opening import opened_signal
from dosis.run.questions.spectrum.part import SpectrumPart
from dosis.run.questions.spectrum.peaks import PeaksStep
from dosis.run.questions.spectrum.signal import ScanSignalStep
from dosis.run.questions.spectrum.smooth import SmoothStep
from dosis.run.questions.spectrum.standards import standards_of
from dosis.run.questions.spectrum.table import change_table, peak_table, scan_table
from dosis.run.questions.spectrum.verdict import conclude
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.step import Steps, one, with_step
from dosis.run.working import whole_working, work


class Spectrum(Question):
    """Scans."""

    id = "spectrum"
    sentence = "What do these scans show?"
    by = "Spectra: peaks, values and change"
    note = "Every column beside the wavelengths is a scan."
    steps = (ScanSignalStep, CorrectStep, SmoothStep, CombineStep, PeaksStep, AtStep, MixtureStep, ChangeStep,
             ScanChecksStep)  # fmt: skip
    roles = (Role.POINT, Role.STANDARD, Role.BLANK, Role.UNUSED)
    titles: ClassVar[dict[Role, str]] = {Role.POINT: "Scan", Role.STANDARD: "Reference"}
    levels = "levels"
    one_level = "a level"
    point = "scan"
    along = "wave"
    unknowns = False
    column_words: ClassVar[dict[str, str]] = {"reading": "scan", "time": "wavelength"}
    part = SpectrumPart
    look = FigureLook(series=Series(palette="order"))

    def opened(self, readings: Readings, before: Layout | None, layout: Layout, steps: Steps) -> Steps:
        """Absorbance of what is transmittance."""
        if before is None and one(steps, ScanSignalStep) == ScanSignalStep():
            steps = with_step(steps, opened_signal(layout))
        return steps

    def bench(self, readings: Readings, layout: Layout) -> SpectrumBench:
        """A bench for the whole run."""
        return SpectrumBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All scans on one bench."""
        many = len(readings.readings) > FEW
        bench = SpectrumBench(readings, layout, working_of=None if whole or not many else frozenset())
        work(bench, steps)
        at = one(steps, AtStep)
        return gathered(
            bench, bench.layout, curves=draw_scans(bench, whole=whole), answers=scan_table(bench),
            further=(*change_table(bench), *peak_table(bench)), outliers=False, level_unit="", verdict=conclude(bench),
            part=SpectrumPart(
                scans=marks_of(bench), places=at.places, x_label=bench.axis.label, y_label=bench.quantity.label,
                level_label=bench.layout.level.label, followed=bench.followed, followed_at=bench.followed_at,
                changes=draw_changes(bench), timed=is_time(bench), isosbestic=tuple(bench.isosbestic),
                stages=tuple(step.kind for step in steps if step.kind in STAGES),
            ),
        )  # fmt: skip

    def look_at_curve(
        self, readings: Readings, layout: Layout, steps: Steps, name: str
    ) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
        """One scan in full."""
        bench = SpectrumBench(readings, layout, working_of=frozenset())
        work(bench, steps)
        curve = draw_scan(bench, name)
        return None if curve is None else (curve, whole_working(bench.working.items()))

    def look_at_working(
        self, readings: Readings, layout: Layout, steps: Steps, id: str
    ) -> tuple[WorkingLine, ...] | None:
        """The working behind one scan."""
        bench = SpectrumBench(readings, layout, working_of=frozenset({id}))
        work(bench, steps)
        return whole_working(bench.working.items()).get(id)

    def look_at_courses(self, readings: Readings, layout: Layout, steps: Steps, wanted: CoursesWanted) -> CourseLines:
        """The scans as lines of at most so many points; as they stood before a step, where one is named."""
        bench = SpectrumBench(readings, layout, working_of=frozenset(), wanted=wanted.stage)
        work(bench, steps, before="peaks")
        return CourseLines(courses=lines_of(bench, wanted))

    def hand_on(self, readings: Readings, layout: Layout, steps: Steps, place: float | None) -> HandedOn | None:
        """The values at one place as readings of a standard curve."""
        bench = SpectrumBench(readings, layout, working_of=frozenset())
        work(bench, steps)
        return standards_of(bench, place)
