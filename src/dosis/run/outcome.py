"""Outcome: everything the screen, the exports and the reviewer see of a run. The front end computes none of it.

Every number stands here twice: in full, and as the text to show.
"""

import math
from dataclasses import KW_ONLY
from enum import StrEnum
from functools import lru_cache
from typing import Literal

from pydantic import Field

from dosis.core.rounding import with_interval
from dosis.run.drawn import Curve
from dosis.run.layout import Role
from dosis.run.record import Record, light


class State(StrEnum):
    """How a check, a step or a run stands."""

    PASS = "pass"
    LOOK = "look"
    FAIL = "fail"


@light
class ReadingOutcome:
    """One reading after the blank; `why` says why it is not used.

    deviation : of a well from its curve, or from the mean of its group.
    """

    id: int
    corrected: float | None
    shown: str
    used: bool
    why: str = ""
    deviation: float | None = None
    shown_deviation: str = ""
    suspect: str = ""  # why an outlier test points at it among its replicates
    aside: str = ""  # why it is no part of the curve, though nobody excluded it: its level is left out


@light
class GroupOutcome:
    """A group as the plate shows it: its result, where it has one, and how far its replicates agree."""

    id: str
    result: float | None
    shown_result: str
    cv: float | None
    shown_cv: str


@light
class WorkingLine:
    """One line of the working behind a value: a label, then either one cell for each reading or a calculation."""

    step: str
    label: str
    cells: tuple[str, ...] = ()
    text: str = ""
    result: str = ""
    value: float | None = None


@light
class Value:
    """A concentration with its interval. A value outside the standards is a bound (`censor`), not a number."""

    value: float | None = None
    lower: float | None = None
    upper: float | None = None
    censor: Literal["", ">", "<", "≤"] = ""
    shown: str = "—"
    shown_lower: str = ""
    shown_upper: str = ""

    @classmethod
    @lru_cache(maxsize=8192)  # a run is worked through again at every key, and most of its numbers have not changed
    def of(cls, estimate: float, lower: float | None, upper: float | None) -> "Value":
        """A number with its interval, shown to the place that the interval decides; an endless end is none."""
        # What is kept is found again by what equals it, and −0.0 equals 0.0: here a zero has no sign.
        estimate += 0.0
        lower, upper = (end + 0.0 if end is not None and math.isfinite(end) else None for end in (lower, upper))
        shown, shown_lower, shown_upper = with_interval(estimate, lower, upper)
        return cls(value=estimate, lower=lower, upper=upper, shown=shown, shown_lower=shown_lower,
                   shown_upper=shown_upper)  # fmt: skip


@light
class Remark:
    """Something to know about an answer, in a few words and in a sentence with the way out."""

    state: State
    short: str
    text: str


@light
class Answer:
    """A sample or QC read back.

    key : one of its kind in the run; the group's id, or with what tells this reading or plate from the group's others.
    reading : the one reading it is of, where each has its own answer. curve : the key of the curve it was read through.
    """

    _: KW_ONLY
    group: str
    key: str = ""
    reading: int | None = None
    curve: str = ""
    role: Role
    name: str
    n: int
    n_all: int
    signal: float | None
    shown_signal: str
    sd: float | None
    cv: float | None
    shown_cv: str
    dilution: float
    shown_dilution: str
    in_reading: Value
    in_sample: Value
    nominal: float | None = None
    recovery: float | None = None
    shown_recovery: str = ""
    recovery_lower: float | None = None
    recovery_upper: float | None = None
    remarks: tuple[Remark, ...] = ()


@light
class EffectDose:
    """The dose with an effect of so many percent.

    relative : of the way between the curve's plateaus; absolute : on the scale of the references; between : by a
        straight line between the two doses around it.
    """

    percent: float
    relative: Value = Value()
    absolute: Value = Value()
    between: Value = Value()


@light
class EffectShape:
    """What else a curve says of its series, each with its interval; as in `Effect`."""

    minus_log: Value = Value()
    slope: Value = Value()
    lower: Value = Value()
    upper: Value = Value()
    area: Value = Value()


