"""What a figure shows, taken out of a run's outcome: frozen numbers, and the words for them."""

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dosis.core.numbers import Meaning
from dosis.core.replicates import summarize
from dosis.core.rounding import MINUS, significant
from dosis.output.figures.markup import literal
from dosis.output.figures.unit_setting import label
from dosis.run.curves.equation import filled
from dosis.run.layout import Layout
from dosis.run.look import FigureLook
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.table import AnswerColumn
from dosis.run.questions.mortality.part import MortalityPart
from dosis.run.readings import Readings
from dosis.run.roles import ROLES, Role

STRAIGHT_BARS = {"sd": "SD", "sem": "SEM", "interval": "95 % interval", "column": "as given"}


@dataclass(frozen=True)
class Dot:
    """A point; `low` and `high` are the ends of its error bar."""

    x: float
    y: float
    excluded: bool = False
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True)
class Trace:
    """One series: points, a line, its band, and places on it with their names.

    name : in the light notation. equation, r_squared, count : what can be said of its curve. y : the title of its own
    y axis, where series are of different things.
    """

    key: str
    name: str
    dots: tuple[Dot, ...] = ()
    line: tuple[tuple[float, float], ...] = ()
    band: tuple[tuple[float, float, float], ...] = ()
    marks: tuple[tuple[float, float, str], ...] = ()
    samples: tuple[tuple[float, float, str], ...] = ()
    equation: str = ""
    r_squared: str = ""
    count: int = 0
    limits: tuple[tuple[float, str], ...] = ()
    trust: tuple[float, float] | None = None
    y: str = ""


@dataclass(frozen=True)
class Content:
    """All that a figure shows. x, y : titles of the axes, in the light notation. empty : why there is nothing.

    names : where y stands for things that have names, those names from the top; bars then lie across.
    bars : what the error bars are. lost : what of the run has no point, in a sentence.
    compared : what series beside each other come to, a sentence each.
    title : over its panel. titled : whether its axes have titles of their own.
    scaled_by : the series that the axes have to hold, where those are not only the ones that are shown.
    """

    traces: tuple[Trace, ...]
    x: str
    y: str
    log: bool = False
    empty: str = ""
    names: tuple[str, ...] = ()
    zero_line: bool = False
    bars: str = ""
    titled: bool = True
    title: str = ""
    compared: tuple[str, ...] = ()
    lost: str = ""
    scaled_by: tuple[Trace, ...] = ()


@dataclass(frozen=True)
class Shown:
    """A run on a figure; with its readings, where they are shown as they were read."""

    title: str
    outcome: Outcome
    layout: Layout
    readings: Readings | None = None


def contents_of(run: Shown, look: FigureLook, others: Sequence[Shown] = ()) -> tuple[Content, ...]:
    """The panels of a figure: of one run, of several over each other or beside each other, before and after."""
    if look.kind == "before_after":
        return (_before(run), replace(content_of(run.outcome, run.layout, look), title="After"))
    if look.kind == "scans":
        return (_scans(run),)
    if not others:
        return (content_of(run.outcome, run.layout, look),)
    everyone = (run, *others)
    each = [content_of(one.outcome, one.layout, look) for one in everyone]
    if look.arrange == "beside" or look.kind == "answers":
        return tuple(replace(one, title=literal(of.title)) for one, of in zip(each, everyone, strict=True))
    traces = tuple(
        replace(trace, key=f"{i}:{trace.key}", name=literal(of.title) + (f", {trace.name}" if trace.name else ""))
        for i, (one, of) in enumerate(zip(each, everyone, strict=True)) for trace in one.traces
    )  # fmt: skip
    first = next((one for one in each if not one.empty), each[0])
    return (replace(first, traces=traces, log=any(one.log for one in each)),)


def _scans(run: Shown) -> Content:
    """Every column that was read against x, as joined lines: the scans of a spectrum, the courses of several things."""
    level_of = {id: group.level for group in run.layout.groups for id in group.readings if group.level is not None}
    channels = () if run.readings is None else run.readings.channels
    read: list[list[tuple[float, float]]] = [[] for _ in channels]
    for reading in run.readings.readings if run.readings is not None else ():
        level = level_of.get(reading.id)
        for places, cell in zip(read, (reading, *reading.more), strict=False):
            if level is not None and cell.meaning is Meaning.NUMBER and cell.value is not None:
                places.append((level, cell.value))
    traces = tuple(
        Trace(key=f"{i}", name=literal(channel.name), line=tuple(sorted(places)), count=len(places))
        for i, (channel, places) in enumerate(zip(channels, read, strict=True))
        if places
    )
    units = {channel.unit for channel in channels}
    y = label("Signal", units.pop() if len(units) == 1 else "")
    empty = "" if traces else "There are not several columns with an x to draw."
    return Content(traces, _title(run.layout.level.label), y, empty=empty)


