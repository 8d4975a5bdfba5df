"""The bench of spectra: scans along one axis, what the steps make of them, and what is read off."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from dosis.core.arrays import Array, Flags, alike
from dosis.core.inference.result import Fit
from dosis.core.rounding import fixed
from dosis.core.spectra import Mixture, Peak, PeakShape
from dosis.run.bench import Bench
from dosis.run.layout import Group, Quantity
from dosis.run.outcome.value import Value
from dosis.run.roles import Role

FEW = 60  # scans up to which each is drawn and listed in full
SCANS = (Role.POINT, Role.STANDARD)
STAGES = ("correct", "smooth", "combine")  # kinds of steps before and after which scans are looked at


@dataclass(frozen=True)
class Scan:
    """One scan as it is drawn: its readings, several where replicates are averaged, its group and its name."""

    ids: tuple[int, ...]
    group: Group
    key: str
    index: int

    @property
    def id(self) -> int:
        """The reading that stands for it."""
        return self.ids[0]


@dataclass
class Read:
    """One thing read off every scan: its values (scans,), as they are shown, with an interval where they have one.

    at : where on the axis, for what is read at one place. short : its name where there is little room.
    """

    id: str
    name: str
    unit: str
    cells: list[Value]
    at: float | None = None
    short: str = ""


@dataclass
class Followed:
    """How a series of scans changes over its levels: what is followed of it, the fits tried and the one chosen."""

    key: str
    tag: str
    scans: list[Scan] = field(default_factory=list)
    x: list[float] = field(default_factory=list)
    y: list[float] = field(default_factory=list)
    fits: dict[str, Fit] = field(default_factory=dict)
    chosen: str = ""
    problem: str = ""
    values: dict[str, Value] = field(default_factory=dict)

    @property
    def fit(self) -> Fit | None:
        """The chosen one."""
        return self.fits.get(self.chosen)


@dataclass
class SpectrumBench(Bench):
    """x : the axis (n,). y : (readings, n), as the steps have left it, NaN only before and after what was read.

    s : (scans, n), once replicates are brought together. before : x and y as they stood before the kind of step
    that is `wanted`. tallest : the greatest value of each reading, (readings,), before anything was taken off.
    plain : whether scans are as read or their means, so that replicates tell how sure a number is. twice : how many
    places stood on the axis more than once. bridged : how many gaps and left-out points within scans are bridged by a
    straight line.
    """

    x: Array = field(init=False)
    y: Array = field(init=False)
    s: Array = field(init=False)
    axis: Quantity = field(init=False)
    quantity: Quantity = field(init=False)
    row_of: dict[int, int] = field(init=False)
    scans: list[Scan] = field(default_factory=list)
    wanted: str = ""
    before: tuple[Array, Array] | None = None
    _spaced: tuple[Array, float] | None = field(default=None, init=False)  # of that axis, asked for with every number
    tallest: Array | None = None
    plain: bool = True
    twice: int = 0
    bridged: int = 0
    noise: Array = field(default_factory=lambda: np.empty(0))
    highest: list[Peak | None] = field(default_factory=list)
    peaks: list[list[PeakShape]] = field(default_factory=list)
    least: float = 0.0
    picked: list[list[PeakShape | None]] = field(default_factory=list)
    reads: list[Read] = field(default_factory=list)
    references: list[Scan] = field(default_factory=list)
    mixtures: dict[int, Mixture] = field(default_factory=dict)
    inside: Flags = field(init=False)
    changes: list[Followed] = field(default_factory=list)
    followed: str = ""
    followed_at: float | None = None
    isosbestic: list[float] = field(default_factory=list)

    def __post_init__(self) -> None:
        super().__post_init__()
        recording = self.readings.curves
        self.x, self.y = recording.x, recording.y.copy()
        self.row_of = {id: row for row, id in enumerate(self.readings.by_id)}
        for each in self.layout.exclusions:
            if each.at is not None and each.at < self.x.size:
                self.y[self.row_of[each.reading], each.at] = np.nan
        self._once_each()
        self.bridged = self.bridge()
        axis = self.readings.axis
        self.axis = axis.quantity if axis else Quantity(name="Wavelength", unit="nm")
        self.quantity = self.layout.signal
        self.s = np.empty((0, self.x.size))
        self.inside = np.ones(self.x.size, dtype=bool)

    def _once_each(self) -> None:
        """Places that stand on the axis twice are one, with the mean of what was read there."""
        places, starts = np.unique(self.x, return_index=True)
        self.twice = int(self.x.size - places.size)
        if not self.twice:
            return
        there = np.isfinite(self.y)
        with np.errstate(invalid="ignore"):
            sums = np.add.reduceat(np.where(there, self.y, 0.0), starts, axis=1)
            self.x, self.y = places, sums / np.add.reduceat(there, starts, axis=1, dtype=float)

    def bridge(self) -> int:
        """Fill gaps within scans by a straight line; how many places were filled."""
        count = 0
        at = np.arange(self.x.size)
        for row in np.flatnonzero(~np.isfinite(self.y).all(axis=1)):
            there = np.flatnonzero(np.isfinite(self.y[row]))
            if there.size < 2:
                continue
            gap = (at > there[0]) & (at < there[-1]) & ~np.isfinite(self.y[row])
            if gap.any():
                self.y[row, gap] = np.interp(self.x[gap], self.x[there], self.y[row, there])
                count += int(gap.sum())
        return count

    def stage(self, kind: str) -> None:
        """Keep how scans stand before a step where that is asked for, for the picture of before and after."""
        if kind == self.wanted:
            self.before = (self.x, self.y.copy())

    def over(self, work: Callable[[Array, Array], Array]) -> None:
        """Do something to all readings, those read at the same places together: work(x (m,), y (k, m)) gives y."""
        for rows, at in alike(np.isfinite(self.y)):
            if at.any():
                self.y[np.ix_(rows, np.flatnonzero(at))] = work(self.x[at], self.y[rows][:, at])

    def sort(self, *, mean: bool) -> None:
        """Put the scans on the bench in the order of the layout; replicates as one where their mean is wanted."""
        self.scans, rows = [], []
        names: dict[str, int] = {}
        for group in self.groups(*SCANS):
            used = [id for id in group.readings if id not in self.why_not]
            parts = [tuple(used)] if mean and used else [(id,) for id in used]
            for i, ids in enumerate(parts, start=1):
                key = f"{group.name} · {i}" if len(parts) > 1 else group.name
                names[key] = names.get(key, 0) + 1
                if names[key] > 1:
                    key = f"{key} ({names[key]})"
                self.scans.append(Scan(ids, group, key, len(self.scans)))
                own = self.y[[self.row_of[id] for id in ids]]
                rows.append(own.mean(axis=0) if len(own) > 1 else own[0])
        self.s = np.array(rows) if rows else np.empty((0, self.x.size))

    def part(self, scan: Scan) -> tuple[Array, Array]:
        """A scan where it was read: x and y, (m,) both."""
        y = self.s[scan.index]
        there = np.isfinite(y)
        return self.x[there], y[there]

    def at(self, y: Array, place: float) -> float:
        """The value of a row there, straight between points; NaN outside what was read."""
        there = np.isfinite(y)
        return value_at(self.x[there], y[there], place)

    def shown_place(self, place: float) -> str:
        """A place on the axis, shown to a tenth of the spacing of its points."""
        decimals = int(np.clip(1 - np.floor(np.log10(max(self.spacing, 1e-12))), 0, 6))
        return fixed(place, decimals)

    @property
    def scan_rows(self) -> list[int]:
        """Where the readings of the scans stand among all."""
        return [self.row_of[id] for scan in self.scans for id in scan.ids]

    @property
    def spans(self) -> Array:
        """From the least to the greatest value of every scan, (scans,); NaN of one without a value."""
        there = np.isfinite(self.s)
        most = np.where(there, self.s, -np.inf).max(axis=1, initial=-np.inf)
        least = np.where(there, self.s, np.inf).min(axis=1, initial=np.inf)
        spans: Array = np.where(there.any(axis=1), most - least, np.nan)
        return spans

    @property
    def spacing(self) -> float:
        """Of the points along the axis, in the middle."""
        if self._spaced is None or self._spaced[0] is not self.x:
            self._spaced = self.x, float(np.median(np.diff(self.x))) if self.x.size > 1 else 1.0
        return self._spaced[1]

    @property
    def many(self) -> bool:
        """Whether scans are so many that each is drawn in full only when it is looked at."""
        return len(self.readings.readings) > FEW

    def read(self, id: str) -> Read | None:
        """What was read off under that name."""
        return next((each for each in self.reads if each.id == id), None)

    def note_all(self, step: str, label: str, text: str) -> None:
        """Write the same line into the working of every scan."""
        for group in self.groups(*SCANS):
            self.note(group, step, label, text=text)

    def result_of(self, group: Group) -> Value | None:
        """What a group comes to: where its scan is highest."""
        found = self.read("highest")
        scan = next((each for each in self.scans if each.group.id == group.id), None)
        return None if found is None or scan is None else found.cells[scan.index]

    def text_of(self, id: int) -> str:
        """What a reading comes to, as it is shown."""
        value = self.values.get(id)
        return "—" if value is None else Value.of(value, None, None).shown

    def with_quantity(self, quantity: Quantity) -> None:
        """Scans are of this from here on."""
        self.quantity = quantity
        self.layout = self.layout.model_copy(update={"signal": quantity})

    def rescaled(self, text: str) -> None:
        """Scans have no unit of their own any more."""
        self.with_quantity(Quantity(name=text[:200]))


def value_at(x: Array, y: Array, place: float) -> float:
    """The value there, straight between points, all of them numbers; NaN outside."""
    return float(np.interp(place, x, y)) if x.size and x[0] <= place <= x[-1] else float("nan")


def middle(values: Array) -> float:
    """The median of what is finite; NaN where nothing is."""
    known = values[np.isfinite(values)]
    return float(np.median(known)) if known.size else float("nan")