class Effect(Record):
    """What a series of doses does.

    symbol : one for the run, "IC" where all that show an effect fall, else "EC"; of counts "LC" or "LD".
    minus_log : −log10 of the leading relative dose, of mol/L where the unit is molar. area : under the curve, over log
        dose. other : the relative half-effect dose on the other scale, raw beside normalized.
    shape : the same and the plateaus, with intervals.
    spearman, trimmed : of counts, Spearman and Kärber's mean, plain and trimmed; shown_fit : chi-square of the line.
    """

    series: str
    name: str
    group: str
    n: int
    symbol: Literal["IC", "EC", "LC", "LD"] = "EC"
    doses: tuple[EffectDose, ...]
    minus_log: float | None = None
    shown_minus_log: str = "—"
    slope: float | None = None
    shown_slope: str = "—"
    shown_plateaus: str = "—"
    area: float | None = None
    shown_area: str = "—"
    shape: EffectShape = EffectShape()
    other: Value = Value()
    r_squared: float | None = None
    shown_r_squared: str = "—"
    about_zero: bool = False  # whether R² is, the model having no constant
    spearman: Value = Value()
    trimmed: Value = Value()
    shown_fit: str = ""
    remarks: tuple[Remark, ...] = ()


@light
class Comparison:
    """Two series beside each other, in words: whether one curve serves both, and how their half-effect doses stand."""

    reference: str
    name: str
    state: State
    text: str
    ratio: Value = Value()
    working: str = ""


@light
class TimePoint:
    """The leading effect dose of a treatment after some time; `series` is the one it was counted in."""

    series: str
    time: float
    dose: Value


@light
class TimeCourse:
    """How the lethal dose of a treatment falls with time, in rising order."""

    name: str
    unit: str
    points: tuple[TimePoint, ...]


@light
class StepOutcome:
    """A step in one sentence (**bold** marks its numbers) and the state of its checks.

    verdict : what the verdict says of it, where something is not as it should be that no check tells of.
    """

    kind: str
    title: str
    sentence: str
    state: State
    verdict: str = ""


@light
class Check:
    """A check: what was asked, what was found, and what to do."""

    id: str
    title: str
    state: State
    found: str
    threshold: str
    why: str
    groups: tuple[str, ...] = ()
    verdict: str = ""  # what the verdict says of it when it does not pass
    working: str = ""  # the id of its working, empty without one


@light
class SignalColumn:
    """A column that can be the signal; `mean` is that over all readings, to find the peak of a scan by."""

    name: str
    unit: str
    derived: bool
    mean: float | None


@light
class VerdictPart:
    """A piece of the verdict's text; one that names a group leads to it."""

    text: str
    group: str | None = None


@light
class Verdict:
    """The one-line conclusion."""

    state: State
    headline: str
    detail: tuple[VerdictPart, ...]
    passed: int
    to_look_at: int
    failed: int


@light
class ReferenceOutcome:
    """What counts as no effect, or as the full one, on a plate, in a series or the run.

    readings : those it is of; none of a typed value.
    """

    scope: str
    end: Literal["none", "full"]
    value: float
    shown: str
    readings: tuple[int, ...] = ()


class Outcome(Record):
    """All of a run's answers and how they came about."""

    signal_label: str
    level_unit: str
    readings: tuple[ReadingOutcome, ...]
    groups: tuple[GroupOutcome, ...] = ()
    steps: tuple[StepOutcome, ...]
    curve: Curve
    curves: tuple[Curve, ...] = ()  # all of them, where there are several; `curve` is the first
    answers: tuple[Answer, ...]
    effects: tuple[Effect, ...] = ()
    comparisons: tuple[Comparison, ...] = ()
    over_time: tuple[TimeCourse, ...] = ()
    checks: tuple[Check, ...]
    verdict: Verdict
    references: tuple[ReferenceOutcome, ...] = ()
    columns: tuple[SignalColumn, ...] = ()
    peak_column: str = ""
    layout: tuple[Remark, ...] = ()
    working: dict[str, tuple[WorkingLine, ...]] = Field(default_factory=dict)
