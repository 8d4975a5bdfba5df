"""`evaluate`: readings, layout and method in; the outcome out. Pure and deterministic."""

from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.courses import CourseLines, CoursesWanted
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.equation import EquationAsked, EquationLook
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.told import Asked, Told
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.steps.signal import SignalLook, SignalStep
from dosis.run.working import work


def evaluate(readings: Readings, layout: Layout, method: Method, *, whole: bool = False) -> Outcome:
    """Work a run through its steps, in order; where plates or series have curves of their own, each by itself.

    whole : of a wall of curves every one with its parameters and their working, and of a large run the working of every
        group; otherwise they are left until `look_at_curve` or `look_at_working` is asked for one.

    Raises
    ------
    ValueError : when the layout names readings that do not exist. Whatever the data cannot support is not an error
        but a flagged answer with its reason.
    """
    found = question_of(method.question).evaluate(readings, layout, method.steps, whole=whole)
    return Outcome.model_construct(**dict(found))


def look_at_curve(
    readings: Readings, layout: Layout, method: Method, name: str
) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
    """One curve of a wall with its bands, parameters and statistics, and the working; None without such a series.

    The same steps from the same revision as made the wall. Raises ValueError as `evaluate`.
    """
    return question_of(method.question).look_at_curve(readings, layout, method.steps, name)


def look_at_working(readings: Readings, layout: Layout, method: Method, id: str) -> tuple[WorkingLine, ...] | None:
    """The working behind one group, or one number, of a large run or of a wall; None where there is none.

    The same steps from the same revision as gave the answers. Raises ValueError as `evaluate`.
    """
    return question_of(method.question).look_at_working(readings, layout, method.steps, id)


def look_at_courses(readings: Readings, layout: Layout, method: Method, wanted: CoursesWanted) -> CourseLines:
    """Readings that are curves as small lines, as the steps before their own have left them; nothing is stored."""
    return question_of(method.question).look_at_courses(readings, layout, method.steps, wanted)


def look_at_signal(readings: Readings, layout: Layout, method: Method, step: SignalStep) -> SignalLook:
    """The first values of every column as this signal step would find them; nothing is stored."""
    bench = question_of(method.question).bench(readings, layout)
    return step.look(work(bench, method.steps, before="signal"))


def look_at_equation(readings: Readings, layout: Layout, method: Method, asked: EquationAsked) -> EquationLook:
    """What an equation of one's own would give; nothing is stored."""
    return question_of(method.question).look_at_equation(readings, layout, method.steps, asked)


def ask(readings: Readings, layout: Layout, method: Method, asked: Asked) -> Told:
    """What the run's curve says of a level or a signal; nothing is stored."""
    return question_of(method.question).ask(readings, layout, method.steps, asked)
