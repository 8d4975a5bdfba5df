"""How does one thing depend on another? A curve through any x and y, or a table read off."""

import re
from typing import ClassVar

from dosis.run.curves.own_equation import try_equation
from dosis.run.gathering import gathered
from dosis.run.layout import Group, Layout, named_series
from dosis.run.outcome.drawn import Curve
from dosis.run.outcome.equation import EquationAsked, EquationLook
from dosis.run.outcome.findings import Findings
from dosis.run.outcome.told import Asked, Told
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.question import Question
from dosis.run.questions.relation.bench import RelationBench
from dosis.run.questions.relation.checks import RelationChecksStep
from dosis.run.questions.relation.columns import ColumnsStep
from dosis.run.questions.relation.compare import CompareRelationsStep
from dosis.run.questions.relation.curve import RelationCurveStep
from dosis.run.questions.relation.drawing import draw_line, draw_relation
from dosis.run.questions.relation.part import RelationPart
from dosis.run.questions.relation.predict import PredictStep
from dosis.run.questions.relation.table import relation_table
from dosis.run.questions.relation.verdict import conclude
from dosis.run.readings import Readings
from dosis.run.roles import Role
from dosis.run.steps.step import Steps, one
from dosis.run.working import whole_working, work


def _name(group: Group) -> str:
    """A name that only counts rows gives way to the series; x stands beside it."""
    counted = re.fullmatch(r"(?:Standard|Sample|Dose) (\d+)", group.name)
    return group.name if counted is None else group.series or f"Point {counted[1]}"


class Relation(Question):
    """Any x and y."""

    id = "relation"
    sentence = "How does one thing depend on another?"
    by = "Curve through x and y"
    note = "Every row with an x is a point."
    steps = (ColumnsStep, RelationCurveStep, PredictStep, CompareRelationsStep, RelationChecksStep)
    roles = (Role.POINT, Role.UNUSED)
    levels = "x"
    one_level = "x"
    point = "point"
    unknowns = False
    column_words: ClassVar[dict[str, str]] = {"level": "x", "reading": "y"}
    part = RelationPart

    def asked(self, layout: Layout) -> Layout:
        """Whatever has an x is a point, a blank as well."""
        groups = [
            group.model_copy(update={
                "role": group.role if group.role is Role.UNUSED else Role.POINT,
                "name": _name(group),
            })
            for group in layout.groups
        ]  # fmt: skip
        return layout.model_copy(update={"groups": tuple(named_series(groups))})

    def bench(self, readings: Readings, layout: Layout) -> RelationBench:
        """A bench for the whole run."""
        return RelationBench(readings, layout)

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """All series on one bench, of which each has a curve."""
        bench = work(RelationBench(readings, layout), steps)
        step = one(steps, RelationCurveStep)
        curves = draw_relation(bench, step, whole=whole)
        units = {row.name: row.unit for curve in curves for row in curve.parameters}
        lines = list(bench.lines.values())
        answers = relation_table(lines, units, step.digits, step.level)
        return gathered(
            bench, layout, curves=curves, answers=answers, outliers=False, level_unit="",
            verdict=conclude(
                lines, bench.predictions, (bench.x_quantity.unit, bench.y_quantity.unit), bench.steps, bench.checks
            ),
            part=RelationPart(
                predictions=tuple(bench.predictions), comparisons=tuple(bench.comparisons),
                x_label=bench.x_quantity.label, y_label=bench.y_quantity.label,
            ),
        )  # fmt: skip

    def look_at_curve(
        self, readings: Readings, layout: Layout, steps: Steps, name: str
    ) -> tuple[Curve, dict[str, tuple[WorkingLine, ...]]] | None:
        """One curve of a wall, by the same steps from the same revision as made the wall."""
        bench = work(RelationBench(readings, layout), steps)
        curve = draw_line(bench, one(steps, RelationCurveStep), name)
        return None if curve is None else (curve, whole_working(bench.working.items()))

    def look_at_working(
        self, readings: Readings, layout: Layout, steps: Steps, id: str
    ) -> tuple[WorkingLine, ...] | None:
        """The working behind a number of one of many curves."""
        bench = work(RelationBench(readings, layout), steps)
        tag = f"{id.partition('.')[0]}."
        curve = one(steps, RelationCurveStep)
        for key in [line.key for line in bench.lines.values() if line.tag == tag]:
            draw_line(bench, curve, key)
        return whole_working(bench.working.items()).get(id)

    def look_at_equation(self, readings: Readings, layout: Layout, steps: Steps, asked: EquationAsked) -> EquationLook:
        """What an own equation would give on the points as they are taken in now."""
        bench = work(RelationBench(readings, layout), steps, before="relation_curve")
        one(steps, RelationCurveStep).sort(bench)
        line = bench.lines.get(asked.series) or next(iter(bench.lines.values()), None)
        return try_equation([], [], asked) if line is None else try_equation(line.x, line.y, asked)

    def ask(self, readings: Readings, layout: Layout, steps: Steps, asked: Asked) -> Told:
        """What the first curve says of an x or a y; a list of them is asked for in the step."""
        step = PredictStep(
            at_x=() if asked.level is None else (asked.level,), at_y=() if asked.signal is None else (asked.signal,)
        )
        bench = work(RelationBench(readings, layout), steps, before="predict")
        step.run(bench)
        if not bench.predictions:
            return Told(value=None, text="There is no curve yet.")
        found = bench.predictions[0]
        quantity = bench.y_quantity if found.asked == "x" else bench.x_quantity
        interval = (
            f"; 95 % of the curve {found.value.shown_lower} to {found.value.shown_upper}"
            if found.value.shown_lower
            else ""
        )
        text = f"{quantity.name} {found.value.shown} {quantity.unit}".rstrip() + interval
        return Told(value=found.value.value, text=f"{text}{f', {found.beyond}' if found.beyond else ''}")
