"""What a question is: all that the rest of Dosis has to know of it. Each lives in a room of its own, here beside."""

from abc import ABC, abstractmethod
from typing import ClassVar, Literal

from dosis.core.inference.result import Fit
from dosis.core.plan import Wanted
from dosis.run.bench import Bench
from dosis.run.kept_calibration import KeptChannel
from dosis.run.layout import Layout
from dosis.run.look import FigureLook
from dosis.run.outcome.courses import CourseLines, CoursesWanted
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.equation import EquationAsked, EquationLook
from dosis.run.outcome.findings import Findings, Part
from dosis.run.outcome.handed import HandedOn
from dosis.run.outcome.told import Asked, Told
from dosis.run.outcome.working import WorkingLine
from dosis.run.readings import Readings
from dosis.run.roles import ROLES, Role
from dosis.run.steps.step import Step, Steps


class Question(ABC):
    """A question that can be put to readings.

    id : as it is stored. sentence : as it is asked; by : how it is answered, in a word; note : what opening does.
    steps : the kinds of its working, in their order. part : its own part of the outcome.
    roles : those a reading can have, as they are offered; titles : where one is called otherwise here.
    levels : what known levels are called, one_level : one of them, and `point` a row that has one.
    along : of readings that are curves, rows of numbers, what kind of axis they go along; empty of single numbers.
    unknowns : whether rows without a level are asked for. diluted : whether dilutions are levels where there are none.
    column_words : kinds of columns that are called otherwise.
    look : how figures look at first, where it is not as all others.
    """

    id: ClassVar[str]
    sentence: ClassVar[str]
    by: ClassVar[str]
    note: ClassVar[str] = ""
    steps: ClassVar[tuple[type[Step], ...]]
    roles: ClassVar[tuple[Role, ...]]
    titles: ClassVar[dict[Role, str]] = {}
    levels: ClassVar[str] = "concentrations"
    one_level: ClassVar[str] = "a concentration"
    point: ClassVar[str] = "standard"
    along: ClassVar[Literal["", "time", "wave", "record"]] = ""
    unknowns: ClassVar[bool] = True
    diluted: ClassVar[bool] = False
    column_words: ClassVar[dict[str, str]] = {}
    look: ClassVar[FigureLook | None] = None
    part: ClassVar[type[Part]]

    @property
    def of_curves(self) -> bool:
        """Whether its readings are curves."""
        return self.along != ""

    def title(self, role: Role) -> str:
        """What a role is called in a run that is asked this."""
        return self.titles.get(role, ROLES[role].title)

    def stem(self, role: Role) -> str:
        """How the names of new groups of a role begin."""
        return self.titles.get(role, ROLES[role].stem)

    def asked(self, layout: Layout) -> Layout:
        """A first layout, as it was understood, with the roles and the series of this question.

        Readings that are curves can be understood as what this question has no role for; each is then one of its own.
        """
        if not self.of_curves:
            return layout
        groups = tuple(
            group if group.role in self.roles else group.model_copy(update={"role": Role.POINT})
            for group in layout.groups
        )
        return layout.model_copy(update={"groups": groups})

    def opened(self, readings: Readings, before: Layout | None, layout: Layout, steps: Steps) -> Steps:
        """The steps as they open with this layout; `before` is the layout that came before it, None at first.

        What a person has chosen is not touched.
        """
        return steps

    def opening_words(self, steps: Steps) -> str:
        """What is said where `opened` has changed the steps."""
        raise NotImplementedError

    @abstractmethod
    def bench(self, readings: Readings, layout: Layout) -> Bench:
        """A bench on which its steps can work."""

    @abstractmethod
    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """The steps worked through, in order. Pure and deterministic; see `dosis.run.evaluate.evaluate`."""

    def look_at_curve(
        self, readings: Readings, layout: Layout, steps: Steps, name: str
    ) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
        """One curve in full, where curves are made in brief, and the working; None where there is no such curve."""
        return None

    def look_at_working(
        self, readings: Readings, layout: Layout, steps: Steps, id: str
    ) -> tuple[WorkingLine, ...] | None:
        """The working behind one group or number that was left until it is looked at; None where there is none."""
        return None

    def look_at_courses(self, readings: Readings, layout: Layout, steps: Steps, wanted: CoursesWanted) -> CourseLines:
        """Readings that are curves, as lines of at most so many points."""
        return CourseLines()

    def look_at_equation(self, readings: Readings, layout: Layout, steps: Steps, asked: EquationAsked) -> EquationLook:
        """What an own equation would give."""
        return EquationLook(problem="This run has no curve that takes an equation of one's own.")

    def hand_on(self, readings: Readings, layout: Layout, steps: Steps, place: float | None) -> HandedOn | None:
        """A table for another run, of what was read at that place; None where there is none to hand on."""
        return None

    def calibration(self, readings: Readings, layout: Layout, steps: Steps) -> tuple[KeptChannel, ...]:
        """What its channels are calibrated by, to be kept; nothing where none is."""
        return ()

    def written(self, readings: Readings, layout: Layout, steps: Steps, every: int, part: int) -> str:
        """A part of its recording as CSV, every so manieth sample, the parts counted from 0; empty beyond the last."""
        return ""

    def to_plan(self, readings: Readings, layout: Layout, steps: Steps, answer: str) -> tuple[str, Fit, Wanted] | None:
        """An answer's name, the curve behind it and what is to be known better; None where nothing can be planned."""
        return None

    def ask(self, readings: Readings, layout: Layout, steps: Steps, asked: Asked) -> Told:
        """What its curve says of a level or a signal."""
        return Told(value=None, text="This run has no curve that can be asked.")
