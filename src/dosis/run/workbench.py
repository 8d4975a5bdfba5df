"""The workbench on which the steps work: what each has read, done and written down so far.

One is made for each evaluation and thrown away after it; steps hand their results to each other through it.
"""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from dosis.core.blanks import Blank
from dosis.core.inference.joint import SharedFit
from dosis.core.inference.read_back import ReadBack
from dosis.core.inference.result import Fit
from dosis.core.normalize import Level as Reference
from dosis.core.numbers import Meaning
from dosis.core.quantal import QuantalFit
from dosis.core.replicates import Replicates
from dosis.core.rounding import fixed
from dosis.run.effects.effect import Effect
from dosis.run.layout import Group, Layout, Quantity, Role, natural
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.drawn import Candidate, Span, Statistic, Suggestion
from dosis.run.outcome.readings import SignalColumn
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import Remark, Value
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.dose.part import ReferenceOutcome
from dosis.run.readings import Reading, Readings


@dataclass
class Compound:
    """A series of doses on the bench: its usable readings one by one, and what was fitted.

    other : the same curve through the responses on the other scale, raw beside normalized.
    """

    name: str
    groups: list[Group] = field(default_factory=list)
    ids: list[int] = field(default_factory=list)
    x: list[float] = field(default_factory=list)
    normalized: list[float] = field(default_factory=list)
    raw: list[float] = field(default_factory=list)
    fit: Fit | None = None
    other: Fit | None = None
    problem: str = ""
    tag: str = ""

    def y(self, of_raw: bool) -> list[float]:
        """Its responses on one of the two scales."""
        return self.raw if of_raw else self.normalized


@dataclass
class Treatment:
    """A series of counts on the bench: rows of (dose, affected, exposed) in rising order, and the line through them."""

    name: str
    groups: list[Group] = field(default_factory=list)
    rows: list[tuple[float, float, float]] = field(default_factory=list)
    fit: QuantalFit | None = None
    problem: str = ""
    tag: str = ""

    @property
    def columns(self) -> tuple[list[float], list[float], list[float]]:
        """Doses, affected and exposed."""
        return [row[0] for row in self.rows], [row[1] for row in self.rows], [row[2] for row in self.rows]


