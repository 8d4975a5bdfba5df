"""The bench of a relation: series of points, each with its curve."""

from dataclasses import dataclass, field

from dosis.core.inference.result import Fit
from dosis.core.interpolation import Interpolation
from dosis.run.bench import Bench
from dosis.run.layout import Group, Quantity
from dosis.run.outcome.comparison import Comparison
from dosis.run.outcome.drawn import Candidate, Suggestion
from dosis.run.questions.relation.part import Prediction
from dosis.run.roles import Role


@dataclass
class Line:
    """A series of points on the bench, those that are used one by one, and what was made of them.

    called : the name as a sentence begins with it, where there are several series; among : within a sentence.
    errors : of the points, None where one has none. table : what is read off where no curve is wanted.
    turn : where a curved y turns, how, and its p, once that has been looked at.
    """

    name: str
    key: str
    called: str = "y"
    among: str = "the points"
    groups: list[Group] = field(default_factory=list)
    ids: list[int] = field(default_factory=list)
    x: list[float] = field(default_factory=list)
    y: list[float] = field(default_factory=list)
    errors: list[float | None] = field(default_factory=list)
    fit: Fit | None = None
    table: Interpolation | None = None
    problem: str = ""
    tag: str = ""
    candidates: tuple[Candidate, ...] = ()
    comparison: str = ""
    suggestion: Suggestion | None = None
    turn: tuple[float, str, str] | None = None


@dataclass
class RelationBench(Bench):
    """x : of every reading, once the columns have been worked out; `x_quantity` and `y_quantity` are what they are.

    lines : the series, by key. left_out : readings that a window or a rule leaves out, and why.
    """

    x: dict[int, float] = field(default_factory=dict)
    x_quantity: Quantity = field(init=False)
    y_quantity: Quantity = field(init=False)
    lines: dict[str, Line] = field(default_factory=dict)
    left_out: dict[int, str] = field(default_factory=dict)
    predictions: list[Prediction] = field(default_factory=list)
    comparisons: list[Comparison] = field(default_factory=list)

    def __post_init__(self) -> None:
        super().__post_init__()
        self.x_quantity, self.y_quantity = self.layout.level, self.layout.signal

    def points(self) -> list[Group]:
        """Groups with an x, in the order of the table."""
        return sorted((g for g in self.groups(Role.POINT) if g.level is not None), key=self.place_of)

    def expected(self) -> dict[str, float]:
        """What points should read on their curves."""
        found: dict[str, float] = {}
        for line in self.lines.values():
            if line.fit is None:
                continue
            at = {group.id: self.x[group.readings[0]] for group in line.groups if group.readings[0] in self.x}
            if at:
                found |= dict(zip(at, line.fit.predict(list(at.values())).tolist(), strict=True))
        return found

    def aside(self) -> dict[int, str]:
        """Points that are left out by the window or by a rule."""
        return self.left_out
