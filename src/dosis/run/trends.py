"""One number of many runs by a method, over time: held against limits, with what points at a change said in words."""

from collections.abc import Callable, Sequence
from statistics import median
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.control_charts import LEAST, Limits, limits, of, signals
from dosis.core.numbers import LARGEST
from dosis.core.precision import Precision, precision
from dosis.core.rounding import fixed, significant
from dosis.run.measured import Measure
from dosis.run.outcome.value import State
from dosis.run.record import Record, Time

FIRST = 20  # runs that limits are made from unless a person chooses: from fewer they are hardly known
SOME = 8  # from which they are worth being held against at all
DRIFTS = ("side", "trend", "two_of_three", "four_of_five")  # rules that a shift of the center breaks
RECENT = 8  # runs back a signal may lie and still say something of today
Number = Annotated[float, Field(ge=-LARGEST, le=LARGEST)]


class Base(Record):
    """What limits come from: the runs that were chosen, or a center and an SD that were typed; nothing by default."""

    runs: Annotated[tuple[int, ...], Field(max_length=10_000)] = ()
    center: Number | None = None
    sd: Annotated[float, Field(ge=0, le=LARGEST)] | None = None


class TrendPoint(Record):
    """The number of one run. broken : the rules it is part of a signal of."""

    run: int
    title: str
    at: Time
    value: float
    shown: str
    lower: float | None = None
    upper: float | None = None
    each: tuple[float, ...] = ()
    moving_range: float | None = None
    broken: tuple[str, ...] = ()


class Held(Record):
    """What the points are held against. basis : where that comes from, in words."""

    center: float
    sd: float
    shown_center: str
    ranges_mean: float
    ranges_upper: float
    basis: str
    chosen: bool


class TrendSignal(Record):
    """A rule that some runs break, by the places of their points."""

    rule: str
    text: str
    places: tuple[int, ...]
    recent: bool


class Spread(Record):
    """Precision and recovery over runs, as numbers and as they are shown; empty where there is nothing to tell.

    allowed : how far the mean may be from what it should be, and the CV go, by the method; None where it says nothing.
    """

    runs: int
    n: int
    mean: float
    shown_mean: str
    shown_interval: str
    recovery: float | None
    shown_recovery: str
    within: float | None
    between: float | None
    total: float | None
    shown_within: str
    shown_between: str
    shown_total: str
    cv: float | None
    shown_cv: str
    allowed: float | None
    state: State | None
    verdict: str


class Trend(Record):
    """One number over the runs of a method."""

    key: str
    title: str
    unit: str
    nominal: float | None
    points: tuple[TrendPoint, ...]
    held: Held | None
    signals: tuple[TrendSignal, ...]
    state: State
    now: str
    said: str
    spread: Spread


class Run(Record):
    """A run by the method: its numbers, in time."""

    id: int
    title: str
    at: Time
    measures: tuple[Measure, ...]


def trends(
    runs: Sequence[Run], bases: dict[str, Base], allowed: float | None, of_runs: frozenset[int] | None = None
) -> tuple[Trend, ...]:
    """Every number that runs of a method have in common, over them. Pure.

    runs : in time. bases : what was chosen for a number, by key. allowed : the largest deviation and CV of a known
    sample, as a fraction. of_runs : those that precision is worked out of, None for all.
    """
    found: dict[str, list[tuple[Run, Measure]]] = {}
    for run in runs:
        for each in run.measures:
            found.setdefault(each.key, []).append((run, each))
    return tuple(
        _trend(key, pairs, bases.get(key), allowed, of_runs)
        for key, pairs in found.items()
        if len(pairs) > 1 or len(runs) == 1
    )


