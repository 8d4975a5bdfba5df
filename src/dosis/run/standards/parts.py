"""Several curves in one run: what belongs to which plate or series, and all their outcomes as one."""

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from dosis.run.layout import Group, Layout, part_id, part_name
from dosis.run.outcome.findings import Findings
from dosis.run.outcome.readings import ReadingOutcome
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.table import AnswerTable, joined
from dosis.run.outcome.value import State
from dosis.run.readings import Readings
from dosis.run.record import changed
from dosis.run.roles import Role
from dosis.run.saved_layout import misfits
from dosis.run.standards.curve import Per
from dosis.run.standards.verdict import conclude
from dosis.run.steps.summary import WORST
from dosis.run.working import joined_working

CALIBRATING, READ_BACK = (Role.STANDARD, Role.SAMPLE), (Role.STANDARD, Role.SAMPLE, Role.QC)
CURVED = 3  # levels from which a plate has a curve of its own
NAMED = 3  # curves of which a step says what it did; the others are counted


class Part(NamedTuple):
    """A plate or series by its name, and what of the layout is evaluated with it."""

    key: str
    layout: Layout


def split(readings: Readings, layout: Layout, per: Per) -> list[Part]:
    """The layout cut by plate or series; whole where there is only one of them.

    Blanks that belong to no series serve every one. A sample read on several plates has an answer on each.
    """
    if per == "each":
        per = _apart(readings, layout)
    if per == "series":
        found = _by_series(layout)
    elif per == "plate":
        found = _by_plate(readings, layout)
    else:
        found = {}
    if len(found) < 2:
        return [Part("", layout)]
    parts = []
    for key, groups in found.items():
        members = {id for group in groups for id in group.readings}
        kept = tuple(exclusion for exclusion in layout.exclusions if exclusion.reading in members)
        parts.append(Part(key, layout.model_copy(update={"groups": tuple(groups), "exclusions": kept})))
    return parts


def _apart(readings: Readings, layout: Layout) -> Per:
    """What has standards of its own: each series, where every sample says to which it belongs; else each plate."""
    calibrated = [group for group in layout.groups if group.level is not None and group.role in CALIBRATING]
    curved = {key for key, count in _levels(calibrated, lambda group: {group.series}).items() if key and count > 1}
    belonging = {group.series for group in layout.groups if group.role in READ_BACK}
    if len(curved) > 1 and belonging <= curved:
        return "series"
    if len(readings.plates) > 1:
        on = {reading.id: reading.plate for reading in readings.readings}

        def plates(group: Group) -> set[object]:
            return {on[id] for id in group.readings}

        curved = {key for key, count in _levels(calibrated, plates).items() if count >= CURVED}
        used = {plate for group in layout.groups if group.role in READ_BACK for plate in plates(group)}
        if len(curved) > 1 and used <= curved:
            return "plate"
    return "run"


def _levels(groups: Sequence[Group], of: Callable[[Group], set[Any]]) -> dict[Any, int]:
    """How many different levels each series or plate has."""
    found: dict[Any, set[float | None]] = {}
    for group in groups:
        for key in of(group):
            found.setdefault(key, set()).add(group.level)
    return {key: len(levels) for key, levels in found.items()}


def _by_series(layout: Layout) -> dict[str, list[Group]]:
    judged = [group for group in layout.groups if group.role not in (Role.BLANK, Role.UNUSED)]
    names = dict.fromkeys(group.series for group in judged)
    return {
        name or "no series": [
            group
            for group in layout.groups
            if group.series == name or (group.role is Role.BLANK and group.series not in names)
        ]
        for name in names
    }


def _by_plate(readings: Readings, layout: Layout) -> dict[str, list[Group]]:
    plate_of = {reading.id: reading.plate or 0 for reading in readings.readings}
    plates = sorted({plate_of[id] for id in layout.members})
    found: dict[str, list[Group]] = {}
    for plate in plates:
        name = readings.plates[plate].name if plate < len(readings.plates) else ""
        name = name or f"Plate {plate + 1}"
        own = found.setdefault(name if name not in found else f"{name} ({plate + 1})", [])
        for group in layout.groups:
            here = tuple(id for id in group.readings if plate_of[id] == plate)
            if len(here) == len(group.readings):
                own.append(group)
            elif here:
                named = part_name(group.name, name) if group.role in (Role.SAMPLE, Role.QC) else group.name
                id = part_id(group.id, f"plate {plate + 1}")
                own.append(group.model_copy(update={"id": id, "name": named, "readings": here}))
    return found


