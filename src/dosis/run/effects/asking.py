"""A first layout where the question is about doses: known levels become doses, and what stands apart is a series.

Nothing is pooled in silence. Where names divide the doses — each at several levels — each name is a series and has a
curve of its own; one curve for all is a choice that is made by taking the series away.
"""

import re
from collections.abc import Mapping

from dosis.run.layout import Group, Layout, Quantity, named_series
from dosis.run.roles import Role

_CONTROL = re.compile(r"^(negative |untreated |solvent )?controls?\b", re.IGNORECASE)


def as_doses(layout: Layout, renamed: Mapping[Role, Role]) -> Layout:
    """The layout with `renamed` roles, controls as controls, and series."""
    groups = named_series([_with_role(group, renamed) for group in layout.groups])
    return layout.model_copy(update={"groups": tuple(groups)})


def by_dilution(layout: Layout) -> Layout:
    """Dilutions as doses, where no dose is known and anything is diluted: 1:100 is a dose of 0.01."""
    of = [group for group in layout.groups if group.role in (Role.STANDARD, Role.SAMPLE)]
    if any(group.level is not None for group in layout.groups) or all(group.dilution == 1 for group in of):
        return layout
    groups = tuple(
        group.model_copy(update={"role": Role.STANDARD, "level": float(f"{1 / group.dilution:.12g}"), "dilution": 1.0})
        if group.role in (Role.STANDARD, Role.SAMPLE) else group for group in layout.groups
    )  # fmt: skip
    return layout.model_copy(update={"groups": groups, "level": Quantity(name="1/dilution")})


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