def _trend(
    key: str, pairs: list[tuple[Run, Measure]], base: Base | None, allowed: float | None, of_runs: frozenset[int] | None
) -> Trend:
    last = pairs[-1][1]
    values = [each.value for _, each in pairs]
    held, basis = _held([run.id for run, _ in pairs], values, base)
    told = signals(values, held) if held else []
    broken: dict[int, list[str]] = {}
    for signal in told:
        for place in signal.places:
            broken.setdefault(place, []).append(signal.text)
    points = tuple(
        TrendPoint(
            run=run.id, title=run.title, at=run.at, value=each.value, shown=significant(each.value, 4),
            lower=each.lower, upper=each.upper, each=each.each,
            moving_range=None if i == 0 else abs(each.value - values[i - 1]), broken=tuple(broken.get(i, ())),
        )
        for i, (run, each) in enumerate(pairs)
    )  # fmt: skip
    recent = len(values) - RECENT
    found = tuple(
        TrendSignal(rule=each.rule, text=each.text, places=each.places, recent=each.places[-1] >= recent)
        for each in told
    )
    chosen = [(run, each) for run, each in pairs if of_runs is None or run.id in of_runs] or pairs
    return Trend(
        key=key, title=last.title, unit=last.unit, nominal=last.nominal, points=points,
        held=None if held is None else Held(
            center=held.center, sd=held.sd, shown_center=significant(held.center, 4), ranges_mean=held.ranges_mean,
            ranges_upper=held.ranges_upper, basis=basis, chosen=base is not None,
        ),
        signals=found, state=State.LOOK if any(each.recent for each in found) else State.PASS,
        now=f"{significant(values[-1], 4)} {last.unit}".rstrip(), said=_said(last.title, found, points, held, basis),
        spread=_spread([each for _, each in chosen], last.nominal, allowed),
    )  # fmt: skip


def _held(ids: list[int], values: list[float], base: Base | None) -> tuple[Limits | None, str]:
    """Limits, and where they come from in words; none where there is too little to make them from."""
    if base is not None and base.center is not None and base.sd is not None:
        return of(base.center, base.sd), "typed center and SD"
    if base is not None and base.runs:
        own = [value for id, value in zip(ids, values, strict=True) if id in set(base.runs)]
        if len(own) >= LEAST:
            return limits(own), f"{len(own)} chosen runs"
    own = values[:FIRST]
    if len(own) < SOME:
        return None, f"Limits need {SOME} runs; there {'is 1' if len(own) == 1 else f'are {len(own)}'}."
    if len(values) > FIRST:
        return limits(own), f"the first {FIRST} runs"
    return limits(own), f"all {len(own)} runs; {FIRST} or more make limits firm"


def _said(
    title: str, found: tuple[TrendSignal, ...], points: tuple[TrendPoint, ...], held: Limits | None, basis: str
) -> str:  # fmt: skip
    """What of it a person should know, in a sentence."""
    if held is None:
        return basis
    recent = [each for each in found if each.recent]
    if not recent:
        earlier = f" Earlier: {found[-1].text}, up to {points[found[-1].places[-1]].title}." if found else ""
        return f"{title} is steady over the last {min(len(points), RECENT)} runs.{earlier}"
    drifts = [each for each in recent if each.rule in DRIFTS]
    lead = f"{title} drifts {_way(drifts[-1], points, held)}" if drifts else f"{title} is out of control"
    last = {each.rule: each for each in recent}
    told = "; ".join(f"{each.text} ({_places(each, points)})" for each in list(last.values())[:3])
    return f"{lead}: {told}."


def _way(signal: TrendSignal, points: tuple[TrendPoint, ...], held: Limits) -> str:
    first, last = points[signal.places[0]].value, points[signal.places[-1]].value
    return "upward" if last > (first if signal.rule == "trend" else held.center) else "downward"


def _places(signal: TrendSignal, points: tuple[TrendPoint, ...]) -> str:
    first, last = points[signal.places[0]].title, points[signal.places[-1]].title
    return first if len(signal.places) == 1 else f"{first} to {last}"