def _before(run: Shown) -> Content:
    """Readings as they were read, against the dose; controls without a series of their own come last."""
    read = run.readings.numbers if run.readings is not None else {}
    used = {each.id for each in run.outcome.readings if each.used}
    dots: dict[str, list[Dot]] = {curve.key: [] for curve in run.outcome.curves}
    for group in run.layout.groups:
        level = 0.0 if group.role is Role.VEHICLE else group.level
        if level is None or group.role in (Role.BLANK, Role.UNUSED):
            continue
        name = group.series if group.series in dots else ROLES[group.role].name
        dots.setdefault(name, []).extend(
            Dot(level, read[id], excluded=id not in used) for id in group.readings if id in read
        )
    traces = tuple(
        Trace(key=key, name=literal(key), dots=tuple(each), count=len(each)) for key, each in dots.items() if each
    )
    first, signal = run.outcome.curve, run.layout.signal.label
    empty = "" if traces else "There are no readings with a dose to draw."
    return Content(traces, _title(first.x_label), _title(signal), first.logarithmic, empty=empty, title="Before")


def content_of(outcome: Outcome, layout: Layout, look: FigureLook) -> Content:
    """What the run's figure shows, by the kind that is asked for."""
    if look.kind == "answers":
        return _answers(outcome)
    if look.kind == "over_time":
        return _over_time(outcome)
    curves = [curve for curve in outcome.curves if curve.points or curve.means or curve.line.x]
    if not curves:
        problem = outcome.curve.problem or "There is nothing to draw yet."
        return Content((), _title(outcome.curve.x_label), _title(outcome.curve.y_label), empty=problem)
    first = curves[0]
    if look.kind == "residuals":
        return _residuals(curves, first)
    names = {group.id: group.name for group in layout.groups}
    traces = tuple(_trace(curve, look, names, alone=len(curves) == 1) for curve in curves)
    y, of = _title(first.y_label), dict.fromkeys(_title(curve.y_label) for curve in curves)
    if len(of) > 1:  # channels of a logger, each of its own
        traces = tuple(replace(each, y=_title(curve.y_label)) for each, curve in zip(traces, curves, strict=True))
        y = ", ".join(of)
    bars = "" if look.series.bars == "none" else STRAIGHT_BARS[look.series.bars]
    compared = tuple(_first_sentence(each.text) for each in getattr(outcome.part, "comparisons", ()))
    return Content(traces, _title(first.x_label), y, first.logarithmic, bars=bars, compared=compared)


def _title(text: str) -> str:
    """An axis as the outcome labels it, "Phosphate / µM", with its unit set."""
    name, slash, unit = text.rpartition(" / ")
    return label(literal(name), unit) if slash else literal(text)


def _trace(curve: Curve, look: FigureLook, names: dict[str, str], *, alone: bool) -> Trace:
    line = curve.line
    # A curve through x and y as one series has no name; what it is of stands at the axes.
    name = literal(curve.key) if curve.key else "" if alone else "no series"
    known = [point for point in curve.points if point.state != "excluded"]
    statistic = {row.name: row.shown for row in curve.statistics}
    estimates = {row.name: row.estimate for row in curve.parameters}
    sides = zip(line.x, line.lower, line.upper, strict=True) if line.lower else ()
    return Trace(
        key=curve.key, name=name, dots=_dots(curve, look),
        line=tuple(zip(line.x, line.y, strict=True)), band=tuple(sides),
        marks=tuple((mark.x, mark.y, literal(mark.text)) for mark in curve.marks),
        samples=tuple((s.x, s.y, literal(names.get(s.group, ROLES[Role.SAMPLE].name))) for s in curve.samples),
        equation=equation_of(curve.equation, estimates, look.notes.digits), r_squared=statistic.get("R²", ""),
        count=len(known) or len(curve.means),
        limits=tuple(
            (value, row.name) for row in curve.limits
            if row.name in ("LOD", "LOQ") and (value := _number(row.shown)) is not None
        ),
        trust=None if curve.range is None else (curve.range.lower, curve.range.upper),
    )  # fmt: skip


def equation_of(equation: str, values: Mapping[str, float], digits: int) -> str:
    """An equation with its numbers to so many digits, as it is set: "*y* = 0.38 · *x*"; empty where not of y."""
    if not values or not equation.startswith("y = "):
        return ""
    shown = {name: significant(value, digits) for name, value in values.items()}
    if equation == "y = intercept + slope · x":
        sign, size = (
            ("−", shown["intercept"][1:]) if shown["intercept"].startswith(MINUS) else ("+", shown["intercept"])
        )
        return f"*y* = {shown['slope']} · *x* {sign} {size}"
    text = filled(equation, {name: f"({s})" if s.startswith(MINUS) else s for name, s in shown.items()})
    text = re.sub(r"([+−]) \(−([^()]*)\)", lambda found: f"{'−' if found[1] == '+' else '+'} {found[2]}", text)
    text = re.sub(r"^y = \(−([^()]*)\)", r"y = −\1", text)
    text = re.sub(r"\(−\(−([^()]*)\)\)", r"(\1)", text)
    text = re.sub(r"\^\(([^()]*)\)", r"^{\1}", text)
    return re.sub(r"\b([xy])\b", r"*\1*", text)


