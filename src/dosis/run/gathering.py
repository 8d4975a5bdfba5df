"""What a bench leaves once the steps have run, gathered into findings; the same for every question."""

import math
from collections.abc import Sequence

from dosis.core.outliers import grubbs
from dosis.core.rounding import decimals_for, fixed, significant
from dosis.run.bench import Bench
from dosis.run.deviations import deviations
from dosis.run.layout import Layout
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.findings import Findings, Part
from dosis.run.outcome.readings import GroupOutcome, ReadingOutcome
from dosis.run.outcome.table import AnswerTable
from dosis.run.outcome.value import Value
from dosis.run.outcome.verdict import Verdict
from dosis.run.preparations import preparations_table
from dosis.run.roles import Role
from dosis.run.saved_layout import misfits
from dosis.run.steps.replicates import percent
from dosis.run.steps.signal import highest
from dosis.run.working import whole_working

LEAST = 3  # replicates among which one can be an outlier
NOTHING = Value()
MATTERS = 0.05  # CV from which an outlier among three is worth a word


def gathered(
    bench: Bench, layout: Layout, *, curves: Sequence[Curve], answers: AnswerTable, verdict: Verdict, part: Part,
    outliers: bool = True, level_unit: str | None = None, further: Sequence[AnswerTable] = (),
) -> Findings:  # fmt: skip
    """The findings of a bench and what its question adds; `layout` is that of the run, as it came.

    outliers : whether replicates are looked over for one. level_unit : of the answers, where it is not the layout's.
    """
    return Findings.model_construct(  # its parts are what they were made as: looking at each again takes long
        signal_label=bench.layout.signal.label,
        level_unit=layout.level.unit if level_unit is None else level_unit,
        readings=_readings(bench, _suspects(bench, layout) if outliers else {}),
        groups=_groups(bench, layout),
        steps=tuple(bench.steps),
        curves=tuple(curves),
        answers=answers,
        further=(*further, *preparations_table(bench, layout, answers)),
        checks=tuple(bench.checks),
        verdict=verdict,
        columns=bench.columns,
        peak_column=highest(bench.columns),
        layout=misfits(bench.readings, layout),
        part=part,
        working=whole_working(bench.working.items()),
    )


def _suspects(bench: Bench, layout: Layout) -> dict[int, str]:
    """Readings that Grubbs's test points at among at least three replicates; nothing is done about them."""
    found = {}
    for group in layout.groups:
        if len(group.readings) < LEAST or group.role is Role.UNUSED:
            continue
        # Of three readings two alike make the third an outlier; it is pointed at only where it matters.
        summary = bench.summaries.get(group.id)
        mild = summary is None or (summary.cv or 0.0) < MATTERS
        if mild and len(group.readings) == LEAST:
            continue
        ids = bench.used(group)
        if len(ids) < LEAST or (mild and len(ids) == LEAST):
            continue
        test = grubbs([bench.values[id] for id in ids])
        if test.outlying and test.statistic is not None and test.critical is not None:
            size = f"G = {significant(test.statistic, 5)}, critical {significant(test.critical, 5)}"
            found[ids[test.suspect]] = f"outlying among its {len(ids)} replicates (Grubbs, {size})"
    return found


def _groups(bench: Bench, layout: Layout) -> tuple[GroupOutcome, ...]:
    """Those of which there is a result, or a spread, to show."""
    found = []
    for group in layout.groups:
        summary, result = bench.summaries.get(group.id), bench.result_of(group)
        cv = summary.cv if summary else None
        if result is None and cv is None:
            continue
        result = result or NOTHING
        shown_cv = "—" if cv is None else percent(cv).removesuffix(" %")
        found.append(GroupOutcome(group.id, result.value, result.shown, cv, shown_cv))
    return tuple(found)


def _readings(bench: Bench, suspects: dict[int, str]) -> tuple[ReadingOutcome, ...]:
    off = deviations(bench)
    size = math.sqrt(sum(value * value for value in off.values()) / len(off)) if off else 0.0
    place = max(decimals_for(size), 0)  # the same for all wells, so that they can be compared at a glance
    values, why_not, text_of, aside = bench.values, bench.why_not, bench.text_of, bench.aside()
    made = []
    for id in bench.by_id:
        why, deviation, gap = why_not.get(id, ""), off.get(id), ""
        if deviation is not None:
            gap = f"+{fixed(deviation, place)}" if deviation > 0 else fixed(deviation, place)
        made.append(ReadingOutcome(
            id, values.get(id), text_of(id), not why, why, deviation, gap, suspects.get(id, ""),
            "" if why else aside.get(id, ""),
        ))  # fmt: skip
    return tuple(made)
