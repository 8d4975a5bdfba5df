"""The workbench on which the steps work: what each has read, done and written down so far.

One is made for each evaluation and thrown away after it; steps hand their results to each other through it.
"""

from collections import defaultdict
from collections.abc import Hashable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import ClassVar

from dosis.core.blanks import Blank
from dosis.core.numbers import Meaning
from dosis.core.replicates import Replicates
from dosis.core.rounding import fixed
from dosis.run.layout import Group, Layout, natural, whole_id
from dosis.run.outcome.readings import SignalColumn
from dosis.run.outcome.step import Check, StepOutcome
from dosis.run.outcome.value import Remark, Value
from dosis.run.outcome.working import WorkingLine
from dosis.run.readings import Cell, Reading, Readings
from dosis.run.roles import Role

LISTED = 200  # lines of one number's working in a large run; nobody reads thousands


@dataclass
class Bench:
    """Readings and layout, looked up, and what the steps leave for each other; each question adds its own.

    cv_limit : CV of replicates from which they disagree.
    tag : begins the ids of working that belongs to a curve, where there are several.
    brief : whether what belongs to each of many curves is left until one is looked at.
    working_of : the groups whose working is written down, None where it is that of all.
    deviations : of each well from what it should read, once they are asked for.
    blanks : the levels that were subtracted, each by what shares it; blank_of : which of them, of every reading.
    taken_from : the cell that the signal is of, where it is not the first of its place; see `cell`.
    more : the channels beside the first, as corrected, while columns are still to be derived from them.
    on_log : whether answers are averaged as logarithms, as doses are.
    between_references : whether readings stand between two references, where near zero a CV says nothing.
    """

    readings: Readings
    layout: Layout
    tag: str = ""
    brief: bool = False
    working_of: frozenset[str] | None = None
    by_id: dict[int, Reading] = field(init=False)
    why_not: dict[int, str] = field(init=False)
    values: dict[int, float] = field(init=False)
    decimals: int = field(init=False)
    blank: Blank | None = None
    blanks: dict[Hashable, Blank] = field(default_factory=dict)
    blank_of: dict[int, Hashable] = field(default_factory=dict)
    summaries: dict[str, Replicates] = field(default_factory=dict)
    cv_limit: float = 0.1
    between_references: bool = False
    on_log: ClassVar[bool] = False
    remarks: dict[str, list[Remark]] = field(default_factory=dict)
    working: defaultdict[str, list[WorkingLine]] = field(default_factory=lambda: defaultdict(list))
    steps: list[StepOutcome] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    columns: tuple[SignalColumn, ...] = ()
    more: list[dict[int, float]] = field(default_factory=list)
    deviations: dict[int, float] | None = None
    taken_from: dict[int, Cell] = field(default_factory=dict)
    _sorted: tuple[Group, ...] | None = None
    _by_role: dict[tuple[Role, ...], list[Group]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        by_id, texts, layout = self.readings.by_id, self.readings.texts, self.layout
        unknown = layout.members - by_id.keys()
        if unknown:
            raise ValueError(f"The layout names readings that do not exist: {sorted(unknown)[:5]}.")
        self.by_id, self.decimals = by_id, self.readings.decimals
        self.values, self.why_not = dict(self.readings.numbers), dict(self.readings.why_not)
        for id, reason in layout.excluded.items():
            self.why_not[id] = f"excluded: {reason}"
        for group in layout.groups:
            if not self.writes(group):
                continue
            said = ""
            if not self.why_not.keys().isdisjoint(group.readings):
                said = "; ".join(f"{texts[id]}: {self.why_not[id]}" for id in group.readings if id in self.why_not)
            self.note(group, "readings", "Raw", cells=tuple([texts[id] for id in group.readings]), text=said)

    def cell(self, id: int) -> Cell:
        """What was read where the signal comes from. A column derived of several cells is above or below no range."""
        return self.taken_from.get(id) or self.by_id[id]

    def channel_names(self) -> tuple[str, ...]:
        """What was read at each place; the first carries the name of the signal when it has no other."""
        return tuple(channel.name for channel in self.readings.channels) or (self.layout.signal.name or "Signal",)

    def keep_channels(self) -> None:
        """Have the blank subtracted from every channel, because columns are derived from them after it."""
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

    def place_of(self, group: Group) -> tuple[int, tuple[tuple[int, str], ...], int]:
        """Where a group stands: on plates by plate and name ("S2" before "S10"), in a table by its first row."""
        first = min(group.readings, default=0)
        plate = self.by_id[first].plate if first in self.by_id else None
        return (0, (), first) if plate is None else (plate, natural(group.series or group.name), first)

    def used(self, group: Group) -> Sequence[int]:
        """The group's readings that count."""
        if self.why_not.keys().isdisjoint(group.readings):
            return group.readings
        return [id for id in group.readings if id not in self.why_not]

    def writes(self, group: Group) -> bool:
        """Whether a group's working is written down. Of a large run it is, of the one group that is looked at."""
        of = self.working_of
        return of is None or (bool(of) and whole_id(group.id) in of)

    def note(
        self, group: Group, step: str, label: str, *,
        cells: tuple[str, ...] = (), text: str = "", result: str = "", value: float | None = None,
    ) -> None:  # fmt: skip
        """Write a line into a group's working, where it is written down."""
        if not self.writes(group):
            return
        line = WorkingLine(step, label, cells, text, result, value)
        self.working[group.id].append(line)

    def write(self, id: str, label: str, *, text: str = "", result: str = "", value: float | None = None) -> None:
        """Write a line into the working of a number that belongs to no group: a parameter, a limit, a check."""
        if self.brief and self.tag:
            return
        lines = self.working[f"{self.tag}{id}"]
        if self.working_of is not None and len(lines) >= LISTED:
            if len(lines) == LISTED:
                lines.append(WorkingLine(lines[0].step, "…", text=f"The first {LISTED} are listed."))
            return
        lines.append(WorkingLine(id.partition(".")[0], label, (), text, result, value))

    def remark(self, group: Group, remark: Remark) -> None:
        """Hang a remark on a group's answer."""
        self.remarks.setdefault(group.id, []).append(remark)

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

    @property
    def responses(self) -> dict[int, float]:
        """Readings on the scale on which curves are fitted."""
        return self.values

    def expected(self) -> dict[str, float]:
        """What groups should read by their curve, by group."""
        return {}

    def comparable(self, group: Group) -> bool:
        """Whether a group's readings are on the scale of the responses."""
        return True

    def text_of(self, id: int) -> str:
        """A reading as the steps have left it, as it is shown."""
        value = self.values.get(id)
        return "—" if value is None else self.signal(value)

    def aside(self) -> dict[int, str]:
        """Readings that are no part of a curve though nobody has excluded them, and why."""
        return {}

    def singly(self, group: Group) -> list[float]:
        """What each reading of a group comes to by itself, where that is known."""
        return []

    def common_error(self, groups: Sequence[Group]) -> float:
        """The standard error that the answers of these groups share, as that of a calibration."""
        return 0.0

    def result_of(self, group: Group) -> Value | None:
        """What a group comes to, where it is a result."""
        return None
