"""A curve as it is drawn and listed: the part of an outcome that a figure is made of."""

from dataclasses import KW_ONLY
from typing import Literal

from dosis.run.record import light
from dosis.run.roles import Role


@light
class ParameterRow:
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


@light
class Candidate:
    """One curve model on these standards, for comparison side by side.

    about_zero : whether its R² is, having no constant, and so is not to be held against one about the mean.
    """

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
    about_zero: bool = False


@light
class Point:
    """A standard's reading on the curve."""

    reading: int
    group: str
    x: float
    y: float
    residual: float | None
    state: Literal["used", "excluded", "outside"]
    at: int | None = None  # of a reading that is a curve, which place of the axis it is


@light
class SamplePoint:
    """A sample or QC on the curve, at its read-back concentration; `reading` where each reading has its own."""

    _: KW_ONLY
    group: str
    reading: int | None = None
    role: Role
    x: float
    y: float


@light
class MeanPoint:
    """The mean response at a dose, with its bar (SD) and the bounds of its interval."""

    x: float
    y: float
    sd: float | None = None
    sem: float | None = None
    lower: float | None = None
    upper: float | None = None


@light
class Mark:
    """A place on the curve with its name, from which lines drop to the axes."""

    x: float
    y: float
    text: str


@light
class Line:
    """The curve as drawn: y, and the 95 % bands of the curve and of one more reading (empty without a spread)."""

    x: tuple[float, ...]
    y: tuple[float, ...]
    lower: tuple[float, ...]
    upper: tuple[float, ...]
    one_lower: tuple[float, ...] = ()
    one_upper: tuple[float, ...] = ()


@light
class Statistic:
    """A statistic of the fit, as listed.

    working : the id of its working, empty without one; guide : its paragraph in the guide.
    """

    name: str
    shown: str
    working: str = ""
    guide: str = ""


@light
class Span:
    """A range of concentrations."""

    lower: float
    upper: float


@light
class Suggestion:
    """A change Dosis proposes and a person may take: the straight part of a bent curve, another curve, or weights."""

    lower: float | None
    upper: float | None
    text: str
    action: str
    model: str = ""  # another curve, when that is what is proposed
    weights: str = ""  # or other weights


@light
class Curve:
    """The fitted curve with all that is drawn or listed of it.

    key : the plate or series it belongs to, where there are several; tag : begins the ids of its parameters' working.
    reading : of readings that are curves, the one that it is of, or the first of those it is the mean of.
    turned : whether the concentration was fitted on the signal; residuals are then concentrations.
    ruler : percentages at equal steps of the link's scale, on which the line is straight.
    own : whether its series is fitted by a setting of its own.
    brief : one of a wall, without points, bands, parameters, statistics and their working until it is looked at.
    """

    _: KW_ONLY
    key: str = ""
    tag: str = ""
    reading: int | None = None
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
    thinned: bool = False  # whether of very many points those are drawn that keep its shape
    ruler: tuple[float, ...] = ()
    suggestion: Suggestion | None = None
    problem: str = ""
