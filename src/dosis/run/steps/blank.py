"""Step: take the blank off every reading."""

from typing import Literal

from dosis.core.blanks import blank_level
from dosis.core.rounding import decimals_for, fixed
from dosis.run.layout import Role
from dosis.run.outcome import State, StepOutcome
from dosis.run.record import Record
from dosis.run.workbench import Workbench


class BlankStep(Record):
    """Subtract the mean or median of the run's blank readings; a run without blanks goes through unchanged."""

    kind: Literal["blank"] = "blank"
    on: bool = True
    statistic: Literal["mean", "median"] = "mean"

    def run(self, bench: Workbench) -> StepOutcome:
        """Correct every reading and write the level taken off into the working."""
        groups = bench.groups(Role.BLANK)
        ids = [id for group in groups for id in bench.used(group)]
        if not self.on:
            return self._said("Switched off. Readings go on as they came.", State.PASS)
        if not ids:
            if groups:
                return self._said("No usable blank reading, so nothing is taken off. Check the blanks.", State.LOOK)
            return self._said("No blanks in this run; nothing is taken off.", State.PASS)
        blank = blank_level([bench.values[id] for id in ids], self.statistic)
        bench.blank = blank
        bench.values = {id: value - blank.value for id, value in bench.values.items()}
        level = bench.signal(blank.value)
        for group in bench.layout.groups:
            cells = tuple(bench.signal(bench.values[id]) if id in bench.values else "—" for id in group.readings)
            if group.role is not Role.BLANK:
                bench.note(group, self.kind, f"− blank {level}", cells=cells)
        spread = f" ± {fixed(blank.sd, decimals_for(blank.sd))}" if blank.sd else ""
        readings = f"{blank.n} readings" if blank.n > 1 else "one reading"
        statistic = self.statistic.capitalize() + " of " if blank.n > 1 else "From "
        return self._said(f"{statistic}{readings}, **{level}{spread}**, taken off every reading.", State.PASS)

    def _said(self, sentence: str, state: State) -> StepOutcome:
        return StepOutcome(kind=self.kind, title="Blank", sentence=sentence, state=state)
