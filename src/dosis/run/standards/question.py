"""What concentration and additions have in common: a standard curve for the run, or for each plate or series."""

from abc import abstractmethod
from typing import ClassVar

from dosis.core.inference.result import Fit
from dosis.core.plan import Wanted
from dosis.run.gathering import gathered
from dosis.run.layout import Layout
from dosis.run.outcome.findings import Findings, Part
from dosis.run.outcome.told import Asked, Told
from dosis.run.outcome.working import WorkingLine
from dosis.run.questions.question import Question
from dosis.run.readings import Readings
from dosis.run.standards.answers import answer_table
from dosis.run.standards.bench import StandardBench
from dosis.run.standards.budget import BudgetStep, budget_columns, budget_table
from dosis.run.standards.curve import CurveStep
from dosis.run.standards.drawing import draw
from dosis.run.standards.parts import split, together
from dosis.run.standards.predict import told
from dosis.run.standards.verdict import conclude
from dosis.run.steps.step import Steps, one
from dosis.run.working import joined_working, whole_working, work

MANY = 1000  # groups up to which the working of all is written down; beyond, of one when it is looked at


class StandardQuestion(Question):
    """A question that is answered by standards of known level."""

    workplace: ClassVar[type[StandardBench]] = StandardBench
    own: ClassVar[Part]

    def bench(self, readings: Readings, layout: Layout) -> StandardBench:
        """A bench for the whole run."""
        return self.workplace(readings, layout)

    @abstractmethod
    def level(self, steps: Steps) -> float:
        """The level of the intervals of its answers."""

    def evaluate(self, readings: Readings, layout: Layout, steps: Steps, *, whole: bool) -> Findings:
        """Where plates or series have curves of their own, each by itself."""
        parts = split(readings, layout, one(steps, CurveStep).per)
        working_of = None if whole or len(layout.groups) <= MANY else frozenset[str]()
        found = [
            self._evaluate(readings, part.layout, steps, part.key, f"{i}." if len(parts) > 1 else "", working_of)
            for i, part in enumerate(parts)
        ]
        return found[0] if len(found) == 1 else together(readings, layout, parts, found)

    def _evaluate(
        self, readings: Readings, layout: Layout, steps: Steps, key: str, tag: str, working_of: frozenset[str] | None
    ) -> Findings:
        bench = work(self.workplace(readings, layout, tag, working_of=working_of), steps)
        step, unit = one(steps, BudgetStep), layout.level.unit
        answers = answer_table(
            bench, key, unit, self.level(steps), lambda groups: budget_columns(bench, step, groups, unit)
        )
        return gathered(
            bench, layout, curves=[draw(bench, one(steps, CurveStep), key)], answers=answers, part=self.own,
            further=budget_table(bench, step),
            verdict=conclude(bench.fit_problem, bench.steps, bench.checks, answers, laid_out=bool(layout.groups)),
        )  # fmt: skip

    def look_at_working(
        self, readings: Readings, layout: Layout, steps: Steps, id: str
    ) -> tuple[WorkingLine, ...] | None:
        """The working of one group of a large run, by the same steps from the same revision."""
        parts = split(readings, layout, one(steps, CurveStep).per)
        found = [
            whole_working(
                work(self.workplace(readings, part.layout, working_of=frozenset([id])), steps).working.items()
            )
            for part in parts
        ]
        return joined_working(found).get(id)

    def to_plan(self, readings: Readings, layout: Layout, steps: Steps, answer: str) -> tuple[str, Fit, Wanted] | None:
        """The concentration of a sample in its reading, on the curve it is read off."""
        for part in split(readings, layout, one(steps, CurveStep).per):
            bench = work(self.workplace(readings, part.layout), steps)
            group = next((group for group in bench.answered() if group.id == answer), None)
            value = bench.in_reading.get(answer)
            if group is None or value is None or value.value is None or value.value <= 0 or bench.turned:
                continue
            if bench.fit is None or bench.fit_problem:
                return None
            fit = bench.judged.fit if bench.judged else bench.fit
            own = bench.own_spreads.get(group.id)
            wanted = Wanted(
                level=value.value, readings=max(len(bench.used(group)), 1),
                variance=None if own is None else own.variance,
            )  # fmt: skip
            return group.name, fit, wanted
        return None

    def ask(self, readings: Readings, layout: Layout, steps: Steps, asked: Asked) -> Told:
        """Predict from the run's curve. Says why where it cannot."""
        parts = split(readings, layout, one(steps, CurveStep).per)
        part = next((part for part in parts if part.key == asked.curve), parts[0])
        return told(work(self.workplace(readings, part.layout), steps), asked)