@dataclass
class Workbench:
    """Readings and layout, looked up, and what the steps leave for each other.

    cv_limit : CV of replicates from which they disagree; interval : level of the intervals of doses, for comparisons.
    tag : begins the ids of working that belongs to a curve, where there are several.
    more : the channels beside the first, as corrected, while columns are still to be derived from them.
    unknown : with standard additions, the groups that are the sample itself.
    wider : p of the F test of samples that scatter significantly more than the curve.
    turned : whether the concentration was fitted on the signal.
    recoveries : what was found again of an amount added to a sample, as a fraction, by group.
    raw : readings before they were normalized, between the `references` (0 % and 100 %) of the run, each plate or each
        series, which `reference_of` names for each reading; `left_out` are the doses that made one and are hidden.
    counts : (affected, exposed) of each vessel; treatments : the series of counts, by name.
    whole : whether what belongs to each of many curves is written down at once; `brief` says that it is left until one
        is looked at.
    deviations : of each well from what it should read, once they are asked for.
    compounds : the series of doses, by name; `of_raw` says on which scale they were fitted.
    """

    readings: Readings
    layout: Layout
    tag: str = ""
    whole: bool = False
    by_id: dict[int, Reading] = field(init=False)
    why_not: dict[int, str] = field(init=False)
    values: dict[int, float] = field(init=False)
    decimals: int = field(init=False)
    blank: Blank | None = None
    summaries: dict[str, Replicates] = field(default_factory=dict)
    cv_limit: float = 0.1
    interval: float = 0.95
    fit: Fit | None = None
    fit_problem: str = ""
    candidates: tuple[Candidate, ...] = ()
    fits: dict[str, Fit] = field(default_factory=dict)
    suggestion: Suggestion | None = None
    read_backs: dict[str, ReadBack] = field(default_factory=dict)
    wider: dict[str, float] = field(default_factory=dict)
    in_reading: dict[str, Value] = field(default_factory=dict)
    in_sample: dict[str, Value] = field(default_factory=dict)
    remarks: dict[str, list[Remark]] = field(default_factory=dict)
    working: defaultdict[str, list[WorkingLine]] = field(default_factory=lambda: defaultdict(list))
    steps: list[StepOutcome] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    working_range: Span | None = None
    shown_working_range: str = ""
    columns: tuple[SignalColumn, ...] = ()
    more: list[dict[int, float]] = field(default_factory=list)
    unknown: tuple[str, ...] = ()
    comparison: str = ""
    limits: list[Statistic] = field(default_factory=list)
    turned: bool = False
    recoveries: dict[str, Value] = field(default_factory=dict)
    raw: dict[int, float] = field(default_factory=dict)
    raw_signal: Quantity | None = None
    references: dict[str, tuple[Reference, Reference]] = field(default_factory=dict)
    reference_of: dict[int, str] = field(default_factory=dict)
    made_references: list[ReferenceOutcome] = field(default_factory=list)
    full_scale: float = 1.0
    average_first: bool = False
    left_out: set[tuple[str, float]] = field(default_factory=set)
    compounds: dict[str, Compound] = field(default_factory=dict)
    of_raw: bool = False
    brief: bool = False
    deviations: dict[int, float] | None = None
    joint: SharedFit | None = None
    effects: list[Effect] = field(default_factory=list)
    comparisons: list[Comparison] = field(default_factory=list)
    counts: dict[int, tuple[float, float]] = field(default_factory=dict)
    treatments: dict[str, Treatment] = field(default_factory=dict)
    _sorted: tuple[Group, ...] | None = None
    _by_role: dict[tuple[Role, ...], list[Group]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        by_id, texts, layout = self.readings.by_id, self.readings.texts, self.layout
        unknown = layout.members - by_id.keys()
        if unknown:
            raise ValueError(f"The layout names readings that do not exist: {sorted(unknown)[:5]}.")
        self.by_id, self.decimals = by_id, self.readings.decimals
        self.values, self.why_not = dict(self.readings.numbers), dict(self.readings.why_not)
        for exclusion in layout.exclusions:
            self.why_not[exclusion.reading] = f"excluded: {exclusion.reason}"
        for group in layout.groups:
            said = ""
            if not self.why_not.keys().isdisjoint(group.readings):
                said = "; ".join(f"{texts[id]}: {self.why_not[id]}" for id in group.readings if id in self.why_not)
            self.note(group, "readings", "Raw", cells=tuple([texts[id] for id in group.readings]), text=said)

    def differing_below(self, level: float | None = None) -> float:
        """p below which two are not the same, at this level or that of the effect doses; with no trace of binary."""
        return round(1 - (level or self.interval), 9)

    def channel_names(self) -> tuple[str, ...]:
        """What was read at each place; the first carries the name of the signal when it has no other."""
        return tuple(channel.name for channel in self.readings.channels) or (self.layout.signal.name or "Signal",)

    def keep_channels(self) -> None:
        """Have the blank taken off every channel, because columns are derived from them after it."""
        self.more = [self.channel(at) for at in range(1, len(self.channel_names()))]

    def channel(self, at: int) -> dict[int, float]:
        """The numbers of a channel: of the first, and of those still to be used, as the steps have left them."""
        if at == 0:
            return self.values
        if self.more:
            return self.more[at - 1]
        return {
            reading.id: cell.value
            for reading in self.readings.readings
            if (cell := reading.more[at - 1]).meaning is Meaning.NUMBER and cell.value is not None
        }

    def groups(self, *roles: Role) -> list[Group]:
        """Groups of those roles, in the order of the layout."""
        if self._sorted is not self.layout.groups:
            self._sorted, self._by_role = self.layout.groups, {}
        if roles not in self._by_role:
            self._by_role[roles] = [group for group in self._sorted if group.role in roles]
        return self._by_role[roles]

    def answered(self) -> list[Group]:
        """The groups that get an answer, in the order of the layout, whatever was edited last."""
        if self.unknown:
            groups = [group for group in self.layout.groups if group.id in self.unknown]
        else:
            groups = self.groups(Role.SAMPLE, Role.QC)
        return sorted(groups, key=self.place_of)

    def place_of(self, group: Group) -> tuple[int, tuple[tuple[int, str], ...], int]:
        """Where a group stands: on plates by plate and name ("S2" before "S10"), in a table by its first row."""
        first = min(group.readings, default=0)
        plate = self.by_id[first].plate if first in self.by_id else None
        return (0, (), first) if plate is None else (plate, natural(group.series or group.name), first)

    def count_samples_as_no_addition(self) -> None:
        """For standard additions: the sample itself is the standard to which nothing was added."""
        samples = [group for group in self.groups(Role.SAMPLE) if group.level is None]
        itself = samples or [group for group in self.groups(Role.STANDARD, Role.SAMPLE) if group.level == 0]
        self.unknown = tuple(group.id for group in itself)
        groups = tuple(
            group.model_copy(update={"role": Role.STANDARD, "level": group.level or 0.0})
            if group.role is Role.SAMPLE
            else group
            for group in self.layout.groups
        )
        self.layout = self.layout.model_copy(update={"groups": groups})

    def in_window(self, level: float, fit: Fit | None = None) -> bool:
        """Whether a standard of that level took part in the fit."""
        fit = fit or self.fit
        if fit is None:
            return False
        low, high = self.span_of(fit)
        return low <= level <= high

    def span_of(self, fit: Fit) -> tuple[float, float]:
        """Lowest and highest concentration of the standards in the fit, whichever way it goes."""
        return (float(fit.y.min()), float(fit.y.max())) if self.turned else fit.range

    def reading_range(self, fit: Fit) -> tuple[float, float]:
        """Lowest and highest concentration that can be read: a zero standard shows what reads nothing, not how little
        can be read."""
        low, high = self.span_of(fit)
        if low != 0 or high <= 0:
            return low, high
        levels = fit.y if self.turned else fit.x
        return float(levels[levels > 0].min()), high

    def rises(self, fit: Fit) -> bool:
        """Whether the signal rises with the concentration, from the lowest standard to the highest."""
        first, last = fit.predict(fit.range).tolist()
        return bool(last >= first)

    def used(self, group: Group) -> Sequence[int]:
        """The group's readings that count."""
        if self.why_not.keys().isdisjoint(group.readings):
            return group.readings
        return [id for id in group.readings if id not in self.why_not]

    def note(
        self, group: Group, step: str, label: str, *,
        cells: tuple[str, ...] = (), text: str = "", result: str = "", value: float | None = None,
    ) -> None:  # fmt: skip
        """Write a line into a group's working."""
        line = WorkingLine(step, label, cells, text, result, value)
        self.working[group.id].append(line)

    def write(self, id: str, label: str, *, text: str = "", result: str = "", value: float | None = None) -> None:
        """Write a line into the working of a number that belongs to no group: a parameter, a limit, a check."""
        if self.brief and self.tag:
            return
        line = WorkingLine(id.partition(".")[0], label, (), text, result, value)
        self.working[f"{self.tag}{id}"].append(line)

    def remark(self, group: Group, remark: Remark) -> None:
        """Hang a remark on a group's answer."""
        self.remarks.setdefault(group.id, []).append(remark)

    def response_at(self, compound: Compound, effect: float) -> float | None:
        """The response with that share of the effect, between the references on the scale that was fitted."""
        if not self.references:
            return None
        share = 1 - effect
        if not self.of_raw:
            return share * self.full_scale
        scopes = {self.reference_of[id] for id in compound.ids if id in self.reference_of}
        if len(scopes) != 1:
            return None  # on several plates, each with references of its own, no raw response stands for an effect
        zero, full = self.references[scopes.pop()]
        return zero.value + share * (full.value - zero.value)

    @property
    def places(self) -> int:
        """Decimals of a signal as shown: one more than the readings were typed with."""
        return self.decimals + 1

    def signal(self, value: float) -> str:
        """A signal as shown."""
        return fixed(value, self.places)

    def signals(self, ids: Iterable[int]) -> tuple[str, ...]:
        """Of every reading as the steps have left it."""
        values, places = self.values, self.places
        return tuple([fixed(values[id], places) if id in values else "—" for id in ids])
