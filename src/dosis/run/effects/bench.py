"""The bench of questions about doses."""

from dataclasses import dataclass, field
from typing import ClassVar

from dosis.core.no_effect import NoEffect
from dosis.run.bench import Bench
from dosis.run.effects.effect import Effect
from dosis.run.outcome.comparison import Comparison


@dataclass(frozen=True)
class Shown:
    """NOEC and LOEC of a series, and what each dose, the control's first, came to."""

    name: str
    found: NoEffect
    texts: tuple[str, ...]


@dataclass
class EffectBench(Bench):
    """What each series does, and how series compare.

    interval : level of the intervals of the effect doses. against : of each series, its doses against the control.
    """

    on_log: ClassVar[bool] = True
    interval: float = 0.95
    effects: list[Effect] = field(default_factory=list)
    comparisons: list[Comparison] = field(default_factory=list)
    against: dict[str, Shown] = field(default_factory=dict)

    def differing_below(self, level: float | None = None) -> float:
        """p below which two are not the same, at this level or that of the effect doses; with no trace of binary."""
        return round(1 - (level or self.interval), 9)
