"""Outcome: everything the screen, the exports and the reviewer see of a run. The front end computes none of it.

Every number stands here twice: in full, and as the text to show.
"""

from enum import StrEnum
from typing import Any, Literal

from pydantic import Field, model_validator

from dosis.core.rounding import with_interval
from dosis.run.layout import Role
from dosis.run.record import Record


class State(StrEnum):
    """How a check, a step or a run stands."""

    PASS = "pass"
    LOOK = "look"
    FAIL = "fail"


class ReadingOutcome(Record):
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


class GroupOutcome(Record):
    """A group as the plate shows it: its result, where it has one, and how far its replicates agree."""

    id: str
    result: float | None
    shown_result: str
    cv: float | None
    shown_cv: str


class WorkingLine(Record):
    """One line of the working behind a value: a label, then either one cell for each reading or a calculation."""

    step: str
    label: str
    cells: tuple[str, ...] = ()
    text: str = ""
    result: str = ""
    value: float | None = None


class Value(Record):
    """A concentration with its interval. A value outside the standards is a bound (`censor`), not a number."""

    value: float | None = None
    lower: float | None = None
    upper: float | None = None
    censor: Literal["", ">", "<", "≤"] = ""
    shown: str = "—"
    shown_lower: str = ""
    shown_upper: str = ""

    @classmethod
    def of(cls, estimate: float, lower: float | None, upper: float | None) -> "Value":
        """A number with its interval, shown to the place that the interval decides."""
        shown, shown_lower, shown_upper = with_interval(estimate, lower, upper)
        return cls(value=estimate, lower=lower, upper=upper, shown=shown, shown_lower=shown_lower,
                   shown_upper=shown_upper)  # fmt: skip


class Remark(Record):
    """Something to know about an answer, in a few words and in a sentence with the way out."""

    state: State
    short: str
    text: str


class Answer(Record):
    """A sample or QC read back.

    key : one of its kind in the run; the group's id, or with what tells this reading or plate from the group's others.
    reading : the one reading it is of, where each has its own answer. curve : the key of the curve it was read through.
    """

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


class EffectDose(Record):
    """The dose with an effect of so many percent.

    relative : of the way between the curve's plateaus; absolute : on the scale of the references; between : by a
        straight line between the two doses around it.
    """

    percent: float
    relative: Value = Value()
    absolute: Value = Value()
    between: Value = Value()


class EffectShape(Record):
    """What else a curve says of its series, each with its interval; as in `Effect`."""

    minus_log: Value = Value()
    slope: Value = Value()
    lower: Value = Value()
    upper: Value = Value()
    area: Value = Value()


class Effect(Record):
    """What a series of doses does. symbol : "IC" of a falling curve, "EC" of a rising one; "LC" or "LD" of counts.

    minus_log : −log10 of the leading relative dose, of mol/L where the unit is molar. area : under the curve, over log
        dose. other : the relative half-effect dose on the other scale, raw beside normalized.
    shape : the same and the plateaus, with intervals.
    spearman, trimmed : of counts, Spearman and Kärber's mean, plain and trimmed; shown_fit : chi-square of the line.
    """

    @model_validator(mode="before")
    @classmethod
    def _shaped(cls, data: Any) -> Any:
        """Counts, and what was stored before there were intervals, have the numbers alone."""
        if not isinstance(data, dict) or "shape" in data:
            return data
        names = [name for name in ("minus_log", "slope", "area") if data.get(name) is not None]
        bare = {name: {"value": data[name], "shown": data.get(f"shown_{name}", "—")} for name in names}
        return {**data, "shape": bare}

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
    spearman: Value = Value()
    trimmed: Value = Value()
    shown_fit: str = ""
    remarks: tuple[Remark, ...] = ()


class Comparison(Record):
    """Two series beside each other, in words: whether one curve serves both, and how their half-effect doses stand."""

    reference: str
    name: str
    state: State
    text: str
    ratio: Value = Value()
    working: str = ""


class TimePoint(Record):
    """The leading effect dose of a treatment after some time; `series` is the one it was counted in."""

    series: str
    time: float
    dose: Value


class TimeCourse(Record):
    """How the lethal dose of a treatment falls with time, in rising order."""

    name: str
    unit: str
    points: tuple[TimePoint, ...]


class StepOutcome(Record):
    """A step in one sentence (**bold** marks its numbers) and the state of its checks."""

    kind: str
    title: str
    sentence: str
    state: State


