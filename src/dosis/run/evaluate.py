"""`evaluate`: readings, layout and method in; the outcome out. Pure and deterministic."""

from dosis.core.outliers import grubbs
from dosis.core.rounding import fixed, given, significant
from dosis.run.drawing import draw
from dosis.run.layout import Group, Layout, Role
from dosis.run.method import Method
from dosis.run.outcome import Answer, GroupOutcome, Outcome, ReadingOutcome, Value
from dosis.run.readings import Readings
from dosis.run.saved_layout import misfits
from dosis.run.steps.curve import CurveStep
from dosis.run.steps.replicates import percent
from dosis.run.steps.signal import highest
from dosis.run.verdict import conclude
from dosis.run.workbench import Workbench

LEAST = 3  # replicates among which one can be an outlier
MATTERS = 0.05  # CV from which an outlier among three is worth a word


def work(readings: Readings, layout: Layout, method: Method) -> Workbench:
    """The steps worked through, and all they left. Raises ValueError as `evaluate`."""
    bench = Workbench(readings, layout)
    for step in method.steps:
        bench.steps.append(step.run(bench))
    return bench


def evaluate(readings: Readings, layout: Layout, method: Method) -> Outcome:
    """Work a run through its steps, in order.

    Raises
    ------
    ValueError : when the layout names readings that do not exist. Whatever the data cannot support is not an error
        but a flagged answer with its reason.
    """
    bench = work(readings, layout, method)
    answers = tuple(_answer(bench, group) for group in bench.groups(Role.SAMPLE, Role.QC))
    curve = next((step for step in method.steps if isinstance(step, CurveStep)), CurveStep())
    suspects = _suspects(bench)
    return Outcome(
        signal_label=bench.layout.signal.label,
        level_unit=layout.level.unit,
        readings=tuple(_reading(bench, id, suspects.get(id, "")) for id in bench.by_id),
        groups=tuple(_group(bench, group) for group in layout.groups),
        steps=tuple(bench.steps),
        curve=draw(bench, curve),
        answers=answers,
        checks=tuple(bench.checks),
        verdict=conclude(bench, answers),
        columns=bench.columns,
        peak_column=highest(bench.columns),
        layout=misfits(readings, layout),
        working={id: tuple(lines) for id, lines in bench.working.items()},
    )


def _suspects(bench: Workbench) -> dict[int, str]:
    """Readings that Grubbs's test points at among at least three replicates; nothing is done about them."""
    found = {}
    for group in bench.layout.groups:
        ids = bench.used(group)
        if len(ids) < LEAST or group.role is Role.UNUSED:
            continue
        # Of three readings two alike make the third an outlier; it is pointed at only where it matters.
        summary = bench.summaries.get(group.id)
        if len(ids) == LEAST and (summary is None or (summary.cv or 0.0) < MATTERS):
            continue
        test = grubbs([bench.values[id] for id in ids])
        if test.outlying and test.statistic is not None and test.critical is not None:
            size = f"G = {significant(test.statistic, 5)}, critical {significant(test.critical, 5)}"
            found[ids[test.suspect]] = f"outlying among its {len(ids)} replicates (Grubbs, {size})"
    return found


def _group(bench: Workbench, group: Group) -> GroupOutcome:
    summary = bench.summaries.get(group.id)
    cv = summary.cv if summary else None
    result = bench.in_sample.get(group.id, Value())
    return GroupOutcome(
        id=group.id,
        result=result.value,
        shown_result=result.shown,
        cv=cv,
        shown_cv="—" if cv is None else percent(cv).removesuffix(" %"),
    )


def _reading(bench: Workbench, id: int, suspect: str) -> ReadingOutcome:
    value, why = bench.values.get(id), bench.why_not.get(id, "")
    return ReadingOutcome(
        id=id,
        corrected=value,
        shown="—" if value is None else bench.signal(value),
        used=not why,
        why=why,
        suspect=suspect,
    )


def _answer(bench: Workbench, group: Group) -> Answer:
    summary = bench.summaries.get(group.id)
    cv = summary.cv if summary else None
    in_sample = bench.in_sample.get(group.id, Value())
    recovery = in_sample.value / group.level if group.level and in_sample.value is not None else None
    return Answer(
        group=group.id, role=group.role, name=group.name,
        n=summary.n if summary else 0, n_all=len(group.readings),
        signal=summary.value if summary else None,
        shown_signal=bench.signal(summary.value) if summary else "—",
        sd=summary.sd if summary else None, cv=cv, shown_cv="—" if cv is None else percent(cv).removesuffix(" %"),
        dilution=group.dilution, shown_dilution=f"× {given(group.dilution)}" if group.dilution != 1 else "",
        in_reading=bench.in_reading.get(group.id, Value()), in_sample=in_sample,
        nominal=group.level, recovery=recovery,
        shown_recovery="" if recovery is None else f"{fixed(100 * recovery, 0)} %",
        remarks=tuple(bench.remarks.get(group.id, ())),
    )  # fmt: skip
