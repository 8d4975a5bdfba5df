"""A first layout where the question is about doses: known levels become doses, and what stands apart is a series.

Nothing is pooled in silence. Where names divide the doses — each at several levels — each name is a series and has a
curve of its own; one curve for all is a choice that is made by taking the series away.
"""

import re
from collections.abc import Mapping

from dosis.run.layout import Group, Layout, named_series
from dosis.run.roles import Role

_CONTROL = re.compile(r"^(negative |untreated |solvent )?controls?\b", re.IGNORECASE)


def as_doses(layout: Layout, renamed: Mapping[Role, Role]) -> Layout:
    """The layout with `renamed` roles, controls as controls, and series."""
    groups = named_series([_with_role(group, renamed) for group in layout.groups])
    return layout.model_copy(update={"groups": tuple(groups)})


def _with_role(group: Group, renamed: Mapping[Role, Role]) -> Group:
    role = renamed.get(group.role, group.role)
    if not group.level and _CONTROL.match(group.series):  # named as a control in the column of series: it is everyone's
        return group.model_copy(update={"role": Role.VEHICLE, "name": _dose_name(group), "series": ""})
    if group.role is Role.QC and _CONTROL.match(group.name):
        role = Role.VEHICLE  # without dose, where the question is about doses
    if role is group.role:
        return group
    return group.model_copy(update={"role": role, "name": _dose_name(group)})


def _dose_name(group: Group) -> str:
    """The series, in the place of a name that only counts standards; the dose stands beside it."""
    return group.series or "Dose" if re.fullmatch(r"(Standard|Sample) \d+", group.name) else group.name
