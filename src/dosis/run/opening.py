"""How a run opens, and what a layout that comes later makes of a method nobody has touched."""

from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Readings


def opened(readings: Readings, layout: Layout, question: QuestionId) -> tuple[Layout, Method]:
    """Layout and working of a new run that is asked this question."""
    layout = question_of(question).asked(layout)
    return layout, opened_method(readings, None, layout, default_method(question))


def opened_method(readings: Readings, before: Layout | None, layout: Layout, method: Method) -> Method:
    """The method as its question opens it with this layout; `before` is the one that was there, None at first."""
    steps = question_of(method.question).opened(readings, before, layout, method.steps)
    return method if steps == method.steps else Method(steps=steps, question=method.question)
