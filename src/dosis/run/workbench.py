"""The workbench on which the steps work: what each has read, done and written down so far.

One is made for each evaluation and thrown away after it; steps hand their results to each other through it.
"""

from dataclasses import dataclass, field
from typing import Any

from dosis.core.blanks import Blank
from dosis.core.inference.read_back import ReadBack
from dosis.core.inference.result import Fit
from dosis.core.numbers import Meaning
from dosis.core.replicates import Replicates
from dosis.core.rounding import fixed
from dosis.run.layout import Group, Layout, Role
from dosis.run.outcome import Candidate, Check, Remark, SignalColumn, Span, StepOutcome, Suggestion, Value, WorkingLine
from dosis.run.readings import Reading, Readings

WHY = {
    Meaning.ABOVE: "above the instrument's range",
    Meaning.BELOW: "below the instrument's range",
    Meaning.MISSING: "missing",
    Meaning.TEXT: "not a number",
}


@dataclass
class Workbench:
    """Readings and layout, looked up, and what the steps leave for each other."""

    readings: Readings
    layout: Layout
    by_id: dict[int, Reading] = field(init=False)
    why_not: dict[int, str] = field(init=False)
    values: dict[int, float] = field(init=False)
    decimals: int = field(init=False)
    blank: Blank | None = None
    summaries: dict[str, Replicates] = field(default_factory=dict)
    fit: Fit | None = None
    fit_problem: str = ""
    candidates: tuple[Candidate, ...] = ()
    fits: dict[str, Fit] = field(default_factory=dict)
    suggestion: Suggestion | None = None
    read_backs: dict[str, ReadBack] = field(default_factory=dict)
    in_reading: dict[str, Value] = field(default_factory=dict)
    in_sample: dict[str, Value] = field(default_factory=dict)
    remarks: dict[str, list[Remark]] = field(default_factory=dict)
    working: dict[str, list[WorkingLine]] = field(default_factory=dict)
    steps: list[StepOutcome] = field(default_factory=list)
    checks: list[Check] = field(default_factory=list)
    working_range: Span | None = None
    shown_working_range: str = ""
    columns: tuple[SignalColumn, ...] = ()

    def __post_init__(self) -> None:
        self.by_id = {reading.id: reading for reading in self.readings.readings}
        unknown = {id for group in self.layout.groups for id in group.readings} - self.by_id.keys()
        if unknown:
            raise ValueError(f"The layout names readings that do not exist: {sorted(unknown)[:5]}.")
        excluded = {exclusion.reading: f"excluded: {exclusion.reason}" for exclusion in self.layout.exclusions}
        self.why_not = {
            reading.id: excluded.get(reading.id) or WHY[reading.meaning]
            for reading in self.readings.readings
            if reading.id in excluded or reading.meaning is not Meaning.NUMBER
        }
        self.values = {
            reading.id: reading.value
            for reading in self.readings.readings
            if reading.meaning is Meaning.NUMBER and reading.value is not None
        }
        self.decimals = min(max((_decimals(self.by_id[id].text) for id in self.values), default=3), 6)
        for group in self.layout.groups:
            cells = tuple(self.by_id[id].text.strip() or "—" for id in group.readings)
            notes = [
                f"{self.by_id[id].text.strip() or '—'}: {why}" for id in group.readings if (why := self.why_not.get(id))
            ]
            self.note(group, "readings", "Raw", cells=cells, text="; ".join(notes))

    def groups(self, *roles: Role) -> list[Group]:
        """Groups of those roles, in the order of the layout."""
        return [group for group in self.layout.groups if group.role in roles]

    def in_window(self, level: float) -> bool:
        """Whether a standard of that level took part in the fit."""
        return self.fit is not None and self.fit.range[0] <= level <= self.fit.range[1]

    def used(self, group: Group) -> list[int]:
        """The group's readings that count."""
        return [id for id in group.readings if id not in self.why_not]

    def note(self, group: Group, step: str, label: str, **line: Any) -> None:
        """Write a line into a group's working."""
        self.working.setdefault(group.id, []).append(WorkingLine(step=step, label=label, **line))

    def remark(self, group: Group, remark: Remark) -> None:
        """Hang a remark on a group's answer."""
        self.remarks.setdefault(group.id, []).append(remark)

    def signal(self, value: float) -> str:
        """A signal as shown: one place finer than the readings were typed."""
        return fixed(value, self.decimals + 1)


def _decimals(text: str) -> int:
    digits = text.replace(",", ".").rpartition(".")
    if not digits[1]:
        return 0
    return next((i for i, c in enumerate(digits[2]) if not c.isdigit()), len(digits[2]))
