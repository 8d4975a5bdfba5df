"""Step: whether one curve serves several series."""

from typing import Literal

from dosis.run.curves.pairs import pair
from dosis.run.layout import Name
from dosis.run.outcome.step import StepOutcome
from dosis.run.outcome.value import State
from dosis.run.questions.relation.bench import RelationBench
from dosis.run.steps.step import Step

MOST = 40  # series up to which they are compared in pairs with one of them


class CompareRelationsStep(Step):
    """Hold each series against one of them, by the extra sum of squares (Bates & Watts 1988, 3.10)."""

    title = "Compare"
    kind: Literal["compare_relations"] = "compare_relations"
    on: bool = True
    reference: Name = ""

    def run(self, bench: RelationBench) -> StepOutcome:
        """Compare in pairs."""
        if not self.on:
            return self.told("Switched off.", State.PASS)
        fitted = {key: (line.name, line.fit) for key, line in bench.lines.items() if line.fit is not None}
        if len(fitted) < 2:
            return self.told("Fewer than two curves; there is nothing to compare.", State.PASS)
        if len(fitted) > MOST:
            return self.told(f"{len(fitted)} series are too many to compare in pairs.", State.PASS)
        reference = self.reference if self.reference in fitted else next(iter(fitted))
        others = [key for key in fitted if key != reference]
        for i, key in enumerate(others):
            bench.comparisons.append(pair(bench, fitted[reference], fitted[key], f"compare.{i}"))
        more = f" {len(others) - 1} more compared." if len(others) > 1 else ""
        return self.told(f"{bench.comparisons[0].text}{more}", State.PASS)
