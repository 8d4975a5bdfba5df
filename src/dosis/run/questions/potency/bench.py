"""The bench of a potency run."""

from dataclasses import dataclass, field
from typing import ClassVar

from dosis.core.arrays import Rows
from dosis.core.inference.result import Fit
from dosis.core.potency import Analysis, Combined
from dosis.core.potency.result import Potency
from dosis.run.bench import Bench
from dosis.run.layout import Group
from dosis.run.outcome.value import Value

NOTHING = Value()


def dose_of(group: Group) -> float:
    """What a group was given of the preparation itself: the dose as laid out, less what it was diluted before."""
    return (group.level or 0.0) / group.dilution


@dataclass
class Assay:
    """Readings that are analyzed together: all of the run, or those of a plate. Arrays have an entry for each reading.

    name : of the plate, empty where all is one assay. y : responses on the scale of the analysis.
    blocks : the number of every reading's block, for each way in which they are blocked. fits : of each preparation,
    with the shape they share, on the logarithm of dose where `logged`. crossed : whether the blocks are animals and
    the periods in which each had its treatments.
    """

    name: str
    ids: list[int]
    x: list[float]
    y: list[float]
    preparation: list[str]
    blocks: tuple[Rows, ...] = ()
    model: str = ""
    analysis: Analysis | None = None
    potencies: dict[str, Potency] = field(default_factory=dict)
    fits: dict[str, Fit] = field(default_factory=dict)
    error: str = ""
    problem: str = ""
    crossed: bool = False

    @property
    def logged(self) -> bool:
        """Whether its lines are on the logarithm of dose."""
        return self.model == "lines"

    def called(self, preparation: str) -> str:
        """A preparation in this assay, as curves and rows call it."""
        return f"{preparation} · {self.name}" if self.name else preparation

    def with_dose(self) -> "Assay":
        """The same of its readings with a dose above zero."""
        at = [i for i, x in enumerate(self.x) if x > 0]
        return Assay(
            self.name, [self.ids[i] for i in at], [self.x[i] for i in at], [self.y[i] for i in at],
            [self.preparation[i] for i in at], tuple(block[at] for block in self.blocks), self.model,
            crossed=self.crossed,
        )  # fmt: skip


@dataclass
class Sample:
    """A preparation beside the reference: its potency in each assay, and the one that all of them give.

    curve, tag : of its curve in the first assay, which also begin the ids of its working. log_error : the standard
    error of ln potency, with its degrees of freedom.
    """

    name: str
    curve: str
    tag: str
    groups: list[Group]
    each: list[tuple[Assay, Potency]] = field(default_factory=list)
    combined: Combined | None = None
    relative: Value = NOTHING
    potency: Value = NOTHING
    log_error: float | None = None
    degrees_of_freedom: int | None = None
    percent: Value = NOTHING
    problem: str = ""


@dataclass
class PotencyBench(Bench):
    """Assays, and what the preparations in them are worth.

    reference : the name of what the others stand beside. in_units : whether potencies are in `unit`, not relative only.
    """

    on_log: ClassVar[bool] = True
    interval: float = 0.95
    reference: str = ""
    unit: str = ""
    in_units: bool = False
    preparations: dict[str, list[Group]] = field(default_factory=dict)
    assays: list[Assay] = field(default_factory=list)
    samples: list[Sample] = field(default_factory=list)
    logged_response: bool = False

    @property
    def responses(self) -> dict[int, float]:
        """Readings on the scale of the analysis."""
        return {id: y for assay in self.assays for id, y in zip(assay.ids, assay.y, strict=True)} or self.values
