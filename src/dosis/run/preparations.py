"""Answers that are of preparations of one thing, taken together: the interval is of preparations, not of wells."""

import math
from collections.abc import Sequence

from dosis.core.distributions import t_quantile
from dosis.core.nested import Nested, nested
from dosis.core.rounding import significant
from dosis.run.bench import Bench
from dosis.run.layout import Group, Layout
from dosis.run.outcome.table import AnswerRow, AnswerTable, numbers, texts, values
from dosis.run.outcome.value import Value

TITLE = "Preparations taken together"


def preparations_table(bench: Bench, layout: Layout, answers: AnswerTable) -> tuple[AnswerTable, ...]:
    """A row for each thing of which groups, or series, are said to be replicates; nothing where there is none.

    Doses and potencies (`bench.on_log`) are averaged as logarithms. Where the readings of each preparation are known by
    themselves the model is nested and fitted by REML, otherwise each preparation counts once.
    """
    lead = next(iter(answers.leads), None)
    of = _parents(layout, answers)
    if lead is None or not of:
        return ()
    level = lead.level or 0.95
    rows: list[AnswerRow] = []
    cells: list[Value] = []
    between: list[float | None] = []
    within: list[float | None] = []
    counts: list[int] = []
    said: list[str] = []
    for name, places in of.items():
        known = [(answers.rows[i], lead.value(i).value) for i in places]
        found = [(row, value) for row, value in known if value is not None and (value > 0 or not bench.on_log)]
        rows.append(AnswerRow(key=f"preparations {name}", name=name, group="", role=answers.rows[places[0]].role))
        lost = len(places) - len(found)
        if len(found) < 2:
            cells.append(Value())
            between.append(None)
            within.append(None)
            said.append("fewer than two preparations with a number")
        else:
            made, value = _together(bench, layout, found, level)
            cells.append(value)
            between.append(made.between)
            within.append(made.within)
            t = significant(t_quantile((1 + level) / 2, made.degrees_of_freedom), 3)
            how = "nested, REML" if made.n > made.preparations else "each counts once"
            said.append(
                f"{how}; t {t} of {made.degrees_of_freedom} df" + (f"; {lost} without a number" if lost else "")
            )
        counts.append(len(places))
    log = " of ln" if bench.on_log else ""
    return (
        AnswerTable(
            of="Of", title=TITLE, rows=tuple(rows),
            columns=(
                values("mean", "Geometric mean" if bench.on_log else "Mean", cells, unit=lead.unit, level=level,
                       interval="always"),
                numbers("between", f"SD{log} between preparations", between, map(_sd, between),
                        short=f"SD{log} between"),
                numbers("within", f"SD{log} within a preparation", within, map(_sd, within), short=f"SD{log} within"),
                numbers("preparations", "Preparations", counts, map(str, counts), kind="count"),
                texts("how", "Interval", said),
            ),
        ),
    )  # fmt: skip


def _sd(value: float | None) -> str:
    return "—" if value is None else significant(value, 2)


def _parents(layout: Layout, answers: AnswerTable) -> dict[str, list[int]]:
    """The rows of answers that are of preparations of each thing, by its name."""
    own: dict[str, str] = {group.id: group.replicate_of for group in layout.groups if group.replicate_of}
    series = {group.series: group.replicate_of for group in layout.groups if group.replicate_of and group.series}
    if not own:
        return {}
    found: dict[str, list[int]] = {}
    for i, row in enumerate(answers.rows):
        name = own.get(row.group, "") if row.series is None else series.get(row.series, "")
        if name:
            found.setdefault(name, []).append(i)
    return found


def _together(
    bench: Bench, layout: Layout, found: Sequence[tuple[AnswerRow, float]], level: float
) -> tuple[Nested, Value]:  # fmt: skip
    groups = {group.id: group for group in layout.groups}
    single = [_singly(bench, groups.get(row.group), value) for row, value in found]
    if bench.on_log:
        made = nested([[math.log(value)] for _, value in found])
        low, high = made.interval(level)
        return made, Value.of(math.exp(made.mean), math.exp(low), math.exp(high))
    made = nested(single)
    also = bench.common_error([groups[row.group] for row, _ in found if row.group in groups])
    return made, Value.of(made.mean, *made.interval(level, also=also))


def _singly(bench: Bench, group: Group | None, value: float) -> list[float]:
    """What each reading of a preparation comes to by itself, or the preparation as a whole."""
    found = bench.singly(group) if group is not None else []
    return found or [value]
