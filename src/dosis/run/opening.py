"""How a run opens, and what a layout that comes later makes of a method nobody has touched."""

from collections.abc import Collection

from dosis.run.layout import Layout
from dosis.run.method import Method, default_method
from dosis.run.questions.registry import QuestionId, question_of
from dosis.run.readings import Readings
from dosis.run.roles import ROLES, Role

# What a role of one question is in others that do not have it.
ELSEWHERE: dict[Role, tuple[Role, ...]] = {
    Role.DOSE: (Role.STANDARD,), Role.POINT: (Role.STANDARD,), Role.VEHICLE: (Role.BLANK, Role.STANDARD),
    Role.FULL: (Role.STANDARD,), Role.BLANK: (Role.VEHICLE,), Role.QC: (Role.VEHICLE,),
}  # fmt: skip


def neutral(layout: Layout, roles: Collection[Role]) -> Layout:
    """The layout with roles as a table is first understood, so that a question of these roles can open with it."""
    groups = []
    for group in layout.groups:
        role = group.role
        if role not in roles and role in ELSEWHERE:
            named = [each for each, of in ROLES.items() if of.named and of.named.search(group.name)][:1]
            fits = [each for each in (*named, *ELSEWHERE[role]) if each in roles or each is Role.STANDARD]
            role = fits[0] if fits else role
        if role is Role.STANDARD and group.level is None:
            role = Role.SAMPLE
        groups.append(group if role is group.role else group.model_copy(update={"role": role}))
    return layout.model_copy(update={"groups": tuple(groups)})


def opened(readings: Readings, layout: Layout, question: QuestionId) -> tuple[Layout, Method]:
    """Layout and working of a new run that is asked this question."""
    layout = question_of(question).asked(layout)
    return layout, opened_method(readings, None, layout, default_method(question))


def opened_method(readings: Readings, before: Layout | None, layout: Layout, method: Method) -> Method:
    """The method as its question opens it with this layout; `before` is the one that was there, None at first."""
    steps = question_of(method.question).opened(readings, before, layout, method.steps)
    return method if steps == method.steps else method.model_copy(update={"steps": steps})