def _spread(measures: list[Measure], nominal: float | None, allowed: float | None) -> Spread:
    found = precision([each.each or (each.value,) for each in measures])
    recovery = None if not nominal else found.mean / nominal
    cv = found.share(found.total)
    state, verdict = _judged(recovery, cv, allowed if nominal else None)
    interval = ""
    if found.lower is not None and found.upper is not None:
        low, high = (end / nominal * 100 if nominal else end for end in (found.lower, found.upper))
        interval = f"{fixed(low, 1)} – {fixed(high, 1)} %" if nominal else f"{significant(low)} – {significant(high)}"
    return Spread(
        runs=found.runs, n=found.n, mean=found.mean, shown_mean=significant(found.mean, 4), shown_interval=interval,
        recovery=recovery, shown_recovery="" if recovery is None else f"{fixed(100 * recovery, 1)} %",
        within=found.within, between=found.between, total=found.total, shown_within=_sd(found, found.within),
        shown_between=_sd(found, found.between), shown_total=_sd(found, found.total), cv=cv,
        shown_cv="" if cv is None else f"{significant(100 * cv, 2)} %", allowed=allowed if nominal else None,
        state=state, verdict=verdict,
    )  # fmt: skip


def _sd(found: Precision, sd: float | None) -> str:
    if sd is None:
        return ""
    return "none seen" if sd == 0 and found.runs > 1 else significant(sd, 2)


def _judged(recovery: float | None, cv: float | None, allowed: float | None) -> tuple[State | None, str]:
    if allowed is None or recovery is None or cv is None:
        return None, ""
    off = [
        what for what, value in (("recovery", abs(recovery - 1)), ("CV", cv)) if value > allowed
    ]  # fmt: skip
    return (State.FAIL, f"{' and '.join(off)} beyond it") if off else (State.PASS, "passes")


class SummaryRow(Record):
    """One line of a validation summary: what was looked at, what was found, and of what."""

    what: str
    found: str
    of: str


class TrendSummary(Record):
    """A validation summary over runs."""

    rows: tuple[SummaryRow, ...]


Kind = Literal["median", "lowest", "highest", "farthest"]
TAKEN: dict[Kind, Callable[[list[float]], float]] = {
    "median": median, "lowest": min, "highest": max,
    "farthest": lambda values: max(values, key=lambda each: abs(each - 100)),
}  # fmt: skip


def summary(found: Sequence[Trend]) -> TrendSummary:
    """What a validation report says first: linearity, range, accuracy, precision, LOD and LOQ (ICH Q2(R2), M10)."""
    by_key = {each.key: each for each in found}
    rows: list[SummaryRow] = []

    def tell(what: str, key: str, kind: Kind, how: str) -> None:
        trend = by_key.get(key)
        if trend is None:
            return
        values = [point.value for point in trend.points]
        value = TAKEN[kind](values)
        shown = f"{significant(value, 4)} {trend.unit}".rstrip()
        rows.append(SummaryRow(what=what, found=shown, of=f"{how} of {len(values)} runs"))

    tell("Linearity or fit: R²", "statistic.r2", "lowest", "lowest")
    tell("Standards recovered: worst", "check.recovery", "farthest", "farthest from 100 %")
    tell("Range: from", "standards.low", "highest", "covered by each")
    tell("Range: to", "standards.high", "lowest", "covered by each")
    tell("LOD", "limit:LOD", "median", "median")
    tell("LOQ", "limit:LOQ", "median", "median")
    for each in found:
        spread = each.spread
        if each.nominal is None:
            continue
        of_runs = f"{spread.n} values in {spread.runs} runs"
        rows.append(SummaryRow(
            what=f"Accuracy: {each.title}", found=f"{spread.shown_recovery} ({spread.shown_interval})",
            of=f"recovery with its 95 % interval, {of_runs}",
        ))  # fmt: skip
        parts = [
            f"within runs {spread.shown_within}" if spread.shown_within else "",
            f"between {spread.shown_between}" if spread.shown_between else "",
            f"total {spread.shown_total} {each.unit}, CV {spread.shown_cv}" if spread.shown_total else "",
        ]
        found_sd = "; ".join(filter(None, parts))
        rows.append(SummaryRow(what=f"Precision: {each.title}", found=found_sd, of=f"SD by ISO 5725-2, {of_runs}"))
    return TrendSummary(rows=tuple(rows))
