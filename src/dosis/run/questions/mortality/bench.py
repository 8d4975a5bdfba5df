"""The bench of a mortality run."""

from dataclasses import dataclass, field

from dosis.core.quantal import QuantalFit
from dosis.core.rounding import given
from dosis.run.effects.bench import EffectBench
from dosis.run.layout import Group


@dataclass
class Treatment:
    """A series of counts on the bench: rows of (dose, affected, exposed) in rising order, and the line through them."""

    name: str
    groups: list[Group] = field(default_factory=list)
    rows: list[tuple[float, float, float]] = field(default_factory=list)
    fit: QuantalFit | None = None
    problem: str = ""
    tag: str = ""

    @property
    def columns(self) -> tuple[list[float], list[float], list[float]]:
        """Doses, affected and exposed."""
        return [row[0] for row in self.rows], [row[1] for row in self.rows], [row[2] for row in self.rows]


@dataclass
class CountBench(EffectBench):
    """counts : (affected, exposed) of each vessel. treatments : the series of counts, by name."""

    counts: dict[int, tuple[float, float]] = field(default_factory=dict)
    treatments: dict[str, Treatment] = field(default_factory=dict)

    def text_of(self, id: int) -> str:
        """ "3/20" of a vessel that was counted."""
        return "/".join(map(given, self.counts[id])) if id in self.counts else super().text_of(id)
