"""Step: subtract the blank of the run, its plate, row, columns or series, a reading's own, or a typed one."""

import math
import re
from collections.abc import Callable, Hashable, Iterable
from typing import Annotated, Literal

from pydantic import Field

from dosis.core.blanks import Blank, blank_level, drift
from dosis.core.rounding import decimals_for, fixed, p_value
from dosis.run.bench import Bench
from dosis.run.layout import Level, Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.readings import Reading
from dosis.run.roles import Role
from dosis.run.steps.step import Step

DRIFTING, ENOUGH = 0.05, 5  # p of a trend over the blanks, and how many are needed to see one
WORDS = {
    "plate": "plate", "row": "row", "column": "column", "columns": "column group", "series": "series", "own": "sample",
}  # fmt: skip
ALL = object()  # stands for the blanks of the whole run
Levels = Callable[[dict[int, float]], dict[int, float]]  # the blank of every reading of a channel
_BLANK_WORD = re.compile(r"[\s,:·_-]*\b(sample\s+)?(blank|blk)s?\b[\s,:·_-]*", re.IGNORECASE)


class BlankStep(Step):
    """Subtract the mean or median of the blank readings in the same scope; a run without blanks goes through unchanged.

    scope : "each" takes the blanks of each plate, where every plate in use has some, else those of the run;
        "columns" goes by groups of `width` neighboring columns; "own" takes from each sample the blank that bears
        its name ("S1 blank"); "reference" subtracts what the same place reads in the column `reference`.
    typed : the level to subtract when the scope is "typed".
    """

    title = "Blank"
    kind: Literal["blank"] = "blank"
    on: bool = True
    statistic: Literal["mean", "median"] = "mean"
    scope: Literal["each", "run", "plate", "row", "column", "columns", "series", "own", "reference", "typed"] = "each"
    typed: Level | None = None
    width: Annotated[int, Field(ge=1, le=48)] = 3
    reference: Name = ""

    def run(self, bench: Bench) -> StepOutcome:
        """Correct every reading and write the level subtracted into the working."""
        groups = bench.groups(Role.BLANK)
        ids = [id for group in groups for id in bench.used(group)]
        if not self.on:
            return self.told("Switched off. Readings are left as they are.", State.PASS)
        if self.scope in ("typed", "reference"):
            return self._typed(bench) if self.scope == "typed" else self._reference(bench)
        if not ids:
            none = "No blanks in this run; nothing is subtracted."
            lost = "No usable blank reading, so nothing is subtracted. Check the blanks."
            verdict = "No blank is left, so none is subtracted." if groups else ""
            return self.told(lost if groups else none, State.LOOK if groups else State.PASS, verdict)
        whole = self._level(ids, bench.values)
        bench.blank = whole
        bench.write("blank.level", "Blank", text=f"{self.statistic} of {whole.n}", result=bench.signal(whole.value),
                    value=whole.value)  # fmt: skip
        trend = self._trend(bench, ids)
        scope = self._settled(bench, ids)
        if scope == "run":
            bench.blanks, bench.blank_of = {"": whole}, dict.fromkeys(bench.values, "")
            self._take_from_all(bench, lambda values: dict.fromkeys(values, self._level(ids, values).value))
            level = bench.signal(whole.value)
            readings = f"{whole.n} readings" if whole.n > 1 else "one reading"
            statistic = self.statistic.capitalize() + " of " if whole.n > 1 else "From "
            said = f"{statistic}{readings}, **{level}{_spread(whole)}**, subtracted from every reading."
            return self.told(said + trend, State.LOOK if trend else State.PASS)
        return self.model_copy(update={"scope": scope})._by_scope(bench, ids, whole, trend)

    def _settled(self, bench: Bench, ids: list[int]) -> str:
        """The scope, where "each" is each plate if all that are in use have blanks."""
        if self.scope != "each":
            return self.scope
        used = {bench.by_id[id].plate for group in bench.layout.groups for id in bench.used(group)}
        return "plate" if len(used) > 1 and used == {bench.by_id[id].plate for id in ids} else "run"

    def _level(self, ids: Iterable[int], values: dict[int, float]) -> Blank:
        return blank_level([values[id] for id in ids if id in values], self.statistic)

    def _typed(self, bench: Bench) -> StepOutcome:
        if self.typed is None:
            return self.told("Type the blank to subtract.", State.LOOK)
        bench.blank = Blank(self.typed, None, 0)
        self._take(bench, dict.fromkeys(bench.values, self.typed))
        other = " Other columns are left as they are." if bench.more else ""
        return self.told(f"**{bench.signal(self.typed)}**, typed, subtracted from every reading.{other}", State.PASS)

    def _reference(self, bench: Bench) -> StepOutcome:
        """What the same well reads elsewhere, such as at a wavelength at which the color does not absorb."""
        names = bench.channel_names()
        if self.reference not in names:
            has = ", ".join(names[1:]) or "none but the signal"
            return self.told(f"Choose the reference to subtract; these readings have {has}.", State.LOOK)
        at = names.index(self.reference)
        own = bench.values if at == 0 else bench.channel(at)
        bare = [id for id in bench.values if id not in own]
        for id in bare:
            bench.why_not.setdefault(id, f"no reading at {self.reference}")
            del bench.values[id]
        bench.blank = Blank(0.0, None, 0)
        self._take(bench, {id: own[id] for id in bench.values})
        lost = f" {len(bare)} without one are left out." if bare else ""
        return self.told(f"**{self.reference}** of the same place subtracted from every reading.{lost}",
                          State.LOOK if bare else State.PASS)  # fmt: skip

    def _by_scope(self, bench: Bench, ids: list[int], whole: Blank, trend: str) -> StepOutcome:
        place = self._places(bench)
        blanks: dict[Hashable, list[int]] = {}
        for id in ids:
            blanks.setdefault(place.get(id), []).append(id)

        def levels(values: dict[int, float]) -> dict[int, float]:
            own = {key: self._level(some, values).value for key, some in blanks.items()}
            run = self._level(ids, values).value
            return {id: own.get(place.get(id), run) for id in values}

        counted = {
            id for group in bench.layout.groups if self.scope != "own" or group.role in (Role.SAMPLE, Role.QC)
            for id in bench.used(group)
        }  # fmt: skip
        bare = {place.get(id) for id in counted} - blanks.keys()
        by_place = {key: self._level(some, bench.values) for key, some in blanks.items()}
        own_levels = list(by_place.values())
        bench.blanks = {**by_place, ALL: whole}
        bench.blank_of = {id: key if (key := place.get(id)) in by_place else ALL for id in bench.values}
        each = [level.value for level in own_levels]
        bench.blank = Blank(whole.value, _within(own_levels), whole.n)
        self._take_from_all(bench, levels)
        word = WORDS[self.scope]
        span = f"**{bench.signal(min(each))} to {bench.signal(max(each))}**"
        said = f"{self.statistic.capitalize()} of the blanks of each {word}, {span}, subtracted from its readings."
        if bare:
            many = f"{len(bare)} {word}{'s have' if len(bare) > 1 and word != 'series' else ' has'} no blank"
            said += f" {many}; the run's, {bench.signal(whole.value)}, is subtracted there."
        return self.told(said + trend, State.LOOK if bare or trend else State.PASS)

    def _places(self, bench: Bench) -> dict[int, Hashable]:
        """What each reading shares its blank with."""
        if self.scope == "series":
            return {id: group.series for group in bench.layout.groups for id in group.readings}
        if self.scope == "own":
            bare = {group.id: _whose(group.name) for group in bench.groups(Role.BLANK)}
            own = {group.id: bare.get(group.id, group.name.strip().casefold()) for group in bench.layout.groups}
            # Standards, and whatever has no blank of its own name, share the blanks that name nothing.
            named = set(bare.values())
            return {
                id: own[group.id] if own[group.id] in named else "" if "" in named else own[group.id]
                for group in bench.layout.groups for id in group.readings
            }  # fmt: skip
        return {id: (reading.plate, self._line(reading)) for id, reading in bench.by_id.items()}

    def _line(self, reading: Reading) -> int | None:
        if self.scope == "row":
            return reading.row
        if self.scope == "column":
            return reading.column
        return (reading.column or 0) // self.width if self.scope == "columns" else None

    def _take_from_all(self, bench: Bench, levels: Levels) -> None:
        """From the signal and, where columns are derived from corrected readings, from every other channel."""
        self._take(bench, levels(bench.values))
        for i, values in enumerate(bench.more):
            own = levels(values)
            bench.more[i] = {id: value - own[id] for id, value in values.items()}

    def _take(self, bench: Bench, levels: dict[int, float]) -> None:
        bench.values = {id: value - levels[id] for id, value in bench.values.items()}
        shown = {level: bench.signal(level) for level in set(levels.values())}
        same = f"− blank {next(iter(shown.values()))}" if len(shown) == 1 else ""
        for group in bench.layout.groups:
            if group.role is Role.BLANK or not bench.writes(group):
                continue
            label = same
            if not same:
                taken = {shown[levels[id]] for id in group.readings if id in levels}
                if len(taken) > 1:
                    own = tuple([shown[levels[id]] if id in levels else "—" for id in group.readings])
                    bench.note(group, self.kind, "Blanks", cells=own)
                label = f"− blank {taken.pop()}" if len(taken) == 1 else "− blanks"
            bench.note(group, self.kind, label, cells=bench.signals(group.readings))

    def _trend(self, bench: Bench, ids: list[int]) -> str:
        """Whether the blanks rise or fall in the order of the readings."""
        if len(ids) < ENOUGH or len({bench.values[id] for id in ids}) < ENOUGH:
            return ""
        try:
            p = drift([float(id) for id in ids], [bench.values[id] for id in ids]).p_value
        except ValueError:  # blanks of a size of which no line is fitted show no trend either
            return ""
        return f" The blanks drift along the run (p {p_value(p)})." if p is not None and p < DRIFTING else ""


def _whose(name: str) -> str:
    """The sample a blank is named after: "s1" of "S1 blank"; nobody's for "Blank 2"."""
    rest = _BLANK_WORD.sub("", name).strip().casefold()
    return "" if rest.isdigit() else rest


def _within(levels: list[Blank]) -> float | None:
    """The spread of blanks about the level of their own plate, row or series, pooled."""
    known = [(level.sd, level.n - 1) for level in levels if level.sd is not None and level.n > 1]
    df = sum(n for _, n in known)
    return math.sqrt(sum(n * sd * sd for sd, n in known) / df) if df else None


def _spread(blank: Blank) -> str:
    return f" ± {fixed(blank.sd, decimals_for(blank.sd))}" if blank.sd else ""
