"""A sample's potency in several runs, each an independent assay, taken together."""

import math
from collections.abc import Sequence
from typing import Protocol

from dosis.core.potency import Combined, combine
from dosis.core.rounding import fixed, p_value, with_interval
from dosis.run.method import Method
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import State
from dosis.run.record import Record

LEVEL = 0.95


class Assayed(Protocol):
    """A run that may be one of the assays."""

    @property
    def title(self) -> str:
        """What it is called."""

    @property
    def method(self) -> Method:
        """How it was worked."""

    @property
    def outcome(self) -> Outcome:
        """What came of it."""


class Together(Record):
    """A sample's potency over runs, both ways, each with its 95 % interval.

    p : of the chi-square of homogeneity. between : CV of the potency between runs in percent, beyond what their own
    errors explain. left_out : runs whose potency of it has no standard error, by title; doubtful : those counted
    although there is something to look at in this sample.
    """

    name: str
    unit: str
    runs: int
    semi_weighted: str
    semi_interval: str
    weighted: str
    weighted_interval: str
    p: float
    shown_p: str
    between: str
    left_out: tuple[str, ...]
    doubtful: tuple[str, ...]


def together(runs: Sequence[Assayed]) -> tuple[Together, ...]:
    """Every sample with a potency in two runs or more of one unit. Pure; see `core.potency.combine`."""
    found: dict[str, list[tuple[float, float, int]]] = {}
    lost: dict[str, list[str]] = {}
    doubtful: dict[str, list[str]] = {}
    of = [run for run in runs if run.method.question == "potency" and run.outcome.answers.leads]
    units = {run.outcome.answers.leads[0].unit for run in of}
    if len(units) != 1:
        return ()
    for run in of:
        table = run.outcome.answers
        lead, kept = table.leads[0], {column.id: column.values for column in table.columns}
        nothing = (None,) * len(table.rows)  # kept in no outcome of an earlier version
        errors, dfs = (kept.get(id, nothing) for id in ("log_error", "df"))
        for i, row in enumerate(table.rows):
            estimate, error, df = lead.values[i], errors[i], dfs[i]
            if estimate is None or estimate <= 0:
                continue
            if error and df:
                found.setdefault(row.name, []).append((math.log(estimate), error, int(df)))
                if any(remark.state is not State.PASS for remark in row.remarks):
                    doubtful.setdefault(row.name, []).append(run.title)
            else:
                lost.setdefault(row.name, []).append(run.title)
    unit = units.pop()
    return tuple(
        _told(name, unit, each, lost.get(name, []), doubtful.get(name, []))
        for name, each in found.items() if len(each) > 1
    )  # fmt: skip


def _told(name: str, unit: str, each: list[tuple[float, float, int]], lost: list[str], doubtful: list[str]) -> Together:
    logs, errors, dfs = ([one[i] for one in each] for i in range(3))
    semi, weighted = (
        combine(logs, errors, [int(df) for df in dfs], way=way, level=LEVEL) for way in ("semi-weighted", "weighted")
    )  # fmt: skip
    cv = 100 * math.sqrt(math.expm1(semi.between**2))
    return Together(
        name=name, unit=unit, runs=len(each), p=semi.p_value, shown_p=p_value(semi.p_value),
        between=f"{fixed(cv, 1)} %", left_out=tuple(lost), doubtful=tuple(doubtful),
        **_shown("semi", semi), **_shown("weighted", weighted),
    )  # fmt: skip


def _shown(way: str, found: Combined) -> dict[str, str]:
    shown, lower, upper = with_interval(found.estimate, found.lower, found.upper)
    return {"semi_weighted" if way == "semi" else way: shown, f"{way}_interval": f"{lower} – {upper}"}
