"""A method as it is kept: question, working, what stands where or is called how, and the readings it is for."""

from typing import Annotated, Literal

from pydantic import Field

from dosis.intake.understanding import Choices
from dosis.run.layout import Dilution, Level, Name, Quantity
from dosis.run.look import FigureLook
from dosis.run.method import Method
from dosis.run.questions.registry import AnyStep, QuestionId
from dosis.run.record import Record
from dosis.run.roles import Role
from dosis.run.saved_layout import SavedLayout

MethodName = Annotated[str, Field(min_length=1, max_length=120, pattern=r"\S")]
StepKind = Annotated[str, Field(max_length=40)]


class Named(Record):
    """What a name in a table stands for: a standard with its level, a blank, a QC. Samples go by the rest."""

    name: Name
    role: Role
    level: Level | None = None
    dilution: Dilution = 1.0
    series: Name = ""
    spike_of: Name = ""
    replicate_of: Name = ""


class Expected(Record):
    """The readings a method is for.

    along : what kind of axis readings that are curves go along; empty of single numbers. rows, columns : of the plate,
    None of tables. channels : what is read at each place, where it is more than one thing. levels, blanks, qcs : how
    many different levels of standards or doses, readings of blanks or controls, and known samples there are at least.
    """

    along: Literal["", "time", "wave", "record"] = ""
    rows: Annotated[int, Field(ge=1, le=32)] | None = None
    columns: Annotated[int, Field(ge=1, le=48)] | None = None
    channels: Annotated[tuple[Name, ...], Field(max_length=200)] = ()
    levels: Annotated[int, Field(ge=0, le=100_000)] = 0
    blanks: Annotated[int, Field(ge=0, le=100_000)] = 0
    qcs: Annotated[int, Field(ge=0, le=100_000)] = 0


class KeptMethod(Record):
    """A recipe with all that it takes to apply it to new readings.

    about : what it is for, in a paragraph; source : where it comes from. layout : of a plate, which well is what;
    names : of a table, what is called how. dilution : of samples that say none themselves. free : the kinds of steps an
    analyst may set otherwise without departing from the method. sections : of its runs' reports, all where none is
    named. reading : how its table is read.
    """

    name: MethodName
    about: Annotated[str, Field(max_length=4_000)] = ""
    source: Annotated[str, Field(max_length=1_000)] = ""
    question: QuestionId
    steps: tuple[AnyStep, ...]
    figure: FigureLook | None = None
    signal: Quantity = Quantity(name="")
    level: Quantity = Quantity(name="")
    layout: SavedLayout | None = None
    names: Annotated[tuple[Named, ...], Field(max_length=10_000)] = ()
    dilution: Dilution = 1.0
    expected: Expected = Expected()
    free: Annotated[tuple[StepKind, ...], Field(max_length=40)] = ()
    sections: Annotated[tuple[StepKind, ...], Field(max_length=40)] = ()
    reading: Choices = Choices()

    @property
    def method(self) -> Method:
        """The working alone."""
        return Method(steps=self.steps, question=self.question, figure=self.figure)

    def choices(self, chosen: Choices) -> Choices:
        """How readings are understood by it; what a person has chosen for these goes first."""
        mine = self.reading.model_dump(exclude_defaults=True)
        return Choices.model_validate({**mine, **chosen.model_dump(exclude_defaults=True), "question": self.question})
