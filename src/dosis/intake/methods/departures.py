"""Where a run departs from its method: settings that are not free, and what known wells or rows are."""

from collections.abc import Iterator

from dosis.core.rounding import given
from dosis.intake.methods.apply import differ
from dosis.intake.methods.keep import OWN
from dosis.intake.methods.kept import KeptMethod, Named
from dosis.run.layout import Group, Layout
from dosis.run.method import Method
from dosis.run.readings import Readings
from dosis.run.roles import ROLES, Role
from dosis.run.steps.step import Changed, settings_between
from dosis.run.wells import parse_well, well_name


def departures(kept: KeptMethod, readings: Readings, layout: Layout, method: Method) -> tuple[Changed, ...]:
    """Everything in which a run is not as its method says; empty where it keeps to it. Pure.

    A figure may look as it likes, readings may be excluded with a reason, and samples are what they are.
    """
    if method.question != kept.question:
        return (Changed("question", kept.question, method.question),)
    return (*_settings(kept, method), *_layout(kept, readings, layout))


def _settings(kept: KeptMethod, method: Method) -> Iterator[Changed]:
    yield from settings_between(kept.steps, method.steps, kept.free)
    order = [step.kind for step in kept.steps if step.kind not in kept.free]
    here = [step.kind for step in method.steps if step.kind in order]
    if here != [kind for kind in order if kind in here]:
        yield Changed("order of the steps", ", ".join(order), ", ".join(here))


def _layout(kept: KeptMethod, readings: Readings, layout: Layout) -> Iterator[Changed]:
    if kept.level.unit and layout.level.unit != kept.level.unit:
        yield Changed("unit of levels", kept.level.unit, layout.level.unit or "none")
    yield from _wells(kept, readings, layout) if kept.layout else _names(kept, layout)


def _wells(kept: KeptMethod, readings: Readings, layout: Layout) -> Iterator[Changed]:
    if kept.layout is None:
        return
    of = {id: group for group in layout.groups for id in group.readings}
    at = {parse_well(well.well): well for well in kept.layout.wells}
    unit = layout.level.unit
    moved: dict[tuple[str, str], list[str]] = {}
    for reading in readings.readings:
        if reading.plate is None:
            continue
        place, group = (reading.row, reading.column), of.get(reading.id)
        well = at.get(place)
        was = "nothing" if well is None or well.role in OWN else _said(well.role, well.level, unit)
        now = "nothing" if group is None or group.role in OWN else _said(group.role, group.level, unit)
        if was != now:
            moved.setdefault((was, now), []).append(well_name(*place))
    for (was, now), wells in moved.items():
        more = f" and {len(wells) - 3} more" if len(wells) > 3 else ""
        yield Changed(f"{'well' if len(wells) == 1 else 'wells'} {', '.join(wells[:3])}{more}", was, now)


def _names(kept: KeptMethod, layout: Layout) -> Iterator[Changed]:
    here: dict[str, list[Group]] = {}
    for group in layout.groups:
        here.setdefault(group.name.casefold(), []).append(group)
    for each in kept.names:
        found = here.get(each.name.casefold())
        if found and not any(_same(each, group) for group in found):
            group = found[0]
            unit = layout.level.unit
            yield Changed(each.name, _said(each.role, each.level, unit), _said(group.role, group.level, unit))


def _same(named: Named, group: Group) -> bool:
    if named.role is not group.role:
        return False
    a, b = named.level, group.level
    return a == b or (a is not None and b is not None and not differ(a, b))


def _said(role: Role, level: float | None, unit: str) -> str:
    return ROLES[role].name if level is None else f"{ROLES[role].name} {given(level)} {unit}".rstrip()
