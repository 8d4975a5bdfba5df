"""Step: put every reading on a scale from 0 to 100 % between two references. Doses are never touched."""

from dataclasses import dataclass
from typing import Literal, cast

from dosis.core.normalize import Level as Reference
from dosis.core.normalize import Reference as End
from dosis.core.normalize import normalize
from dosis.core.rounding import fixed, significant
from dosis.run.layout import Group, Level, Quantity
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.dose.bench import SCALED, DoseBench
from dosis.run.questions.dose.part import ReferenceOutcome
from dosis.run.roles import Role
from dosis.run.steps.step import Step

Source = Literal[
    "vehicle", "full_effect", "least_level", "greatest_level", "lowest_dose", "highest_dose", "lower_end", "higher_end",
    "total", "average", "typed",
]  # fmt: skip
WORDS: dict[str, str] = {
    "vehicle": "the vehicle wells", "full_effect": "the full-effect wells",
    "least_level": "the dose that reads least", "greatest_level": "the dose that reads most",
    "lowest_dose": "the lowest dose", "highest_dose": "the highest dose",
    "lower_end": "the lowest or highest dose, whichever reads lower",
    "higher_end": "the lowest or highest dose, whichever reads higher",
    "total": "the total of all doses", "average": "the average of all doses",
}  # fmt: skip
CONTROLS = {"vehicle": Role.VEHICLE, "full_effect": Role.FULL}
DIGITS = 6
ENDS = (("no_effect", "100 %"), ("full_effect", "0 %"))


@dataclass
class Scope:
    """What shares its references: a plate, a series or the run, by name."""

    name: str
    wells: dict[Role, list[tuple[Group, int]]]

    def doses(self) -> list[tuple[float, int]]:
        """(dose, reading) of every usable reading of a dose."""
        return [(group.level, id) for group, id in self.wells.get(Role.DOSE, []) if group.level is not None]


