"""Runs side by side: which settings differ, whether curves are the same, how answers they share agree."""

import math
from collections.abc import Sequence
from statistics import NormalDist, fmean, stdev

from dosis.core.distributions import chi2_upper_p
from dosis.core.rounding import p_value, significant
from dosis.run.layout import Layout
from dosis.run.method import Method
from dosis.run.outcome.drawn import Curve, ParameterRow
from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import Value
from dosis.run.record import Record
from dosis.run.steps.step import plain
from dosis.run.together import Together, together

Z = NormalDist().inv_cdf(0.975)
DIFFERENT = 0.05  # p below which parameters are said to differ
LEAST = 3  # answers from which limits of agreement are told


class Beside(Record):
    """A run to be compared."""

    id: int
    title: str
    layout: Layout
    method: Method
    outcome: Outcome


class SettingRow(Record):
    """A setting that is not the same in all; a text for each run, empty where it has no such step."""

    what: str
    values: tuple[str, ...]


class ParameterCompared(Record):
    """A parameter of curves of the same model: estimate and interval for each run, and p of their being the same.

    p : of the test of homogeneity Σ (θᵢ − θ̄)² ÷ SEᵢ², chi-squared with one degree of freedom fewer than runs (Cochran
    1954); None where a run has no standard error or another unit.
    """

    curve: str
    name: str
    unit: str
    values: tuple[str, ...]
    intervals: tuple[str, ...]
    p: float | None
    shown_p: str
    differs: bool


class AnswerCompared(Record):
    """An answer that two runs or more share by its name, and what the others differ from the first by."""

    name: str
    values: tuple[float | None, ...]
    shown: tuple[str, ...]
    intervals: tuple[str, ...]
    differences: tuple[str, ...]
    ratios: tuple[str, ...]


class Agreement(Record):
    """How answers of a run agree with those of the first: their mean difference and where 95 % of differences lie.

    Bland & Altman (1986), Lancet 327: 307–310; of logarithms where all are above zero, and so as a ratio.
    """

    run: int
    n: int
    ratio: bool
    mean: float
    lower: float
    upper: float
    said: str
    firsts: tuple[float, ...]
    others: tuple[float, ...]


class Compared(Record):
    """Runs side by side. unit : of the answers; empty where they are of different units and so not compared."""

    runs: tuple[int, ...]
    titles: tuple[str, ...]
    settings: tuple[SettingRow, ...]
    parameters: tuple[ParameterCompared, ...]
    answers: tuple[AnswerCompared, ...]
    agreement: tuple[Agreement, ...]
    unit: str
    together: tuple[Together, ...]
    notes: tuple[str, ...]


def compared(runs: Sequence[Beside]) -> Compared:
    """Two runs or more. Pure.

    Raises
    ------
    ValueError : for fewer than two.
    """
    if len(runs) < 2:
        raise ValueError("Choose two runs or more to compare.")
    notes: list[str] = []
    answers, unit = _answers(runs, notes)
    return Compared(
        runs=tuple(run.id for run in runs), titles=tuple(run.title for run in runs), settings=tuple(_settings(runs)),
        parameters=tuple(_parameters(runs, notes)), answers=answers, agreement=tuple(_agreement(runs, answers, unit)),
        unit=unit, together=together(runs), notes=tuple(notes),
    )  # fmt: skip


def _settings(runs: Sequence[Beside]) -> list[SettingRow]:
    found: dict[str, list[str]] = {"Question": [run.method.question for run in runs]}
    for at, run in enumerate(runs):
        for step in run.method.steps:
            for field, value in step.model_dump(mode="json").items():
                if field != "kind":
                    name = f"{step.title} · {step.names.get(field, field.replace('_', ' '))}"
                    found.setdefault(name, [""] * len(runs))[at] = plain(field, value)
    return [SettingRow(what=what, values=tuple(own)) for what, own in found.items() if len(set(own)) > 1]


def _parameters(runs: Sequence[Beside], notes: list[str]) -> list[ParameterCompared]:
    curves = [{curve.key: curve for curve in run.outcome.curves} for run in runs]
    shared = [key for key in curves[0] if all(key in own for own in curves)]
    if not shared and all(len(own) == 1 for own in curves):
        return _rows("", [next(iter(own.values())) for own in curves], notes)
    return [row for key in shared[:24] for row in _rows(key, [own[key] for own in curves], notes)]


def _rows(key: str, curves: Sequence[Curve], notes: list[str]) -> list[ParameterCompared]:
    if len({curve.model for curve in curves}) > 1:
        notes.append(f"The curves{f' of {key}' if key else ''} are of different models, so their parameters differ by "
                     "what they mean.")  # fmt: skip
        return []
    by_name = [{row.name: row for row in curve.parameters} for curve in curves]
    return [_row(key, name, [own[name] for own in by_name]) for name in by_name[0] if all(name in o for o in by_name)]