def _dots(curve: Curve, look: FigureLook) -> tuple[Dot, ...]:
    bars, means = look.series.bars, look.series.points == "means" or not curve.points
    used = [point for point in curve.points if point.state == "used"]
    out = [Dot(point.x, point.y, excluded=True) for point in curve.points if point.state != "used"]
    if bars in ("none", "column") and not means:
        given = {mean.x: mean.sd for mean in curve.means} if bars == "column" else {}
        return (*(_barred(Dot(p.x, p.y), given.get(p.x)) for p in used), *out)
    if curve.means and not used:
        found = []
        for mean in curve.means:
            dot = Dot(mean.x, mean.y)
            if bars == "interval":
                found.append(replace(dot, low=mean.lower, high=mean.upper))
            else:
                found.append(_barred(dot, {"sd": mean.sd, "column": mean.sd, "sem": mean.sem}.get(bars)))
        return (*found, *out)
    at: dict[float, list[float]] = {}
    for point in used:
        at.setdefault(point.x, []).append(point.y)
    made = []
    for x, values in sorted(at.items()):
        summary = summarize(values)
        dot = Dot(x, summary.mean)
        if bars == "interval":
            low, high = summary.interval() or (None, None)
            made.append(replace(dot, low=low, high=high))
        else:
            made.append(_barred(dot, {"sd": summary.sd, "sem": summary.sem}.get(bars)))
    return (*made, *out)


def _barred(dot: Dot, half: float | None) -> Dot:
    return dot if half is None else replace(dot, low=dot.y - half, high=dot.y + half)


def _residuals(curves: list[Curve], first: Curve) -> Content:
    unit = first.x_label if first.turned else first.y_label
    traces = tuple(
        Trace(
            key=curve.key, name=literal(curve.key), count=len(curve.points),
            dots=tuple(
                Dot(point.x, point.residual, excluded=point.state != "used")
                for point in curve.points if point.residual is not None and math.isfinite(point.residual)
            ),
        )
        for curve in curves
    )  # fmt: skip
    name, _, of = unit.rpartition(" / ")
    title = label("Residual", of) if name else "Residual"
    empty = "" if any(trace.dots for trace in traces) else "There are no residuals to draw: no curve was fitted."
    return Content(traces, _title(first.x_label), title, first.logarithmic, zero_line=True, empty=empty)


def _over_time(outcome: Outcome) -> Content:
    """Lethal doses against the time of exposure, a line for each treatment."""
    courses = outcome.part.over_time if isinstance(outcome.part, MortalityPart) else ()
    traces = []
    for course in courses:
        known = [point for point in course.points if point.dose.value is not None]
        dots = tuple(Dot(p.time, p.dose.value or 0.0, low=p.dose.lower, high=p.dose.upper) for p in known)
        line = tuple((dot.x, dot.y) for dot in dots)
        traces.append(Trace(key=course.name, name=literal(course.name), dots=dots, line=line, count=len(dots)))
    lead = next(iter(outcome.answers.leads), None)
    x = label("Time of exposure", courses[0].unit if courses else "")
    y = label(literal(lead.name if lead else "LC50"), outcome.level_unit)
    empty = "" if any(trace.dots for trace in traces) else "No time point has a lethal dose yet."
    count = sum(len(course.points) for course in courses) - sum(trace.count for trace in traces)
    return Content(tuple(traces), x, y, empty=empty, bars=_interval_of(lead), lost=_lost(count, "time point", "dose"))


def _answers(outcome: Outcome) -> Content:
    table, lead = outcome.answers, next(iter(outcome.answers.leads), None)
    if lead is None or not table.rows:
        return Content((), "", "", empty="This run has no answers to draw yet.")
    dots = tuple(
        Dot(value, -float(i), low=lead.lowers[i] if lead.lowers else None, high=lead.uppers[i] if lead.uppers else None)
        for i, value in enumerate(lead.values)
        if value is not None
    )
    trace = Trace(key="", name="", dots=dots, count=len(dots))
    empty = "" if dots else "None of the answers is a number."
    names = tuple(literal(row.name) for row in table.rows)
    return Content(
        (trace,), label(literal(lead.name), lead.unit), "", names=names, empty=empty, bars=_interval_of(lead),
        lost=_lost(len(names) - len(dots), "answer", "number"),
    )  # fmt: skip


def _interval_of(lead: AnswerColumn | None) -> str:
    return f"{100 * lead.level:g} % interval" if lead is not None and lead.level and lead.lowers else ""


def _lost(count: int, what: str, without: str) -> str:
    if not count:
        return ""
    have = f"1 {what} has" if count == 1 else f"{count:,} {what}s have"
    return f"{have} no {without}, so no point."


def _first_sentence(text: str) -> str:
    """What a comparison came to, without the rest of what is said of it."""
    first = text.replace("**", "").partition(". ")[0].rstrip(".")
    return literal(f"{first}.")


def _number(text: str) -> float | None:
    try:
        return float(text.split(maxsplit=1)[0].replace("−", "-"))
    except (ValueError, IndexError):
        return None
