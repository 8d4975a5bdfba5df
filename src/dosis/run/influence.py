"""What decides an answer: the readings that move it most when each in turn is left out, and all is worked again."""

import math

from dosis.core.rounding import given, significant
from dosis.run.bench import Bench
from dosis.run.evaluate import evaluate
from dosis.run.layout import Exclusion, Group, Layout
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import Value
from dosis.run.questions.registry import question_of
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.run.roles import Role

MOST = 300  # readings that are tried; each takes one evaluation of the run
NAMED = 5  # readings that are listed


class Moved(Record):
    """A reading, and what the answer is without it.

    text : as it was read. shown : the answer without it, "—" where there is none. change : relative, None where it
    cannot be told; beyond : whether it moves the answer by more than half of its interval.
    """

    reading: int
    group: str
    name: str
    text: str
    shown: str
    change: float | None
    shown_change: str
    beyond: bool


class Influence(Record):
    """The readings that decide an answer, the strongest first.

    said : the sentence above them. tried : how many were left out in turn; untried : how many more there are.
    """

    answer: str
    shown: str
    said: str
    tried: int
    untried: int
    moves: tuple[Moved, ...]


def influence(readings: Readings, layout: Layout, method: Method, answer: str) -> Influence | None:
    """Leave out each reading in turn and work the run again; None where there is no such answer, or it has no number.

    answer : the key of a row of the table of answers; of its numbers the first leading one is followed. Readings that
    were excluded stay so. Of a run with more than 300 readings those of the answer's own group, series and plates come
    first.
    """
    outcome = evaluate(readings, layout, method)
    value = _value(outcome, answer)
    row = next((row for row in outcome.answers.rows if row.key == answer), None)
    if value is None or row is None or value.value is None:
        return None
    candidates = _candidates(question_of(method.question).bench(readings, layout), layout, row.group, row.series)
    tried = candidates[:MOST]
    half = None if value.lower is None or value.upper is None else (value.upper - value.lower) / 2
    found = [
        _moved(readings, group, id, value, half, _value(evaluate(readings, without(layout, id), method), answer))
        for group, id in tried
    ]
    found.sort(key=lambda each: math.inf if each.change is None else abs(each.change), reverse=True)
    moves = tuple(each for each in found if each.change is None or abs(each.change) > 0)[:NAMED]
    return Influence(
        answer=row.name, shown=value.shown, said=_said(row.name, value, half, len(tried), moves), tried=len(tried),
        untried=len(candidates) - len(tried), moves=moves,
    )  # fmt: skip


def without(layout: Layout, reading: int) -> Layout:
    """The layout with one reading more left out."""
    extra = Exclusion(reading=reading, reason="left out to see what it decides")
    return Layout.model_construct(
        signal=layout.signal, level=layout.level, groups=layout.groups, exclusions=(*layout.exclusions, extra)
    )


def _candidates(bench: Bench, layout: Layout, own: str, series: str | None) -> list[tuple[Group, int]]:
    """Readings that count, the answer's own first, then those of its series and of its plates."""
    of = next((group for group in layout.groups if group.id == own), None)
    name = series if series is not None else of.series if of else ""
    plates = {bench.by_id[id].plate for id in of.readings} if of else set()

    def far(group: Group) -> int:
        if group.id == own:
            return 0
        if group.series and group.series == name:
            return 1
        return 2 if {bench.by_id[id].plate for id in group.readings} & plates else 3

    ordered = sorted((group for group in layout.groups if group.role is not Role.UNUSED), key=far)
    return [(group, id) for group in ordered for id in bench.used(group) if id in bench.values]


def _value(outcome: Outcome, answer: str) -> Value | None:
    lead = next(iter(outcome.answers.leads), None)
    at = next((i for i, row in enumerate(outcome.answers.rows) if row.key == answer), None)
    if lead is None or at is None:
        return None
    return lead.value(at)


def _moved(readings: Readings, group: Group, id: int, before: Value, half: float | None, after: Value | None) -> Moved:
    was = before.value or 0.0
    level = f" {given(group.level)}" if group.level is not None and group.role is not Role.SAMPLE else ""
    common = {"reading": id, "group": group.id, "name": f"{group.name}{level}", "text": readings.texts[id]}
    if after is None or after.value is None:
        shown = after.shown if after is not None and after.censor else "—"
        return Moved(**common, shown=shown, change=None, shown_change="no answer", beyond=True)
    moved = after.value - was
    change = moved / abs(was) if was else math.copysign(math.inf, moved) if moved else 0.0
    if not math.isfinite(change):
        return Moved(**common, shown=after.shown, change=None, shown_change="from zero", beyond=True)
    size = f"{significant(abs(100 * change), 2)} %"
    return Moved(**common, shown=after.shown, change=change, shown_change=f"{'+' if change > 0 else '−'}{size}",
                 beyond=half is not None and abs(moved) > half)  # fmt: skip


def _said(name: str, value: Value, half: float | None, tried: int, moves: tuple[Moved, ...]) -> str:
    if not moves:
        return f"{name} stays {value.shown} whichever of {tried} readings is left out."
    if half is None:
        return f"{name} has no interval to hold these against; it would move most without them."
    beyond = [each for each in moves if each.beyond]
    if beyond:
        which = "one reading moves" if len(beyond) == 1 else f"{len(beyond)} readings move"
        return f"{name} rests on few readings: left out, {which} it by more than half of its interval."
    return f"No reading moves {name} by more than half of its interval when it is left out."
