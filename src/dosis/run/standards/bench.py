"""The bench of questions that are answered by a standard curve."""

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from typing import ClassVar

from dosis.core.budget import Budget
from dosis.core.fitting.uneven import Uneven
from dosis.core.inference.read_back import ReadBack
from dosis.core.inference.result import Fit
from dosis.core.inference.spread import Spread
from dosis.run.bench import Bench
from dosis.run.layout import PART, Group, whole_id
from dosis.run.outcome.drawn import Candidate, SamplePoint, Span, Statistic, Suggestion
from dosis.run.outcome.value import Value
from dosis.run.roles import Role


@dataclass(frozen=True)
class Judged:
    """The curve as samples are read off it, and what each of them is judged by.

    own : the spread of one reading of a sample, None where it is the curve's. p : of the F test by which all samples
    scatter differently from the standards, None where they are alike; times : by what factor in SD. alone : p of those
    that scatter more than the other samples and the standards.
    """

    fit: Fit
    own: tuple[Spread | None, ...] = ()
    p: float | None = None
    times: float = 1.0
    alone: dict[str, float] = field(default_factory=dict)


@dataclass
class StandardBench(Bench):
    """The curve through the standards, what was read off it, and what is said of it.

    judged : what the samples' intervals are judged by; own_spreads : of those judged by their own scatter.
    blank_keys : the blanks whose errors the curve carries. uneven : a spread that rises along it, p and its ends.
    turned : whether the concentration was fitted on the signal.
    factors : what each answer was multiplied by on the way from the reading to the sample.
    recoveries : what was found again of an amount added to a sample, as a fraction, by group.
    budgets : of answers whose uncertainty has other sources beside the readings.
    samples_choose : whether a sample has to say by which of several curves it is read; blank_cancels : whether an error
        of the blank, which moves the whole curve, moves what is read off it as well.
    """

    samples_choose: ClassVar[bool] = True
    blank_cancels: ClassVar[bool] = True
    fit: Fit | None = None
    judged: Judged | None = None
    own_spreads: dict[str, Spread] = field(default_factory=dict)
    blank_keys: tuple[Hashable, ...] = ()
    uneven: Uneven | None = None
    fit_problem: str = ""
    candidates: tuple[Candidate, ...] = ()
    fits: dict[str, Fit] = field(default_factory=dict)
    comparison: str = ""
    suggestion: Suggestion | None = None
    turned: bool = False
    read_backs: dict[str, ReadBack] = field(default_factory=dict)
    in_reading: dict[str, Value] = field(default_factory=dict)
    in_sample: dict[str, Value] = field(default_factory=dict)
    factors: dict[str, float] = field(default_factory=dict)
    recoveries: dict[str, Value] = field(default_factory=dict)
    budgets: dict[str, Budget] = field(default_factory=dict)
    working_range: Span | None = None
    shown_working_range: str = ""
    limits: list[Statistic] = field(default_factory=list)
    _in_order: tuple[list[Group], list[Group]] | None = None

    def answered(self) -> list[Group]:
        """The groups that get an answer, in the order of the layout, whatever was edited last."""
        unsorted = self.groups(Role.SAMPLE, Role.QC)
        if self._in_order is None or self._in_order[0] is not unsorted:
            self._in_order = unsorted, sorted(unsorted, key=self.place_of)
        return self._in_order[1]

    def singly(self, group: Group) -> list[float]:
        """Each reading read back by itself, in the sample."""
        if self.fit is None or self.turned or group.id not in self.factors:
            return []
        found = self.fit.estimates([self.values[id] for id in self.used(group)])
        return [each * self.factors[group.id] for each in found if each is not None]

    def common_error(self, groups: Sequence[Group]) -> float:
        """What the curve leaves open of their mean: all of them are read off it."""
        values = [s.value for group in groups if (s := self.summaries.get(group.id))]
        if self.fit is None or self.turned or not values:
            return 0.0
        found = self.fit.read_back(sum(values) / len(values), n=math.inf)
        factor = max(self.factors.get(group.id, 1.0) for group in groups)
        return (found.standard_error or 0.0) * factor

    def answer_role(self, group: Group) -> Role:
        """What an answered group counts as."""
        return group.role

    def known_level(self, group: Group) -> float | None:
        """What an answered group is known to hold."""
        return group.level

    def sample_points(self) -> tuple[SamplePoint, ...]:
        """Samples and QCs on the curve, where they were read back."""
        return tuple(
            SamplePoint(
                group=whole_id(group.id), reading=group.readings[0] if PART in group.id else None, role=group.role,
                x=rb.estimate, y=self.summaries[group.id].value,
            )
            for group in self.groups(Role.SAMPLE, Role.QC)
            if (rb := self.read_backs.get(group.id)) and rb.estimate is not None
            and self.in_reading[group.id].value is not None
        )  # fmt: skip

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

    def expected(self) -> dict[str, float]:
        """What the standards should read."""
        levels = {group.id: group.level for group in self.groups(Role.STANDARD) if group.level is not None}
        if self.fit is None or self.turned or not levels:
            return {}
        return dict(zip(levels, self.fit.predict(list(levels.values())).tolist(), strict=True))

    def aside(self) -> dict[int, str]:
        """Standards outside the window of the curve."""
        found: dict[int, str] = {}
        if self.fit is not None:
            for group in self.groups(Role.STANDARD):
                if group.level is not None and not self.in_window(group.level):
                    found |= dict.fromkeys(group.readings, "its level is left out of the curve")
        return found

    def result_of(self, group: Group) -> Value | None:
        """The concentration in the sample."""
        return self.in_sample.get(group.id)
