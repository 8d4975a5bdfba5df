"""The bench of rates: courses along one axis of time, and what was found of each."""

from dataclasses import dataclass, field

import numpy as np

from dosis.core.arrays import Array, Flags
from dosis.core.fitting.batch import BatchFit
from dosis.core.inference.result import Fit
from dosis.core.kinetics import InhibitionFit, Lines, Steepest
from dosis.run.bench import Bench
from dosis.run.layout import Group, Quantity
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.value import Value
from dosis.run.questions.rate.part import Straightened
from dosis.run.roles import Role

FEW = 24  # courses up to which each is drawn and listed in full
POINTS = 4_000  # points of all of them, the same


@dataclass(frozen=True)
class Course:
    """One course: the reading it is, the group it is a replicate of, its row among the numbers, and its name."""

    id: int
    group: Group
    row: int
    key: str
    index: int


@dataclass
class Found:
    """One thing found of every course, (courses,), with its standard error and degrees of freedom where it has them.

    per : "rate" for what is y over time and can be brought to real units, else "". positive : above zero by meaning.
    """

    id: str
    name: str
    unit: str
    values: Array
    errors: Array
    df: Array
    per: str = ""
    positive: bool = False
    lead: bool = False


@dataclass(frozen=True)
class Estimated:
    """What a group comes to: the value, its standard error and the degrees of freedom of that."""

    name: str
    value: float
    error: float | None
    df: float


@dataclass
class Second:
    """A curve of what was found against the level: one series, its points by group and reading, and its fit."""

    key: str
    tag: str
    groups: list[Group] = field(default_factory=list)
    ids: list[int] = field(default_factory=list)
    x: list[float] = field(default_factory=list)
    y: list[float] = field(default_factory=list)
    fit: Fit | None = None
    kinds: list[InhibitionFit] = field(default_factory=list)
    family: dict[str, float] = field(default_factory=dict)
    inhibitor: list[float] = field(default_factory=list)
    of_series: list[str] = field(default_factory=list)
    problem: str = ""
    straightened: tuple[Straightened, ...] = ()
    values: dict[str, Value] = field(default_factory=dict)


@dataclass
class RateBench(Bench):
    """x : the times (n,). y : (readings, n), NaN where nothing was read or a point is left out.

    raw : y with every point, as the steps have left it, for drawing. left_out : (readings, n), by a person.
    tangent : the slope where each course begins, where the window was cut short because they bend.
    inside : (courses, n), which points a rate is taken over. windows : of single series, by name.
    """

    x: Array = field(init=False)
    y: Array = field(init=False)
    left_out: Flags = field(init=False)
    time: Quantity = field(init=False)
    quantity: Quantity = field(init=False)
    row_of: dict[int, int] = field(init=False)
    courses: list[Course] = field(default_factory=list)
    inside: Flags = field(init=False)
    window: tuple[float, float] | None = None
    proposed: str = ""
    lines: Lines | None = None
    batch: BatchFit | None = None
    fits: dict[int, Fit] = field(default_factory=dict)
    problems: dict[int, str] = field(default_factory=dict)
    steep: Steepest | None = None
    logged: bool = False
    found: list[Found] = field(default_factory=list)
    factor: float = 1.0
    of_groups: dict[str, dict[str, Value]] = field(default_factory=dict)
    estimated: list[Estimated] = field(default_factory=list)
    comparisons: list[Comparison] = field(default_factory=list)
    seconds: list[Second] = field(default_factory=list)
    second_of: str = ""
    bend: Array | None = None
    tangent: Found | None = None
    lost_logs: int = 0

    def __post_init__(self) -> None:
        super().__post_init__()
        recording = self.readings.curves
        self.x, self.y = recording.x, recording.y.copy()
        self.row_of = {id: row for row, id in enumerate(self.readings.by_id)}
        self.left_out = np.zeros(self.y.shape, dtype=bool)
        for each in self.layout.exclusions:
            if each.at is not None and each.at < self.x.size:
                self.left_out[self.row_of[each.reading], each.at] = True
        axis = self.readings.axis
        self.time = axis.quantity if axis else Quantity(name="Time")
        self.quantity = self.layout.signal
        self.inside = np.zeros((0, self.x.size), dtype=bool)

    def sort(self) -> None:
        """Put the courses that count on the bench, in the order of the layout."""
        names: dict[str, int] = {}
        self.courses = []
        for group in self.groups(Role.POINT):
            several = len(group.readings) > 1
            for i, id in enumerate(group.readings, start=1):
                key = f"{group.name} · {i}" if several else group.name
                names[key] = names.get(key, 0) + 1
                if names[key] > 1:
                    key = f"{key} ({names[key]})"
                if id not in self.why_not:
                    self.courses.append(Course(id, group, self.row_of[id], key, len(self.courses)))
        self.inside = np.zeros((len(self.courses), self.x.size), dtype=bool)

    @property
    def rows(self) -> list[int]:
        """Where the courses stand among the numbers."""
        return [course.row for course in self.courses]

    @property
    def taken(self) -> Array:
        """y of the courses, (courses, n), without the points that are left out by a person."""
        rows = self.rows
        return np.where(self.left_out[rows], np.nan, self.y[rows])

    @property
    def many(self) -> bool:
        """Whether the courses are so many that each is drawn and listed in full when it is looked at."""
        return len(self.courses) > FEW or len(self.courses) * self.x.size > POINTS

    @property
    def rate_unit(self) -> str:
        """Of y over time."""
        return per(self.quantity.unit, self.time.unit)

    @property
    def level(self) -> Quantity:
        """What rates are held against; a temperature in °C, in which its models are written."""
        own = self.layout.level
        if own.unit in ("°C", "K"):
            return Quantity(name="Temperature" if own.name == "Concentration" else own.name, unit="°C")
        return own

    def lead(self) -> Found | None:
        """What the run was asked for of every course."""
        return next((each for each in self.found if each.lead), None)

    def result_of(self, group: Group) -> Value | None:
        """What a group comes to."""
        first = self.lead()
        return self.of_groups.get(group.id, {}).get(first.id) if first else None

    def text_of(self, id: int) -> str:
        """What a course comes to, as it is shown."""
        value = self.values.get(id)
        return "—" if value is None else Value.of(value, None, None).shown


def per(unit: str, by: str) -> str:
    """ "AU/s" of AU and s, "1/s" without the first."""
    return f"{unit or '1'}/{by}" if by else unit
