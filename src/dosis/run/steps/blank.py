"""Step: take the blank off every reading — that of the run, its plate, row, column or series, or a typed one."""

from collections.abc import Hashable
from typing import Literal

from dosis.core.blanks import Blank, blank_level, drift
from dosis.core.rounding import decimals_for, fixed, p_value
from dosis.run.layout import Group, Level, Role
from dosis.run.outcome import State, StepOutcome
from dosis.run.record import Record
from dosis.run.workbench import Workbench

DRIFTING, ENOUGH = 0.05, 5  # p of a trend over the blanks, and how many are needed to see one
WORDS = {"plate": "plate", "row": "row", "column": "column", "series": "series"}


class BlankStep(Record):
    """Subtract the mean or median of the blank readings in the same scope; a run without blanks goes through unchanged.

    typed : the level to take off when the scope is "typed".
    """

    kind: Literal["blank"] = "blank"
    on: bool = True
    statistic: Literal["mean", "median"] = "mean"
    scope: Literal["run", "plate", "row", "column", "series", "typed"] = "run"
    typed: Level | None = None

    def run(self, bench: Workbench) -> StepOutcome:
        """Correct every reading and write the level taken off into the working."""
        groups = bench.groups(Role.BLANK)
        ids = [id for group in groups for id in bench.used(group)]
        if not self.on:
            return self._said("Switched off. Readings go on as they came.", State.PASS)
        if self.scope == "typed":
            return self._typed(bench)
        if not ids:
            none = "No blanks in this run; nothing is taken off."
            lost = "No usable blank reading, so nothing is taken off. Check the blanks."
            return self._said(lost if groups else none, State.LOOK if groups else State.PASS)
        whole = blank_level([bench.values[id] for id in ids], self.statistic)
        bench.blank = whole
        trend = self._trend(bench, ids)
        if self.scope == "run":
            self._take(bench, dict.fromkeys(bench.values, whole))
            level = bench.signal(whole.value)
            readings = f"{whole.n} readings" if whole.n > 1 else "one reading"
            statistic = self.statistic.capitalize() + " of " if whole.n > 1 else "From "
            said = f"{statistic}{readings}, **{level}{_spread(whole)}**, taken off every reading."
            return self._said(said + trend, State.LOOK if trend else State.PASS)
        return self._by_scope(bench, ids, whole, trend)

    def _typed(self, bench: Workbench) -> StepOutcome:
        if self.typed is None:
            return self._said("Type the blank to take off.", State.LOOK)
        bench.blank = Blank(self.typed, None, 0)
        self._take(bench, dict.fromkeys(bench.values, bench.blank))
        return self._said(f"**{bench.signal(self.typed)}**, typed, taken off every reading.", State.PASS)

    def _by_scope(self, bench: Workbench, ids: list[int], whole: Blank, trend: str) -> StepOutcome:
        place = self._places(bench)
        blanks: dict[Hashable, list[float]] = {}
        for id in ids:
            blanks.setdefault(place.get(id), []).append(bench.values[id])
        levels = {key: blank_level(values, self.statistic) for key, values in blanks.items()}
        counted = {id for group in bench.layout.groups for id in bench.used(group)}
        bare = {place.get(id) for id in counted} - levels.keys()
        self._take(bench, {id: levels.get(place.get(id), whole) for id in bench.values})
        word, values = WORDS[self.scope], [blank.value for blank in levels.values()]
        span = f"**{bench.signal(min(values))} to {bench.signal(max(values))}**"
        said = f"{self.statistic.capitalize()} of the blanks of each {word}, {span}, taken off its readings."
        if bare:
            many = f"{len(bare)} {word}{'s have' if len(bare) > 1 and word != 'series' else ' has'} no blank"
            said += f" {many}; the run's, {bench.signal(whole.value)}, is taken off there."
        return self._said(said + trend, State.LOOK if bare or trend else State.PASS)

    def _places(self, bench: Workbench) -> dict[int, Hashable]:
        if self.scope == "series":
            return {id: group.series for group in bench.layout.groups for id in group.readings}
        return {
            id: (reading.plate, {"row": reading.row, "column": reading.column}.get(self.scope))
            for id, reading in bench.by_id.items()
        }

    def _take(self, bench: Workbench, blanks: dict[int, Blank]) -> None:
        bench.values = {id: value - blanks[id].value for id, value in bench.values.items()}
        for group in bench.layout.groups:
            if group.role is not Role.BLANK:
                self._note(bench, group, blanks)

    def _note(self, bench: Workbench, group: Group, blanks: dict[int, Blank]) -> None:
        levels = list(dict.fromkeys(bench.signal(blanks[id].value) for id in group.readings if id in blanks))
        if len(levels) > 1:
            own = tuple(bench.signal(blanks[id].value) if id in blanks else "—" for id in group.readings)
            bench.note(group, self.kind, "Blanks", cells=own)
        cells = tuple(bench.signal(bench.values[id]) if id in bench.values else "—" for id in group.readings)
        bench.note(group, self.kind, f"− blank {levels[0]}" if len(levels) == 1 else "− blanks", cells=cells)

    def _trend(self, bench: Workbench, ids: list[int]) -> str:
        """Whether the blanks rise or fall in the order of the readings."""
        if len(ids) < ENOUGH or len({bench.values[id] for id in ids}) < ENOUGH:
            return ""
        p = drift([float(id) for id in ids], [bench.values[id] for id in ids]).p_value
        return f" The blanks drift along the run (p {p_value(p)})." if p is not None and p < DRIFTING else ""

    def _said(self, sentence: str, state: State) -> StepOutcome:
        return StepOutcome(kind=self.kind, title="Blank", sentence=sentence, state=state)


def _spread(blank: Blank) -> str:
    return f" ± {fixed(blank.sd, decimals_for(blank.sd))}" if blank.sd else ""
