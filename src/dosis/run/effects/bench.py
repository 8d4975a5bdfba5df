"""The bench of questions about doses."""

from dataclasses import dataclass, field

from dosis.run.bench import Bench
from dosis.run.effects.effect import Effect
from dosis.run.outcome.comparison import Comparison


@dataclass
class EffectBench(Bench):
    """What each series does, and how series compare. interval : level of the intervals of the effect doses."""

    interval: float = 0.95
    effects: list[Effect] = field(default_factory=list)
    comparisons: list[Comparison] = field(default_factory=list)

    def differing_below(self, level: float | None = None) -> float:
        """p below which two are not the same, at this level or that of the effect doses; with no trace of binary."""
        return round(1 - (level or self.interval), 9)
