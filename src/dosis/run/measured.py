"""The numbers of a run that are watched over many: known samples, curve, blank, limits, how replicates agree."""

from collections.abc import Iterator, Sequence

from dosis.run.layout import Group, Layout, whole_id
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.working import WorkingLine
from dosis.run.record import Record
from dosis.run.roles import Role

CURVES, ANSWERS = 24, 24  # more than so many in a run are not watched one by one
OWN = "own."  # begins the ids of working that lists what each reading of a known sample reads back as
LIMITS = {"LOD", "LOQ"}
STATISTICS = {"blank.level": "Blank", "statistic.r2": "R²"}


class Measure(Record):
    """One number of a run.

    key : the same in all runs by one method. title : as a person says it. nominal : what it should be, where that is
    known. each : what single readings come to, where the number is of several.
    """

    key: str
    title: str
    unit: str = ""
    value: float
    lower: float | None = None
    upper: float | None = None
    nominal: float | None = None
    each: tuple[float, ...] = ()


def measures(layout: Layout, outcome: Outcome) -> tuple[Measure, ...]:
    """Every number of a run that is worth watching, each key once; of two with the same name the first."""
    found: dict[str, Measure] = {}
    for each in (*_answers(layout, outcome), *_curves(outcome), *_from_working(outcome)):
        found.setdefault(each.key, each)
    return tuple(found.values())


def _answers(layout: Layout, outcome: Outcome) -> Iterator[Measure]:
    """What QCs came to, and what was asked for where that is little enough to be watched by name."""
    lead = next(iter(outcome.answers.leads), None)
    if lead is None:
        return
    groups = {group.id: group for group in layout.groups}
    own = {id.partition(OWN)[2]: _values(lines) for id, lines in outcome.working.items() if OWN in id}
    few = len(outcome.answers.rows) <= ANSWERS and not any(row.role is Role.QC for row in outcome.answers.rows)
    for i, row in enumerate(outcome.answers.rows):
        value = lead.value(i)
        if value.value is None or not (few or row.role is Role.QC):
            continue
        group = groups.get(whole_id(row.group))
        yield Measure(
            key=f"answer:{row.name}"[:200], title=row.name if row.role is Role.QC else f"{lead.name}, {row.name}",
            unit=lead.unit, value=value.value, lower=value.lower, upper=value.upper, nominal=_nominal(row.role, group),
            each=tuple(own.get(row.group, ())),
        )  # fmt: skip


def _nominal(role: Role, group: Group | None) -> float | None:
    return group.level if role is Role.QC and group is not None else None


def _curves(outcome: Outcome) -> Iterator[Measure]:
    if len(outcome.curves) > CURVES:
        return
    for curve in outcome.curves:
        known = [level for level in curve.levels if level > 0]
        if known and not curve.key:
            yield Measure(key="standards.low", title="Lowest standard", unit=outcome.level_unit, value=min(known))
            yield Measure(key="standards.high", title="Highest standard", unit=outcome.level_unit, value=max(known))
        of = f", {curve.key}" if curve.key else ""
        for row in curve.parameters:
            yield Measure(
                key=f"parameter:{curve.key}:{row.name}"[:200], title=f"{row.name.capitalize()}{of}", unit=row.unit,
                value=row.estimate, lower=row.lower, upper=row.upper,
            )  # fmt: skip


def _from_working(outcome: Outcome) -> Iterator[Measure]:
    for id, lines in outcome.working.items():
        value = lines[0].value if lines else None
        if id in STATISTICS and value is not None:
            yield Measure(key=id, title=STATISTICS[id], value=value)
        elif id.startswith("limit.") and lines[0].label in LIMITS and value is not None:
            yield Measure(key=f"limit:{lines[0].label}", title=lines[0].label, unit=outcome.level_unit, value=value)
        elif id == "check.cv" and (cvs := _values(lines)):
            yield Measure(key=id, title="Worst CV", unit="%", value=100 * max(cvs))
        elif id == "check.recovery" and (recoveries := _values(lines)):
            worst = max(recoveries, key=lambda each: abs(each - 1))
            yield Measure(key=id, title="Worst standard", unit="%", value=100 * worst)
        elif id == "check.z_prime" and (found := _values([line for line in lines if line.label == "Z′"])):
            yield Measure(key=id, title="Z′", value=found[0])


def _values(lines: Sequence[WorkingLine]) -> list[float]:
    return [line.value for line in lines if line.value is not None]
