"""The bench of a dose–response run."""

from dataclasses import dataclass, field

from dosis.core.inference.joint import SharedFit
from dosis.core.inference.result import Fit
from dosis.core.normalize import Level as Reference
from dosis.run.effects.bench import EffectBench
from dosis.run.layout import Group, Quantity
from dosis.run.questions.dose.part import ReferenceOutcome
from dosis.run.roles import Role

SCALED = (Role.DOSE, Role.VEHICLE, Role.FULL)  # what is normalized; blanks stay in the unit that was read


@dataclass
class Compound:
    """A series of doses on the bench: its usable readings one by one, and what was fitted.

    other : the same curve through the responses on the other scale, raw beside normalized.
    reference_keys : the scope and end of each reference whose error the curve carries.
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
    reference_keys: tuple[tuple[str, int], ...] = ()

    def y(self, of_raw: bool) -> list[float]:
        """Its responses on one of the two scales."""
        return self.raw if of_raw else self.normalized


@dataclass
class DoseBench(EffectBench):
    """The scale between two references, and the series of doses with their curves.

    whole : whether every curve is to have its parameters and their working at once, however many there are.
    raw : readings before they were normalized, between the `references` (0 % and 100 %) of the run, each plate or each
        series, which `reference_of` names for each reading; `left_out` are the doses that made one and are hidden.
    compounds : the series of doses, by name; `of_raw` says on which scale they were fitted.
    """

    whole: bool = False
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
    joint: SharedFit | None = None

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
    def responses(self) -> dict[int, float]:
        """Readings on the scale that was fitted."""
        return self.raw if self.of_raw and self.raw else self.values

    def expected(self) -> dict[str, float]:
        """What doses should read on their curves."""
        found: dict[str, float] = {}
        for compound in self.compounds.values():
            levels = {group.id: group.level for group in compound.groups if group.level is not None}
            if compound.fit is not None and levels:
                found |= dict(zip(levels, compound.fit.predict(list(levels.values())).tolist(), strict=True))
        return found

    def comparable(self, group: Group) -> bool:
        """Whether a group was normalized, where the responses are."""
        return not self.references or self.of_raw or group.role in SCALED

    def aside(self) -> dict[int, str]:
        """Doses that made a reference and are hidden."""
        found: dict[int, str] = {}
        if self.left_out:
            for group in self.groups(Role.DOSE):
                if (group.series, group.level) in self.left_out:
                    found |= dict.fromkeys(group.readings, "a reference, left out of the curve")
        return found