def together(readings: Readings, layout: Layout, parts: Sequence[Part], outcomes: Sequence[Findings]) -> Findings:
    """The outcomes of the parts as one: answers in order, steps and checks said for each curve."""
    keys = [part.key for part in parts]
    first = outcomes[0]
    own: dict[int, ReadingOutcome] = {}
    for part, outcome in zip(parts, outcomes, strict=True):
        for reading in outcome.readings:
            if reading.id in part.layout.members:
                own.setdefault(reading.id, reading)
    groups = {group.id: group for outcome in reversed(outcomes) for group in outcome.groups}
    answers = joined([outcome.answers for outcome in outcomes])
    tables: dict[str, list[AnswerTable]] = {}
    for table in (table for outcome in outcomes for table in outcome.further):
        tables.setdefault(table.title, []).append(table)
    further = tuple(map(joined, tables.values()))
    checks = _checks(keys, outcomes)
    problems = [outcome.curve.problem for outcome in outcomes]
    steps = _steps(keys, outcomes)
    verdict = conclude(
        first.curve.problem if all(problems) else "", steps, checks, answers, laid_out=bool(layout.groups)
    )
    if any(problems) and not all(problems):
        verdict = changed(verdict, state=State.FAIL)
    return first.model_copy(update={
        "readings": tuple(own.get(reading.id, reading) for reading in first.readings),
        "groups": tuple(groups.values()), "steps": steps,
        "curves": tuple(outcome.curve for outcome in outcomes), "answers": answers, "further": further,
        "checks": checks,
        "verdict": verdict, "layout": misfits(readings, layout),
        "working": joined_working([outcome.working for outcome in outcomes]),
    })  # fmt: skip


def _steps(keys: Sequence[str], outcomes: Sequence[Findings]) -> tuple[StepOutcome, ...]:
    made = []
    for several in zip(*(outcome.steps for outcome in outcomes), strict=True):
        said = [step.sentence for step in several]
        state = min((step.state for step in several), key=WORST.index)
        sentence = said[0]
        if len(set(said)) > 1:
            told = [f"{key}: {text}" for key, text in zip(keys, said, strict=True)]
            more = f" And {len(told) - NAMED} more." if len(told) > NAMED else ""
            sentence = " ".join(told[:NAMED]) + more
        warned = [f"{key}: {step.verdict}" for key, step in zip(keys, several, strict=True) if step.verdict]
        made.append(changed(several[0], sentence=sentence, state=state, verdict=" ".join(warned[:NAMED])))
    return tuple(made)


def _checks(keys: Sequence[str], outcomes: Sequence[Findings]) -> tuple[Check, ...]:
    """Each check once: as it stands on the worst curve, saying which."""
    by_id: dict[str, list[tuple[str, int, Check]]] = {}
    for i, (key, outcome) in enumerate(zip(keys, outcomes, strict=True)):
        for check in outcome.checks:
            by_id.setdefault(check.id, []).append((key, i, check))
    made = []
    for several in by_id.values():
        several.sort(key=lambda each: WORST.index(each[2].state))
        key, at, worst = several[0]
        off = [other for other, _, check in several if check.state is not State.PASS]
        every = "both" if len(several) == 2 else f"all {len(several)}"
        found = f"{key}: {worst.found}" if off else f"on {every} curves; {key}: {worst.found}"
        if len(off) > 1:
            found += f"; also to look at: {', '.join(off[1:])}"
        made.append(changed(
            worst, found=found, groups=tuple(dict.fromkeys(id for _, _, check in several for id in check.groups)),
            verdict=f"{key}: {worst.verdict}" if worst.verdict else "",
            working=f"{at}.{worst.working}" if worst.working else "",
        ))  # fmt: skip
    return tuple(made)