class NormalizeStep(Step):
    """(reading − full effect) ÷ (no effect − full effect): 100 % is no effect and 0 % the full one.

    no_effect, full_effect : where the reading that counts as either comes from; "total" and "average" serve for no
        effect only.
    per : references of "each" plate, where the controls they come from stand on each of them, else of the run; or as
        asked, of the run, each plate or each series (its own control wells where it has some).
    average_first : replicates are averaged and the curve goes through their means; otherwise each is normalized.
    references : whether a dose that made a reference stays on the curve.
    """

    title = "Normalize"
    kind: Literal["normalize"] = "normalize"
    on: bool = True
    no_effect: Source = "vehicle"
    full_effect: Source = "full_effect"
    typed_no_effect: Level | None = None
    typed_full_effect: Level | None = None
    per: Literal["each", "run", "plate", "series"] = "each"
    average_first: bool = False
    scale: Literal["percent", "fraction"] = "percent"
    references: Literal["shown", "hidden"] = "shown"

    def run(self, bench: DoseBench) -> StepOutcome:
        """Normalize what is on the bench; what it was before stays beside it."""
        bench.raw = dict(bench.values)
        if not self.on:
            return self.told("Switched off. Responses stay as they were read.", State.PASS)
        per = self._per(bench)
        scopes = self._scopes(bench, per)
        if missing := self._missing(bench, scopes):
            return self._unnormalized(missing)
        try:
            references = {scope.name: self._references(bench, scope) for scope in scopes}
        except ValueError as error:
            return self._unnormalized(str(error))
        bench.made_references = [made for scope in scopes for made in self._made(scope, *references[scope.name])]
        factor = 100.0 if self.scale == "percent" else 1.0
        bench.references, bench.full_scale, bench.between_references = references, factor, True
        spare = next(iter(references))  # a control that belongs to nothing with doses is shown on the first scale
        bench.reference_of = {
            id: name if (name := _scope_of(bench, per, group, id)) in references else spare
            for group in bench.groups(*SCALED) for id in group.readings
        }  # fmt: skip
        bench.average_first = self.average_first
        for group in bench.groups(*SCALED):
            self._take(bench, group, factor)
        if self.references == "hidden":
            bench.left_out = {
                (group.series, x)
                for scope in scopes for end in references[scope.name] if (x := end.x) is not None
                for group, _ in scope.wells.get(Role.DOSE, [])
            }  # fmt: skip
        bench.decimals = 1 if factor == 100 else 3
        unit = "%" if factor == 100 else ""
        of = " of vehicle" if self.no_effect == "vehicle" else ""
        signal = bench.layout.signal
        bench.raw_signal = signal
        named = Quantity(name=signal.name, unit=f"{unit}{of}".strip())
        bench.layout = bench.layout.model_copy(update={"signal": named})
        return self.told(self._sentence(references, per), State.PASS)

    def _per(self, bench: DoseBench) -> str:
        """Each plate for itself, where every control that is asked for stands on every plate with doses."""
        if self.per != "each":
            return self.per
        roles = {role for end in (self.no_effect, self.full_effect) if (role := CONTROLS.get(end))}
        dosed = self._plates(bench, Role.DOSE)
        alone = len(dosed) > 1 and roles and all(dosed <= self._plates(bench, role) for role in roles)
        return "plate" if alone else "run"

    def _plates(self, bench: DoseBench, role: Role) -> set[int | None]:
        return {bench.by_id[id].plate for group in bench.groups(role) for id in bench.used(group)}

    def _scopes(self, bench: DoseBench, per: str) -> list[Scope]:
        found: dict[str, Scope] = {}
        for group in bench.groups(*SCALED):
            for id in bench.used(group):
                name = _scope_of(bench, per, group, id)
                scope = found.setdefault(name, Scope(name, {}))
                scope.wells.setdefault(group.role, []).append((group, id))
        everywhere = {role: [pair for scope in found.values() for pair in scope.wells.get(role, [])]
                      for role in CONTROLS.values()}  # fmt: skip
        dosed = [scope for scope in found.values() if Role.DOSE in scope.wells]
        for scope in dosed:
            for role, pairs in everywhere.items():
                scope.wells.setdefault(role, pairs)  # what has no control of its own shares those of the run
        return dosed

    def _missing(self, bench: DoseBench, scopes: list[Scope]) -> str:
        if not bench.groups(Role.DOSE):
            return "no wells have a dose yet."
        for name, end in ENDS:
            source, typed = getattr(self, name), getattr(self, f"typed_{name}")
            role = CONTROLS.get(source)
            if role and not any(bench.used(group) for group in bench.groups(role)):
                return f"{end} comes from {WORDS[source]}, but there are none. Assign them, or choose another."
            if source == "typed" and typed is None:
                return f"type the reading that counts as {end}."
        if not any(scope.doses() for scope in scopes):
            return "no dose has a usable reading."
        return "" if self.full_effect not in ("total", "average") else f"{WORDS[self.full_effect]} cannot be 0 %."

    def _references(self, bench: DoseBench, scope: Scope) -> tuple[Reference, Reference]:
        """What counts as full effect and as none, of one scope."""
        rows = scope.doses()
        if not rows:
            raise ValueError(f"no dose of {scope.name or 'the run'} has a usable reading.")
        found = normalize(
            [x for x, _ in rows], [bench.values[id] for _, id in rows],
            zero=self._end(bench, scope, self.full_effect, self.typed_full_effect),
            full=self._end(bench, scope, self.no_effect, self.typed_no_effect),
            scale=self.scale,
        )  # fmt: skip
        return next(iter(found.zero.values())), next(iter(found.full.values()))

    def _end(self, bench: DoseBench, scope: Scope, source: Source, typed: float | None) -> End:
        if source == "typed":
            return typed or 0.0
        role = CONTROLS.get(source)
        return cast("End", source) if role is None else [bench.values[id] for _, id in scope.wells[role]]

    def _made(self, scope: Scope, zero: Reference, full: Reference) -> tuple[ReferenceOutcome, ReferenceOutcome]:
        none, whole = (significant(found.value) for found in (full, zero))
        return (
            ReferenceOutcome(scope.name, "none", full.value, none, self._members(scope, self.no_effect, full)),
            ReferenceOutcome(scope.name, "full", zero.value, whole, self._members(scope, self.full_effect, zero)),
        )

    def _members(self, scope: Scope, source: Source, found: Reference) -> tuple[int, ...]:
        """The readings that a reference is of: controls, those of one dose, or of all."""
        if role := CONTROLS.get(source):
            return tuple(id for _, id in scope.wells[role])
        if source == "typed":
            return ()
        return tuple(id for x, id in scope.doses() if found.x is None or x == found.x)

    def _take(self, bench: DoseBench, group: Group, factor: float) -> None:
        places, times = (2, " × 100") if factor == 100 else (4, "")
        said = {}
        for id in group.readings:
            if id in bench.values:
                low, high = bench.references[bench.reference_of[id]]
                bench.values[id] = factor * (bench.values[id] - low.value) / (high.value - low.value)
                a, b = significant(low.value, DIGITS), significant(high.value, DIGITS)
                said[f"(y − {a}) ÷ ({b} − {a}){times}"] = True
        cells = tuple(fixed(bench.values[id], places) if id in bench.values else "—" for id in group.readings)
        bench.note(group, self.kind, "Normalized", cells=cells, text="; ".join(said))

    def _sentence(self, references: dict[str, tuple[Reference, Reference]], per: str) -> str:
        ends = []
        for at, (name, end) in enumerate(ENDS):
            source = getattr(self, name)
            values = sorted({found[1 - at].value for found in references.values()})
            shown = list(dict.fromkeys(map(significant, (values[0], values[-1]))))
            what = "typed" if source == "typed" else f"the mean of {WORDS[source]}" if source in CONTROLS else (
                WORDS[source]
            )  # fmt: skip
            ends.append(f"{end} is {what}, **{' … '.join(shown)}**")
        averaged = " Means are normalized." if self.average_first else ""
        each = {"plate": ", on each plate", "series": ", for each series"}.get(per, "")
        return f"{ends[0]}; {ends[1]}{each}.{averaged}"

    def _unnormalized(self, why: str) -> StepOutcome:
        said = f"Not normalized: {why}"
        return StepOutcome(kind=self.kind, title="Normalize", sentence=said, state=State.LOOK)


def _scope_of(bench: DoseBench, per: str, group: Group, id: int) -> str:
    """With what a reading shares its references: the name of its plate or series, empty for the run."""
    if per == "series":
        return group.series
    plate = bench.by_id[id].plate
    return f"plate {plate + 1}" if per == "plate" and plate is not None else ""
