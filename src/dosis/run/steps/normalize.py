"""Step: put every reading on a scale from 0 to 100 % between two references. Doses are never touched."""

from collections.abc import Hashable, Iterator
from typing import Literal, cast

from dosis.core.normalize import Level as Reference
from dosis.core.normalize import Reference as End
from dosis.core.normalize import normalize
from dosis.core.rounding import fixed, significant
from dosis.run.layout import Group, Level, Quantity, Role
from dosis.run.outcome import State, StepOutcome
from dosis.run.record import Record
from dosis.run.workbench import Workbench

Source = Literal[
    "vehicle", "full_effect", "smallest_mean", "largest_mean", "first_level", "last_level", "smaller_end",
    "larger_end", "sum", "mean", "typed",
]  # fmt: skip
WORDS: dict[str, str] = {
    "vehicle": "the vehicle wells", "full_effect": "the full-effect wells", "smallest_mean": "the smallest mean",
    "largest_mean": "the largest mean", "first_level": "the lowest dose", "last_level": "the highest dose",
    "smaller_end": "the smaller of lowest and highest dose", "larger_end": "the larger of lowest and highest dose",
    "sum": "the sum of all means", "mean": "the mean of all means",
}  # fmt: skip
CONTROLS = {"vehicle": Role.VEHICLE, "full_effect": Role.FULL}
DIGITS = 6


class NormalizeStep(Record):
    """(reading − 0 %) ÷ (100 % − 0 %), in percent or as a fraction.

    hundred, nought : what counts as 100 % and 0 %; "sum" and "mean" serve for 100 % only.
    per : references of the whole run, or of each series (its own control wells where it has some).
    average_first : replicates are averaged and the curve goes through their means; otherwise each is normalized.
    references : whether a dose that made a reference stays on the curve.
    """

    kind: Literal["normalize"] = "normalize"
    on: bool = True
    hundred: Source = "vehicle"
    nought: Source = "full_effect"
    typed_hundred: Level | None = None
    typed_nought: Level | None = None
    per: Literal["run", "series"] = "run"
    average_first: bool = False
    scale: Literal["percent", "fraction"] = "percent"
    references: Literal["shown", "hidden"] = "shown"

    def run(self, bench: Workbench) -> StepOutcome:
        """Normalize what is on the bench; what it was before stays beside it."""
        bench.raw = dict(bench.values)
        if not self.on:
            return self._said("Switched off. Responses stay as they were read.", State.PASS)
        if missing := self._missing(bench):
            return self._said(f"Not normalized: {missing}", State.LOOK)
        try:
            zero, full = self._references(bench)
        except ValueError as error:
            return self._said(f"Not normalized: {error}", State.LOOK)
        factor = 100.0 if self.scale == "percent" else 1.0
        for label, groups in _by_series(bench):
            low, high = (of.get(label) or next(iter(of.values())) for of in (zero, full))
            for group in groups:
                self._take(bench, group, low, high, factor)
        bench.references = {str(label): (zero[label], full[label]) for label in zero}
        bench.full_scale = factor
        bench.average_first = self.average_first
        if self.references == "hidden":
            bench.left_out = {
                (str(label), x) for of in (zero, full) for label, level in of.items() if (x := level.x) is not None
            }
        bench.decimals = 1 if factor == 100 else 3
        unit = "%" if factor == 100 else ""
        of = " of vehicle" if self.hundred == "vehicle" else ""
        signal = bench.layout.signal
        bench.raw_signal = signal
        named = Quantity(name=signal.name, unit=f"{unit}{of}".strip())
        bench.layout = bench.layout.model_copy(update={"signal": named})
        return self._said(self._sentence(zero, full), State.PASS)

    def _missing(self, bench: Workbench) -> str:
        if not bench.groups(Role.DOSE):
            return "no wells have a dose yet."
        for source, end, typed in (
            (self.hundred, "100 %", self.typed_hundred), (self.nought, "0 %", self.typed_nought),
        ):  # fmt: skip
            role = CONTROLS.get(source)
            if role and not any(bench.used(group) for group in bench.groups(role)):
                return f"{end} is to come from {WORDS[source]}, and there are none. Assign them, or choose another."
            if source == "typed" and typed is None:
                return f"type the reading that counts as {end}."
        return "" if self.nought not in ("sum", "mean") else f"{WORDS[self.nought]} cannot be 0 %."

    def _references(self, bench: Workbench) -> tuple[dict[Hashable, Reference], dict[Hashable, Reference]]:
        rows = [
            (group.level or 0.0, bench.values[id], group.series)
            for group in bench.groups(Role.DOSE)
            if group.level is not None
            for id in bench.used(group)
        ]
        if not rows:
            raise ValueError("no dose has a usable reading.")
        x, y, labels = (list(column) for column in zip(*rows, strict=True))
        zero: dict[Hashable, Reference] = {}
        full: dict[Hashable, Reference] = {}
        each = list(dict.fromkeys(labels)) if self.per == "series" else [None]
        for label in each:
            mine = [i for i, own in enumerate(labels) if label is None or own == label]
            found = normalize(
                [x[i] for i in mine], [y[i] for i in mine],
                zero=self._end(bench, self.nought, self.typed_nought, label),
                full=self._end(bench, self.hundred, self.typed_hundred, label),
                series=[labels[i] for i in mine], per_series=self.per == "series", scale=self.scale,
            )  # fmt: skip
            zero |= found.zero
            full |= found.full
        return zero, full

    def _end(self, bench: Workbench, source: Source, typed: float | None, label: object) -> End:
        if source == "typed":
            return typed or 0.0
        role = CONTROLS.get(source)
        if role is None:
            return cast("End", source)
        groups = bench.groups(role)
        own = [group for group in groups if group.series == label]
        return [bench.values[id] for group in (own or groups) for id in bench.used(group)]

    def _take(self, bench: Workbench, group: Group, low: Reference, high: Reference, factor: float) -> None:
        for id in group.readings:
            if id in bench.values:
                bench.values[id] = factor * (bench.values[id] - low.value) / (high.value - low.value)
        places = 2 if factor == 100 else 4
        cells = tuple(fixed(bench.values[id], places) if id in bench.values else "—" for id in group.readings)
        a, b = significant(low.value, DIGITS), significant(high.value, DIGITS)
        times = " × 100" if factor == 100 else ""
        bench.note(group, self.kind, "Normalized", cells=cells, text=f"(y − {a}) ÷ ({b} − {a}){times}")

    def _sentence(self, zero: dict[Hashable, Reference], full: dict[Hashable, Reference]) -> str:
        ends = []
        for name, source, found in (("100 %", self.hundred, full), ("0 %", self.nought, zero)):
            values = sorted({significant(level.value) for level in found.values()})
            value = values[0] if len(values) == 1 else f"{values[0]} … {values[-1]}"
            what = "typed" if source == "typed" else f"the mean of {WORDS[source]}" if source in CONTROLS else (
                WORDS[source]
            )  # fmt: skip
            ends.append(f"{name} is {what}, **{value}**")
        averaged = " Means are normalized." if self.average_first else ""
        each = ", for each series" if self.per == "series" else ""
        return f"{ends[0]}; {ends[1]}{each}.{averaged}"

    def _said(self, sentence: str, state: State) -> StepOutcome:
        return StepOutcome(kind=self.kind, title="Normalize", sentence=sentence, state=state)


def _by_series(bench: Workbench) -> Iterator[tuple[str, list[Group]]]:
    groups = bench.groups(Role.DOSE, Role.VEHICLE, Role.FULL)
    for label in dict.fromkeys(group.series for group in groups):
        yield label, [group for group in groups if group.series == label]
