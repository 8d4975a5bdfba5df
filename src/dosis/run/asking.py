"""A first layout as the question takes it: its own roles, and a series for each thing whose readings stand apart.

Nothing is pooled in silence. Where names divide the doses or additions — each at several levels — each name is a series
and has a curve of its own; one curve for all is a choice that is made by taking the series away.
"""

import re

from dosis.run.layout import Group, Layout, Role, named_series
from dosis.run.method import Question

ROLES_OF = {
    "dose": {Role.STANDARD: Role.DOSE, Role.BLANK: Role.BLANK},
    "mortality": {Role.STANDARD: Role.DOSE, Role.BLANK: Role.VEHICLE, Role.SAMPLE: Role.DOSE},
}  # what a known level is called where it is a dose
_CONTROL = re.compile(r"^(negative |untreated |solvent )?controls?\b", re.IGNORECASE)


def asked(layout: Layout, question: Question) -> Layout:
    """A first layout, as it was understood, with the roles and the series of what the run is asked."""
    renamed = ROLES_OF.get(question, {})
    groups = [_with_role(group, renamed) for group in layout.groups] if renamed else list(layout.groups)
    if question != "concentration":
        groups = named_series(groups)
    return layout.model_copy(update={"groups": tuple(groups)})


def _with_role(group: Group, renamed: dict[Role, Role]) -> Group:
    role = renamed.get(group.role, group.role)
    if not group.level and _CONTROL.match(group.series):  # named as a control in the column of series: it is everyone's
        return group.model_copy(update={"role": Role.VEHICLE, "series": ""})
    if group.role is Role.QC and _CONTROL.match(group.name):
        role = Role.VEHICLE  # without dose, where the question is about doses
    if role is group.role:
        return group
    return group.model_copy(update={"role": role, "name": _dose_name(group)})


def _dose_name(group: Group) -> str:
    """The series, in the place of a name that only counts standards; the dose stands beside it."""
    return group.series or "Dose" if re.fullmatch(r"Standard \d+", group.name) else group.name