class Check(Record):
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


class SignalColumn(Record):
    """A column that can be the signal; `mean` is that over all readings, to find the peak of a scan by."""

    name: str
    unit: str
    derived: bool
    mean: float | None


class ParameterRow(Record):
    """A fitted parameter as the working shows it."""

    name: str
    unit: str
    estimate: float
    standard_error: float | None
    lower: float | None
    upper: float | None
    p_value: float | None
    shown: str
    shown_interval: str
    shown_p: str


class Candidate(Record):
    """One curve model on these standards, for comparison side by side."""

    model: str
    name: str
    chosen: bool
    rmse: float | None
    r_squared: float | None
    aicc: float | None
    lack_of_fit_p: float | None
    shown_rmse: str
    shown_r_squared: str
    shown_aicc: str
    shown_lack_of_fit: str
    missed: float | None = None  # how far, on average, the standards read back from what they are
    shown_missed: str = "—"


class Point(Record):
    """A standard's reading on the curve."""

    reading: int
    group: str
    x: float
    y: float
    residual: float | None
    state: Literal["used", "excluded", "outside"]


class SamplePoint(Record):
    """A sample or QC on the curve, at its read-back concentration; `reading` where each reading has its own."""

    group: str
    reading: int | None = None
    role: Role
    x: float
    y: float


class MeanPoint(Record):
    """The mean response at a dose, with its bar (SD) and the bounds of its interval."""

    x: float
    y: float
    sd: float | None = None
    sem: float | None = None
    lower: float | None = None
    upper: float | None = None


class Mark(Record):
    """A place on the curve with its name, from which lines drop to the axes."""

    x: float
    y: float
    text: str


class Line(Record):
    """The curve as drawn: y, and the 95 % bands of the curve and of one more reading (empty without a spread)."""

    x: tuple[float, ...]
    y: tuple[float, ...]
    lower: tuple[float, ...]
    upper: tuple[float, ...]
    one_lower: tuple[float, ...] = ()
    one_upper: tuple[float, ...] = ()


class Statistic(Record):
    """A statistic of the fit, as listed; `working` is the id of its working, empty without one."""

    name: str
    shown: str
    working: str = ""


class Span(Record):
    """A range of concentrations."""

    lower: float
    upper: float


class Suggestion(Record):
    """A change Dosis proposes and a person may take: the straight part of a bent curve, or another curve."""

    lower: float | None
    upper: float | None
    text: str
    action: str
    model: str = ""  # another curve, when that is what is proposed


class Curve(Record):
    """The fitted curve with all that is drawn or listed of it.

    key : the plate or series it belongs to, where there are several; tag : begins the ids of its parameters' working.
    turned : whether the concentration was fitted on the signal; residuals are then concentrations.
    ruler : percentages at equal steps of the link's scale, on which the line is straight.
    own : whether its series is fitted by a setting of its own.
    brief : one of a wall, without points, bands, parameters, statistics and their working until it is looked at.
    """

    key: str = ""
    tag: str = ""
    brief: bool = False
    own: bool = False
    turned: bool = False
    model: str
    name: str
    equation: str
    with_numbers: str
    x_label: str
    y_label: str
    parameters: tuple[ParameterRow, ...]
    candidates: tuple[Candidate, ...]
    comparison: str = ""
    statistics: tuple[Statistic, ...]
    limits: tuple[Statistic, ...] = ()
    points: tuple[Point, ...]
    samples: tuple[SamplePoint, ...]
    means: tuple[MeanPoint, ...] = ()
    marks: tuple[Mark, ...] = ()
    line: Line
    range: Span | None
    shown_range: str
    working: Span | None = None
    shown_working: str = ""
    logarithmic: bool = False  # whether the concentrations are better seen on a log axis
    levels: tuple[float, ...]
    rmse: float | None = None
    ruler: tuple[float, ...] = ()
    suggestion: Suggestion | None = None
    problem: str = ""


class VerdictPart(Record):
    """A piece of the verdict's text; one that names a group leads to it."""

    text: str
    group: str | None = None


class Verdict(Record):
    """The one-line conclusion."""

    state: State
    headline: str
    detail: tuple[VerdictPart, ...]
    passed: int
    to_look_at: int
    failed: int


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
    columns: tuple[SignalColumn, ...] = ()
    peak_column: str = ""
    layout: tuple[Remark, ...] = ()
    working: dict[str, tuple[WorkingLine, ...]] = Field(default_factory=dict)
