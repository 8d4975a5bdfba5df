"""The table of answers of a run with a standard curve: a row for each sample and QC."""

from collections.abc import Callable

from dosis.core.rounding import fixed, given
from dosis.run.layout import PART, Group, whole_id
from dosis.run.outcome.table import AnswerColumn, AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Value
from dosis.run.roles import ROLES
from dosis.run.standards.bench import StandardBench
from dosis.run.steps.replicates import percent

NOTHING = Value()


def answer_table(
    bench: StandardBench, key: str, unit: str, level: float, more: Callable[[list[Group]], tuple[AnswerColumn, ...]]
) -> AnswerTable:
    """The answers of a curve.

    key : the curve's own. unit : of the levels. level : of the intervals. more : further columns of the groups.
    """
    groups = bench.answered()
    in_reading = [bench.in_reading.get(group.id, NOTHING) for group in groups]
    in_sample = [bench.in_sample.get(group.id, NOTHING) for group in groups]
    known = [bench.known_level(group) for group in groups]
    return AnswerTable(rows=tuple([_row(bench, group, key) for group in groups]), columns=(
        texts("role", "Role", [ROLES[bench.answer_role(group)].name for group in groups], where="exports"),
        *_readings(bench, groups),
        values("in_reading", "In reading", in_reading, unit=unit, short="In reading", level=level,
               interval="always"),
        numbers("dilution", "Dilution", [group.dilution for group in groups],
                [f"× {given(group.dilution)}" if group.dilution != 1 else "" for group in groups]),
        values("in_sample", "In sample", in_sample, unit=unit, short="In sample", level=level, lead=True),
        *more(groups),
        numbers("known", "Known or added", known, ["" if each is None else given(each) for each in known],
                unit=unit, where="exports"),
        values("recovery", "Recovery", [_recovery(bench, group) for group in groups], unit="%",
               note="Of what is known to be in it, or was added"),
        texts("curve", "Curve", [key] * len(groups), where="exports"),
    ))  # fmt: skip


def _row(bench: StandardBench, group: Group, key: str) -> AnswerRow:
    return AnswerRow(
        key=group.id, name=group.name, group=whole_id(group.id), role=bench.answer_role(group),
        reading=group.readings[0] if PART in group.id else None, curve=key,
        remarks=tuple(bench.remarks.get(group.id, ())),
    )  # fmt: skip


def _readings(bench: StandardBench, groups: list[Group]) -> tuple[AnswerColumn, ...]:
    """How many readings, their mean and how far they agree."""
    summaries = [bench.summaries.get(group.id) for group in groups]
    counts, everyone = [each.n if each else 0 for each in summaries], [len(group.readings) for group in groups]
    cvs = [each.cv if each else None for each in summaries]
    sds = [each.sd if each else None for each in summaries]
    used = [str(n) if n == of else f"{n} of {of}" for n, of in zip(counts, everyone, strict=True)]
    return (
        numbers("n", "Readings used", counts, used, kind="count", short="n", note="Readings used"),
        numbers("n_all", "Readings", everyone, map(str, everyone), kind="count", where="exports"),
        numbers("signal", "Signal", [each.value if each else None for each in summaries],
                [bench.signal(each.value) if each else "—" for each in summaries],
                unit=bench.layout.signal.label, short="Signal"),
        numbers("sd", "SD", sds, ["—" if sd is None else bench.signal(sd) for sd in sds], where="exports"),
        numbers("cv", "CV", [None if cv is None else 100 * cv for cv in cvs],
                ["—" if cv is None else percent(cv).removesuffix(" %") for cv in cvs], unit="%"),
    )  # fmt: skip


def _recovery(bench: StandardBench, group: Group) -> Value:
    """What was found of what is known or was added, in percent; with an interval where it is of an addition."""
    spike, level = bench.recoveries.get(group.id), bench.known_level(group)
    if spike is not None and spike.value is not None:
        ends = [None if end is None else 100 * end for end in (spike.lower, spike.upper)]
        shown = ["" if end is None else fixed(end, 0) for end in ends]
        return Value(100 * spike.value, ends[0], ends[1], shown=f"{fixed(100 * spike.value, 0)} %",
                     shown_lower=shown[0], shown_upper=shown[1])  # fmt: skip
    found = bench.in_sample.get(group.id, NOTHING).value
    if group.spike_of or not level or found is None:
        return Value(shown="")
    return Value(100 * (found / level), shown=f"{fixed(100 * (found / level), 0)} %")