def _row(key: str, name: str, rows: Sequence[ParameterRow]) -> ParameterCompared:
    p = _same(rows)
    return ParameterCompared(
        curve=key, name=name, unit=rows[0].unit, values=tuple(row.shown for row in rows),
        intervals=tuple(row.shown_interval for row in rows), p=p, shown_p="" if p is None else p_value(p),
        differs=p is not None and p < DIFFERENT,
    )  # fmt: skip


def _same(rows: Sequence[ParameterRow]) -> float | None:
    errors = [row.standard_error for row in rows]
    if len({row.unit for row in rows}) > 1 or any(error is None or error <= 0 for error in errors):
        return None
    weights = [1 / error**2 for error in errors if error]
    mean = math.fsum(w * row.estimate for w, row in zip(weights, rows, strict=True)) / math.fsum(weights)
    q = math.fsum(w * (row.estimate - mean) ** 2 for w, row in zip(weights, rows, strict=True))
    return chi2_upper_p(q, len(rows) - 1)


def _answers(runs: Sequence[Beside], notes: list[str]) -> tuple[tuple[AnswerCompared, ...], str]:
    leads = [next(iter(run.outcome.answers.leads), None) for run in runs]
    units = {lead.unit for lead in leads if lead is not None}
    if len(units) > 1:
        notes.append(f"The answers are in different units ({', '.join(sorted(units))}) and are not compared.")
        return (), ""
    of: list[dict[str, Value]] = []
    for run, lead in zip(runs, leads, strict=True):
        own: dict[str, Value] = {}
        for i, row in enumerate(run.outcome.answers.rows if lead else ()):
            if lead is not None:
                own.setdefault(row.name, lead.value(i))
        of.append(own)
    names = [name for own in of for name in own]
    shared = [name for name in dict.fromkeys(names) if sum(name in own for own in of) > 1]
    return tuple(_answer(name, [own.get(name) for own in of]) for name in shared), next(iter(units), "")


def _answer(name: str, values: Sequence[Value | None]) -> AnswerCompared:
    first = values[0]
    differences, ratios = [""], [""]
    for other in values[1:]:
        differences.append(_difference(first, other))
        ratios.append(_ratio(first, other))
    return AnswerCompared(
        name=name, values=tuple(None if v is None else v.value for v in values),
        shown=tuple("" if v is None else v.shown for v in values),
        intervals=tuple(
            "" if v is None or v.lower is None or v.upper is None or v.censor else f"{v.shown_lower} – {v.shown_upper}"
            for v in values
        ),
        differences=tuple(differences), ratios=tuple(ratios),
    )  # fmt: skip


def _half(value: Value) -> float | None:
    return None if value.lower is None or value.upper is None else (value.upper - value.lower) / 2


def _difference(first: Value | None, other: Value | None) -> str:
    """The other minus the first, with the interval of two that err by themselves."""
    if first is None or other is None or first.value is None or other.value is None:
        return ""
    difference, halves = other.value - first.value, (_half(first), _half(other))
    if halves[0] is None or halves[1] is None:
        return significant(difference, 3)
    half = math.hypot(halves[0], halves[1])
    return f"{significant(difference, 3)} ({significant(difference - half, 3)} to {significant(difference + half, 3)})"


def _ratio(first: Value | None, other: Value | None) -> str:
    if first is None or other is None or not first.value or other.value is None or first.value * other.value <= 0:
        return ""
    ratio, halves = other.value / first.value, (_half(first), _half(other))
    if halves[0] is None or halves[1] is None:
        return significant(ratio, 3)
    spread = math.hypot(halves[0] / first.value, halves[1] / other.value)
    return f"{significant(ratio, 3)} ({significant(ratio / math.exp(spread), 3)} to "\
           f"{significant(ratio * math.exp(spread), 3)})"  # fmt: skip


def _agreement(runs: Sequence[Beside], answers: Sequence[AnswerCompared], unit: str) -> list[Agreement]:
    made = []
    for at, run in enumerate(runs[1:], start=1):
        pairs = [
            (a, b) for each in answers if (a := each.values[0]) is not None and (b := each.values[at]) is not None
        ]  # fmt: skip
        if len(pairs) < LEAST:
            continue
        ratio = all(a > 0 and b > 0 for a, b in pairs)
        off = [math.log(b / a) if ratio else b - a for a, b in pairs]
        mean, half = fmean(off), Z * stdev(off)
        ends = [mean - half, mean, mean + half]
        low, middle, high = (math.exp(end) for end in ends) if ratio else ends
        what = "ratio" if ratio else f"difference{f' in {unit}' if unit else ''}"
        said = f"{run.title} to {runs[0].title}: mean {what} {significant(middle, 3)}; 95 % of {what}s lie between "\
               f"{significant(low, 3)} and {significant(high, 3)} ({len(pairs)} answers)."  # fmt: skip
        made.append(Agreement(run=run.id, n=len(pairs), ratio=ratio, mean=middle, lower=low, upper=high, said=said,
                              firsts=tuple(a for a, _ in pairs), others=tuple(b for _, b in pairs)))  # fmt: skip
    return made
