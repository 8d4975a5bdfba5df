"""Changes of a run's figure."""

from typing import Literal

from dosis.run.layout import Layout
from dosis.run.look import FigureLook, Style, styled, told
from dosis.run.method import Method
from dosis.run.readings import Readings
from dosis.run.record import Record

NAMED = 3  # choices that the ledger names; the others are counted


class SetFigure(Record):
    """Another look of the figure; the answers stay."""

    kind: Literal["set_figure"] = "set_figure"
    figure: FigureLook

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The method with that look."""
        return layout, method.model_copy(update={"figure": self.figure})

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        found = told(method.figure, self.figure)
        said = [f"{each.what.removeprefix('Figure · ')} {each.after or 'none'}"[:120] for each in found[:NAMED]]
        more = f" and {len(found) - NAMED} more" if len(found) > NAMED else ""
        return f"Figure: {', '.join(said)}{more}" if said else "Figure: as it opens"


class ApplyStyle(Record):
    """A saved style on the figure; its own words, ends and names stay."""

    kind: Literal["apply_style"] = "apply_style"
    style: Style

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The method with the figure in that style."""
        return layout, method.model_copy(update={"figure": styled(method.figure or FigureLook(), self.style)})

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"Figure: style “{self.style.name}”"
