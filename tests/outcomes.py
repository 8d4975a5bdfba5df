"""The answers of an outcome row by row, as a test reads them."""

from dataclasses import dataclass
from typing import Any

from dosis.run.outcome.outcome import Outcome
from dosis.run.outcome.value import Value


@dataclass(frozen=True)
class Answer:
    """A row: what its head says, and the cells of columns by their ids; `shown_` before an id is a cell's text."""

    outcome: Outcome
    at: int

    def __getattr__(self, name: str) -> Any:
        row = self.outcome.answers.rows[self.at]
        if hasattr(row, name):
            return getattr(row, name)
        column = self.outcome.answers.column(name.removeprefix("shown_"))
        if name.startswith("shown_") or column.kind == "text":
            return column.texts[self.at]
        return column.value(self.at) if column.kind == "value" else column.values[self.at]

    def dose(self, percent: float, kind: str = "relative") -> Value:
        """The dose with that effect."""
        found = getattr(self, f"{kind}_{percent:g}")
        shown = getattr(self, f"shown_{kind}_{percent:g}")
        return found if isinstance(found, Value) else Value(value=found, shown=shown)

    @property
    def symbol(self) -> str:
        """What the leading dose is called: "IC" of "IC50 relative"."""
        return self.outcome.answers.leads[0].name[:2]

    @property
    def leading(self) -> Value:
        """What the run was asked for."""
        return self.outcome.answers.leads[0].value(self.at)


def answers(outcome: Outcome) -> list[Answer]:
    """Every row."""
    return [Answer(outcome, i) for i in range(len(outcome.answers.rows))]


def sent(opened: dict[str, Any]) -> list[Answer]:
    """The rows of a run as it came over the wire."""
    return answers(Outcome.model_validate(opened["revision"]["outcome"]))
