"""Changes: what a person can do to a run, each as data, with the words the ledger keeps of it."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.core.numbers import Meaning
from dosis.core.rounding import given
from dosis.run.figure_changes import ApplyStyle, SetFigure
from dosis.run.laying_out import (
    ApplyLayout,
    AssignWells,
    ClearWells,
    Describe,
    DescribeWells,
    FillSeries,
    Ids,
    NumberSamples,
)
from dosis.run.layout import Dilution, Exclusion, Layout, Level, Name, Reason
from dosis.run.method import Method
from dosis.run.opening import neutral, opened
from dosis.run.place_changes import ExcludePoints, IncludePoints
from dosis.run.questions.registry import AnyStep, QuestionId, question_of
from dosis.run.readings import Readings
from dosis.run.record import Record
from dosis.run.roles import ROLES, Role
from dosis.run.steps.signal import SignalStep


class ChangeError(ValueError):
    """A change that does not apply to this run; the message says why."""


class Exclude(Record):
    """Leave readings out, with the reason."""

    kind: Literal["exclude"] = "exclude"
    readings: Ids
    reason: Reason

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with these readings excluded; a new reason replaces an old one."""
        _known(layout, self.readings)
        gone = set(self.readings)
        kept = tuple(e for e in layout.exclusions if e.at is not None or e.reading not in gone)
        added = tuple(Exclusion(reading=id, reason=self.reason.strip() or self.reason) for id in sorted(gone))
        return layout.having(exclusions=kept + added), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"Excluded {_named(readings, layout, self.readings)}: {self.reason}"


class Include(Record):
    """Take excluded readings in again."""

    kind: Literal["include"] = "include"
    readings: Ids

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout without these exclusions."""
        _known(layout, self.readings)
        back = set(self.readings)
        kept = tuple(e for e in layout.exclusions if e.at is not None or e.reading not in back)
        return layout.having(exclusions=kept), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"Included {_named(readings, layout, self.readings)} again"


class SetStep(Record):
    """Give a step of the working other choices."""

    kind: Literal["set_step"] = "set_step"
    step: AnyStep

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The method with that step in place of its kind."""
        try:
            return layout, method.with_step(self.step)
        except ValueError as error:
            raise ChangeError(str(error)) from error

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        before = next((step for step in method.steps if step.kind == self.step.kind), None)
        return self.step.words(before, layout.level.unit)


class SetQuestion(Record):
    """Ask the run something else: the layout keeps its names, series and levels, the working begins anew."""

    kind: Literal["set_question"] = "set_question"
    question: QuestionId

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """Layout and method as the question opens them with these readings."""
        if question_of(self.question).of_curves != (readings.axis is not None):
            raise ChangeError(
                "This question is put to readings of another kind. Bring the readings in again with it: “How it was "
                "understood” beside the readings opens the way in."
            )
        return opened(readings, neutral(layout, question_of(self.question).roles), self.question)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        asked, new = question_of(method.question), question_of(self.question)
        return f"Asked “{new.sentence}” ({new.by.lower()}) instead of “{asked.sentence}” ({asked.by.lower()})"


class PlaceSignal(Record):
    """Derive columns before or after the blank is subtracted."""

    kind: Literal["place_signal"] = "place_signal"
    after_blank: bool

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The method with its signal step in that place."""
        if not any(isinstance(step, SignalStep) for step in method.steps):
            method = method.with_step(SignalStep())
        return layout, method.with_signal(after_blank=self.after_blank)

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"Signal: {'after' if self.after_blank else 'before'} the blank"


class Assign(Record):
    """Say what groups are: role, name, level or dilution; what is not given stays."""

    kind: Literal["assign"] = "assign"
    groups: Annotated[tuple[str, ...], Field(min_length=1)]
    role: Role | None = None
    name: Name | None = None
    level: Level | None = None
    dilution: Dilution | None = None
    spike_of: Name | None = None
    replicate_of: Name | None = None

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with these groups changed."""
        chosen = set(self.groups)
        if not chosen <= {group.id for group in layout.groups}:
            raise ChangeError("A group named here is not in this run's layout.")
        facts = ("role", "name", "level", "dilution", "spike_of", "replicate_of")
        new = {k: v for k in facts if (v := getattr(self, k)) is not None}
        groups = tuple(g.model_copy(update=new) if g.id in chosen else g for g in layout.groups)
        return layout.having(groups=groups), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        names = [layout.group(id).name for id in self.groups]
        who = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        said = []
        if self.role:
            said.append(ROLES[self.role].name)
        if self.name is not None:
            said.append(f"name “{self.name}”")
        if self.level is not None:
            said.append(f"level {given(self.level)} {layout.level.unit}".rstrip())
        if self.dilution is not None:
            said.append(f"dilution × {given(self.dilution)}")
        if self.spike_of is not None:
            said.append(f"an addition to {self.spike_of}" if self.spike_of else "no addition")
        if self.replicate_of is not None:
            said.append(f"a preparation of {self.replicate_of}" if self.replicate_of else "a preparation by itself")
        return f"{who}: {', '.join(said) or 'no change'}"


class Rename(Record):
    """Give groups other names, one each."""

    kind: Literal["rename"] = "rename"
    groups: Annotated[tuple[str, ...], Field(min_length=1, max_length=100_000)]
    names: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=200)], ...], Field(max_length=100_000)]

    def apply(self, readings: Readings, layout: Layout, method: Method) -> tuple[Layout, Method]:
        """The layout with these groups renamed; a sample with an addition is still of the sample it was of."""
        if len(self.names) != len(self.groups):
            raise ChangeError(f"These are {len(self.names)} names for {len(self.groups)} rows from here on.")
        if not set(self.groups) <= {group.id for group in layout.groups}:
            raise ChangeError("A group named here is not in this run's layout.")
        new = dict(zip(self.groups, self.names, strict=True))
        called = {layout.group(id).name: name for id, name in new.items()}
        groups = tuple(
            group.model_copy(update={
                "name": new.get(group.id, group.name), "spike_of": called.get(group.spike_of, group.spike_of),
            })
            for group in layout.groups
        )  # fmt: skip
        return layout.having(groups=groups), method

    def words(self, readings: Readings, layout: Layout, method: Method) -> str:
        return f"{len(self.names)} rows named by a list, from “{self.names[0]}” on"


Change = Annotated[
    Exclude | Include | SetStep | SetQuestion | PlaceSignal | Assign | Rename
    | AssignWells | DescribeWells | FillSeries | NumberSamples | ClearWells | ApplyLayout | Describe
    | SetFigure | ApplyStyle | ExcludePoints | IncludePoints,
    Field(discriminator="kind"),
]  # fmt: skip


def _known(layout: Layout, ids: tuple[int, ...]) -> None:
    if unknown := sorted(set(ids) - layout.members):
        raise ChangeError(f"This run has no reading {unknown[0]}.")


def _named(readings: Readings, layout: Layout, ids: tuple[int, ...]) -> str:
    """ "Std 5 reading 2 (0.412)", or a count when there are many."""
    texts = {
        reading.id: reading.text.strip() for reading in readings.readings if reading.meaning is not Meaning.MISSING
    }
    places = {
        id: f"{group.name} reading {i} ({texts.get(id, 'missing')})"
        for group in layout.groups
        for i, id in enumerate(group.readings, start=1)
    }
    named = [places[id] for id in ids[:3] if id in places]
    return ", ".join(named) + (f" and {len(ids) - 3} more" if len(ids) > 3 else "")
