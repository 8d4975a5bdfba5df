"""What lies between two revisions of a run: settings, layout, exclusions, and what it did to each answer."""

from dosis.core.rounding import given, significant
from dosis.run.layout import Group, Layout
from dosis.run.look import told
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.table import AnswerTable
from dosis.run.outcome.value import Value
from dosis.run.record import Record
from dosis.run.roles import ROLES
from dosis.run.steps.step import Changed, settings_between

DIGITS = 6  # to which two fits of the same curve find the same place


class Difference(Record):
    """All that is not the same in two revisions."""

    settings: tuple[Changed, ...]
    layout: tuple[Changed, ...]
    exclusions: tuple[Changed, ...]
    answers: tuple[Changed, ...]


def difference(
    before: tuple[Layout, Method, Outcome], after: tuple[Layout, Method, Outcome]
) -> Difference:  # fmt: skip
    """From the first to the second. Pure; empty where the two are the same."""
    (layout, method, outcome), (new_layout, new_method, new_outcome) = before, after
    return Difference(
        settings=_settings(method, new_method),
        layout=_layout(layout, new_layout),
        exclusions=_exclusions(layout, new_layout),
        answers=_answers(outcome, new_outcome),
    )


def _settings(before: Method, after: Method) -> tuple[Changed, ...]:
    return (*settings_between(before.steps, after.steps), *told(before.figure, after.figure))


def _layout(before: Layout, after: Layout) -> tuple[Changed, ...]:
    found = [
        Changed(what=what, before=one.label, after=other.label)
        for what, one, other in (("Signal", before.signal, after.signal), ("Level", before.level, after.level))
        if one != other
    ]
    old = {id: group for group in before.groups for id in group.readings}
    new = {id: group for group in after.groups for id in group.readings}
    moved: dict[tuple[str, str], int] = {}
    for id in {**old, **new}:
        was, now = _said(old.get(id), before.level.unit), _said(new.get(id), after.level.unit)
        if was != now:
            moved[was, now] = moved.get((was, now), 0) + 1
    found += [
        Changed(what=f"{count} reading{'s' if count > 1 else ''}", before=was, after=now)
        for (was, now), count in moved.items()
    ]
    return tuple(found)


def _said(group: Group | None, unit: str) -> str:
    if group is None:
        return "no role"
    level = "" if group.level is None else f", level {given(group.level)} {unit}".rstrip()
    dilution = "" if group.dilution == 1 else f", × {given(group.dilution)}"
    return f"{ROLES[group.role].name} {group.name}{level}{dilution}"


def _exclusions(before: Layout, after: Layout) -> tuple[Changed, ...]:
    old = {(e.reading, e.at): e.reason for e in before.exclusions}
    new = {(e.reading, e.at): e.reason for e in after.exclusions}
    names = {
        id: f"{group.name} reading {i}"
        for layout in (before, after) for group in layout.groups for i, id in enumerate(group.readings, start=1)
    }  # fmt: skip
    return tuple(
        Changed(
            what=names.get(key[0], f"reading {key[0]}") + ("" if key[1] is None else f", point {key[1] + 1}"),
            before=f"excluded: {old[key]}" if key in old else "used",
            after=f"excluded: {new[key]}" if key in new else "used",
        )
        for key in sorted({**old, **new}, key=lambda key: (key[0], -1 if key[1] is None else key[1]))
        if old.get(key) != new.get(key)
    )  # fmt: skip


def _answers(before: Outcome, after: Outcome) -> tuple[Changed, ...]:
    """What the run was asked for, by the name of its row; which of several it is stands beside the name."""
    old, new = _leading(before.answers), _leading(after.answers)
    found = []
    for name in {**old, **new}:
        was, now = (_with_unit(*each[name]) if name in each else "" for each in (old, new))
        if was == now and name in old and name in new:
            # Written alike, a change is told by more digits.
            was, now = _more_digits(*old[name]), _more_digits(*new[name])
        if was != now:
            found.append(Changed(what=name, before=was, after=now))
    return tuple(found)


def _leading(answers: AnswerTable) -> dict[str, tuple[Value, str]]:
    return {
        row.name if row.series is None else f"{row.name}, {column.name}": (column.value(i), column.unit)
        for i, row in enumerate(answers.rows)
        for column in answers.leads
    }


def _more_digits(value: Value, unit: str) -> str:
    if value.value is None or value.censor:
        return _with_unit(value, unit)
    return f"{significant(value.value, DIGITS)} {unit}".rstrip()


def _with_unit(value: Value, unit: str) -> str:
    return f"{value.shown} {unit}".rstrip() if value.value is not None or value.censor else value.shown
